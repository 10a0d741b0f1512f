import type { Site } from '@canter/core/trial'
import { useCallback, useState } from 'react'
import { useSaving } from '../data/saving.ts'
import type { GroundPatch } from './plan-pointer.ts'

/** Saves what was done on the plan of one site, and turns it back and forth; `act` says whether it was kept, `problem` why not. */
export function useActs(site: Site) {
  const { save } = useSaving()
  const [problem, setProblem] = useState<string | null>(null)
  const [past, setPast] = useState<readonly { before: GroundPatch; after: GroundPatch }[]>([])
  const [next, setNext] = useState<readonly { before: GroundPatch; after: GroundPatch }[]>([])
  const put = useCallback(
    async (patch: GroundPatch): Promise<boolean> => {
      const fields = Object.fromEntries(Object.entries(patch).map(([field, value]) => [`ground.${field}`, value]))
      const saved = await save(`site:${site.key}`, fields)
      setProblem(saved.ok || saved.left ? null : saved.problem)
      return saved.ok
    },
    [save, site.key],
  )
  const act = useCallback(
    async (after: GroundPatch): Promise<boolean> => {
      const before = Object.fromEntries(Object.keys(after).map((field) => [field, site.ground[field as keyof GroundPatch]])) as GroundPatch
      const done = await put(after)
      if (done) {
        setPast((all) => [...all.slice(-60), { before, after }])
        setNext([])
      }
      return done
    },
    [put, site.ground],
  )
  const step = (from: typeof past, to: 'before' | 'after'): (() => void) | null => {
    const last = from.at(-1)
    if (!last) return null
    return () =>
      void put(last[to]).then((done) => {
        if (!done) return
        const [take, give] = to === 'before' ? [setPast, setNext] : [setNext, setPast]
        take((all) => all.slice(0, -1))
        give((all) => [...all, last])
      })
  }
  return { act, undo: step(past, 'before'), redo: step(next, 'after'), problem }
}
