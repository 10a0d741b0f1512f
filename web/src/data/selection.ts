import { useCallback } from 'react'
import { useSearchParams } from 'react-router'

/** What is selected in a trial: kept in the address, so that a reload, a link and the next step find it again. */
export interface Selection {
  readonly get: (key: SelectionKey) => string | null
  /** Null lets go of it. */
  readonly set: (patch: Partial<Record<SelectionKey, string | null>>) => void
}

export type SelectionKey =
  | 'plot'
  | 'trait'
  | 'site'
  | 'visit'
  | 'only'
  | 'method'
  | 'observer'
  | 'sites'
  | 'visits'
  | 'school'
  | 'rates'
  | 'pass'
  | 'by'
  | 'as'
  | 'sheet'
  | 'used'
  | 'bare'

/** What stays selected from step to step. */
const KEPT: readonly SelectionKey[] = ['plot', 'trait', 'site', 'visit']

export function useSelection(): Selection {
  const [search, setSearch] = useSearchParams()
  const set = useCallback(
    (patch: Partial<Record<SelectionKey, string | null>>) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before)
          for (const [key, value] of Object.entries(patch)) {
            if (value === null) next.delete(key)
            else next.set(key, value)
          }
          return next
        },
        // At once: a plot picked or come to must not wait behind what is being worked out.
        { replace: true, flushSync: true },
      ),
    [setSearch],
  )
  return { get: (key) => search.get(key), set }
}

export function keptSearch(search: URLSearchParams): string {
  const kept = new URLSearchParams()
  for (const key of KEPT) {
    const value = search.get(key)
    if (value) kept.set(key, value)
  }
  return kept.toString()
}
