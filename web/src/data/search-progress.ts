import { useSyncExternalStore } from 'react'

/** How far the search for a layout is, and how good the best plan it has. */
export interface SearchProgress {
  readonly trial: string
  readonly site: string
  readonly share: number
  readonly efficiency: number
}

const known = new Map<string, SearchProgress>()
const hearing = new Set<() => void>()

export function tellSearch(progress: SearchProgress): void {
  known.set(`${progress.trial} ${progress.site}`, progress)
  for (const each of hearing) each()
}

/** What was heard of the search at a site; null before anything was. A new search forgets the last. */
export function useSearchProgress(trial: string, site: string): SearchProgress | null {
  return useSyncExternalStore(subscribe, () => known.get(`${trial} ${site}`) ?? null)
}

export function forgetSearch(trial: string, site: string): void {
  known.delete(`${trial} ${site}`)
  for (const each of hearing) each()
}

function subscribe(hear: () => void): () => void {
  hearing.add(hear)
  return () => hearing.delete(hear)
}
