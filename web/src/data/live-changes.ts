import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { tellSearch, type SearchProgress } from './search-progress.ts'

/** What the server tells, and `again`: the connection is back, and anything may have changed meanwhile. */
type Notice =
  | { readonly kind: 'trial' | 'records'; readonly trial: string }
  | ({ readonly kind: 'search' } & SearchProgress)
  | { readonly kind: 'again' }

const NAME = 'canter.changes'

/**
 * Hears of changes made elsewhere and asks for them. A browser allows a server few connections at
 * a time, so one of its pages listens for all of them; when that is closed another takes over.
 */
export function useLiveChanges(): void {
  const client = useQueryClient()
  useEffect(() => {
    const channel = new BroadcastChannel(NAME)
    const leaving = new AbortController()
    channel.onmessage = ({ data }: MessageEvent<Notice>) => take(client, data)
    const tell = (notice: Notice): void => {
      take(client, notice)
      channel.postMessage(notice)
    }
    const held = navigator.locks.request(NAME, { signal: leaving.signal }, () => listen(tell, leaving.signal))
    held.catch(() => undefined)
    return () => {
      leaving.abort()
      channel.close()
    }
  }, [client])
}

/** Until the page is left. */
function listen(tell: (notice: Notice) => void, leaving: AbortSignal): Promise<void> {
  return new Promise((done) => {
    const source = new EventSource('/api/changes')
    let opened = false
    source.onopen = () => {
      // The first page to listen has just loaded; whoever takes over, or comes back, may have missed something.
      if (opened) tell({ kind: 'again' })
      opened = true
    }
    source.onmessage = ({ data }: MessageEvent<string>) => tell(JSON.parse(data) as Notice)
    leaving.addEventListener('abort', () => {
      source.close()
      done()
    })
  })
}

function take(client: QueryClient, notice: Notice): void {
  // The device's own store comes with the pages of a trial, not with the first page.
  const wake = (trial: string | null): void => void import('./sync.ts').then(({ Sync }) => Sync.wakeOpen(trial))
  if (notice.kind === 'again') {
    wake(null)
    void client.invalidateQueries()
    return
  }
  if (notice.kind === 'search') {
    tellSearch(notice)
    return
  }
  if (notice.kind === 'records') wake(notice.trial)
  else void client.invalidateQueries({ queryKey: ['trial', notice.trial] })
  void client.invalidateQueries({ queryKey: ['trials'] })
}
