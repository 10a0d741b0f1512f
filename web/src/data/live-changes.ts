import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

/** Hears of changes made elsewhere and asks for them. */
export function useLiveChanges(): void {
  const client = useQueryClient()
  useEffect(() => {
    const source = new EventSource('/api/changes')
    source.onmessage = (message: MessageEvent<string>) => {
      const { kind, trial } = JSON.parse(message.data) as { kind: string; trial: string }
      // The device's own store comes with the pages of a trial, not with the first page.
      if (kind === 'records') void import('./sync.ts').then(({ Sync }) => Sync.of(trial).wake())
      else void client.invalidateQueries({ queryKey: ['trial', trial] })
      void client.invalidateQueries({ queryKey: ['trials'] })
    }
    return () => source.close()
  }, [client])
}
