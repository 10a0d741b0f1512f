import type { UnitView } from '@canter/core/numbers'
import { useEffect, useState } from 'react'
import { book, onBookChange, whenAnswered } from './book.ts'

const NONE: ReadonlyMap<string, UnitView> = new Map()

/** What the plan shows of every walked unit of a site; after a change only the units it touched are asked for again. */
export function useUnitViews(trial: string, site: string | null, visit: string, trait: string): ReadonlyMap<string, UnitView> {
  const [shown, setShown] = useState<{ key: string; views: ReadonlyMap<string, UnitView> }>()
  const key = `${trial} ${site ?? ''} ${visit} ${trait}`
  useEffect(() => {
    if (site === null) return
    let current = true
    let known: { at: number; views: ReadonlyMap<string, UnitView> } | null = null
    const fetch = (): void => {
      whenAnswered(book().units(trial, site, visit, trait, known?.at ?? null), ({ at, whole, items }) => {
        if (!current) return
        const before = known?.views
        if (!whole && items.length === 0 && known) {
          known = { at, views: known.views }
          return
        }
        const views = new Map(whole ? [] : before)
        for (const view of items) views.set(view.unit, view)
        known = { at, views }
        setShown({ key, views })
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
