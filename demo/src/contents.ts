import { firstVersions } from '@canter/core/document'
import type { Trial, TrialDraft, TrialEvent } from '@canter/core/trial'
import { CREW } from './people.ts'

/** A draft as a trial that has been begun. */
export function asTrial(draft: TrialDraft, id: string, createdAt: string): Trial {
  return { ...draft, id, version: 3, versions: firstVersions(draft), createdAt, deletedAt: null }
}

/** Begun, and laid out. */
export function history(newId: () => string, begun: string, laidOut: string, what: string): TrialEvent[] {
  const event = (kind: 'created' | 'randomised', at: string, said: string): TrialEvent => ({
    id: newId(),
    at,
    person: CREW.id,
    kind,
    section: null,
    reason: '',
    what: said,
    before: null,
    after: null,
    undoes: null,
  })
  return [event('created', begun, 'Trial begun'), event('randomised', laidOut, what)]
}
