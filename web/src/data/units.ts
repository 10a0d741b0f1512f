import type { UnitView } from '@canter/core/numbers'
import { useEffect, useState } from 'react'
import { book, useBookChange } from './book.ts'

const NONE: ReadonlyMap<string, UnitView> = new Map()

/** What the plan shows of every walked unit of a site; after a change only the units it touched are asked for again. */
export function useUnitViews(trial: string, site: string | null, visit: string, trait: string): ReadonlyMap<string, UnitView> {
  const change = useBookChange(trial)
  const [shown, setShown] = useState<{ key: string; count: number; views: ReadonlyMap<string, UnitView> }>()
  const key = `${trial} ${site ?? ''} ${visit} ${trait}`
  useEffect(() => {
    if (site === null) return
    let current = true
    const known = shown?.key === key && shown.count === change.count - 1 && change.units ? shown.views : null
    if (shown?.key === key && shown.count === change.count) return
    const only = known ? [...change.units!].filter((unit) => known.has(unit)) : null
    void book()
      .units(trial, site, visit, trait, only)
      .then(
        (views) => {
          if (!current) return
          const next = new Map(known ?? [])
          for (const view of views) next.set(view.unit, view)
          setShown({ key, count: change.count, views: next })
        },
        () => undefined,
      )
    return () => {
      current = false
    }
  }, [change, key, shown, site, trait, trial, visit])
  return shown?.key === key ? shown.views : NONE
}
