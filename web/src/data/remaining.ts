import type { Left, Remaining } from '@canter/core/amounts'
import { useMemo } from 'react'
import { useSlice } from './book.ts'

/** Of the units of a site that are not whole any more what remains, and since when. The same map while nothing of it changes. */
export function useRemaining(trial: string, site: string | null): Remaining {
  const left = useSlice(trial, site === null ? null : `remaining ${site}`, (from) => from.remaining(trial, site!))
  const said = JSON.stringify(left ?? [])
  return useMemo(() => new Map(JSON.parse(said) as [string, readonly Left[]][]), [said])
}
