import type { UnitView } from '@canter/core/numbers'
import { useEffect, useState } from 'react'
import { book, bookChange, onBookChange, whenAnswered } from './book.ts'

const NONE: ReadonlyMap<string, UnitView> = new Map()

/** What the plan shows of every walked unit of a site; after a change only the units it touched are asked for again. */
export function useUnitViews(trial: string, site: string | null, visit: string, trait: string): ReadonlyMap<string, UnitView> {
  const [shown, setShown] = useState<{ key: string; views: ReadonlyMap<string, UnitView> }>()
  const key = `${trial} ${site ?? ''} ${visit} ${trait}`
  useEffect(() => {
    if (site === null) return
    let current = true
    let known: ReadonlyMap<string, UnitView> | null = null
    const fetch = (): void => {
      const { units } = bookChange(trial)
      // Before the first answer there is nothing that only a part could be put into.
      const only = known && units ? [...units].filter((unit) => known!.has(unit)) : null
      if (only?.length === 0) return
      whenAnswered(book().units(trial, site, visit, trait, only), (views) => {
        if (!current) return
        const next = new Map(only && known ? known : [])
        for (const view of views) next.set(view.unit, view)
        known = next
        setShown({ key, views: next })
      })
    }
    fetch()
    const leave = onBookChange(trial, fetch)
    return () => {
      current = false
      leave()
    }
  }, [key, site, trait, trial, visit])
  return shown?.key === key ? shown.views : NONE
}
