import { useSyncExternalStore } from 'react'

/** What this page cannot do at the moment, in words by what it is about; shown until it works again. */
const troubles = new Map<string, string>()
const listeners = new Set<() => void>()
let shown: readonly string[] = []

/** Null: it works again. */
export function tellTrouble(about: string, text: string | null): void {
  if ((troubles.get(about) ?? null) === text) return
  if (text === null) troubles.delete(about)
  else troubles.set(about, text)
  shown = [...troubles.values()]
  for (const listener of listeners) listener()
}

export function useTroubles(): readonly string[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => shown,
  )
}
