import { useMemo } from 'react'
import { useSlice } from './book.ts'

/** Units of a site that were lost or discarded by now. */
export function useGone(trial: string, site: string): ReadonlySet<string> {
  const gone = useSlice(trial, `gone ${site}`, (from) => from.gone(trial, site))
  return useMemo(() => new Set(gone), [gone])
}
