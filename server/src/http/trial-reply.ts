import type { TrialFile } from '@canter/core/trial'
import type { WorkThreads } from '../long-work/work-threads.ts'
import { JsonText } from '../json-text.ts'
import type { Store } from '../store/store.ts'

/** A trial with layouts and history: a large one is read and written out beside. Null when there is no such trial. */
export async function trialReply(store: Store, threads: WorkThreads, trial: string): Promise<TrialFile | JsonText | null> {
  if (!(await store.trials.isLarge(trial))) return store.trials.file(trial)
  const text = await threads.changing.ask('trial', trial)
  return text === null ? null : new JsonText(text)
}
