import type { TrialContents } from '@canter/core/exchange'
import type { Reading } from './store.ts'

/** Everything a trial is, with the people it names; null when there is no such trial. */
export async function contentsOf(store: Pick<Reading, 'trials' | 'records' | 'people'>, trialId: string): Promise<TrialContents | null> {
  const file = await store.trials.file(trialId)
  if (!file) return null
  const records = await store.records.all(trialId)
  const named = new Set([
    ...records.map((record) => record.person),
    ...records.flatMap((record) => (record.type === 'reading' ? [record.observer] : [])),
    ...file.events.map((event) => event.person),
  ])
  return { ...file, records, people: await store.people.named([...named]) }
}
