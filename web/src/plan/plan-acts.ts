import type { Ground, Site } from '@canter/core/trial'
import { useCallback, useState } from 'react'
import { useSaving } from '../data/saving.ts'
import type { Act, GroundPatch } from './plan-pointer.ts'

/** Saves what was done on the plan of one site, and turns it back and forth; `act` says whether it was kept, `problem` why not. */
export function useActs(site: Site) {
  const { save } = useSaving()
  const [problem, setProblem] = useState<string | null>(null)
  const [past, setPast] = useState<readonly { before: GroundPatch; after: GroundPatch }[]>([])
  const [next, setNext] = useState<readonly { before: GroundPatch; after: GroundPatch }[]>([])
  const put = useCallback(
    async (patchOf: (ground: Ground) => GroundPatch): Promise<boolean> => {
      const saved = await save(`site:${site.key}`, ({ sites }) => {
        const { ground } = sites.find(({ key }) => key === site.key) ?? site
        return Object.fromEntries(Object.entries(patchOf(ground)).map(([field, value]) => [`ground.${field}`, value]))
      })
      setProblem(saved.ok || saved.left ? null : saved.problem)
      return saved.ok
    },
    [save, site],
  )
  const act: Act = useCallback(
    async (patch) => {
      let step: { before: GroundPatch; after: GroundPatch } | null = null
      const done = await put((ground) => {
        const after = typeof patch === 'function' ? patch(ground) : patch
        step = { before: Object.fromEntries(Object.keys(after).map((field) => [field, ground[field as keyof GroundPatch]])), after }
        return after
      })
      const kept = step
      if (done && kept) {
        setPast((all) => [...all.slice(-60), kept])
        setNext([])
      }
      return done
    },
    [put],
  )
  const step = (from: typeof past, to: 'before' | 'after'): (() => void) | null => {
    const last = from.at(-1)
    if (!last) return null
    return () =>
      void put(() => last[to]).then((done) => {
        if (!done) return
        const [take, give] = to === 'before' ? [setPast, setNext] : [setNext, setPast]
        take((all) => all.slice(0, -1))
        give((all) => [...all, last])
      })
  }
  return { act, undo: step(past, 'before'), redo: step(next, 'after'), problem }
}
