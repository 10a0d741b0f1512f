import { firstVersions } from '../../document/index.ts'
import { traitKind, type FieldRecord, type Person, type Trial, type TrialEvent } from '../../trial/index.ts'
import type { TrialContents } from '../contents.ts'
import type { Understood } from './layout.ts'

/** Who takes a table over, and when. */
interface Signed {
  readonly person: Pick<Person, 'id' | 'name'>
  readonly at: string
  readonly device: string
  /** Of the file, for the history. */
  readonly source: string
  readonly newId: () => string
}

/** A whole trial out of a table as it was understood and confirmed: facts, layouts, readings, notes and where they came from. */
export function importedContents(understood: Understood, { person, at, device, source, newId }: Signed): TrialContents {
  const { draft, layouts } = understood
  const trial: Trial = { ...draft, id: newId(), version: 1, versions: firstVersions(draft), createdAt: at, deletedAt: null }
  const who = () => ({ id: newId(), at, person: person.id, device })
  const traits = new Map(trial.traits.observed.map((trait) => [trait.key, trait]))
  const readings = understood.values.flatMap(({ unit, trait: key, visit, cell, sample }): FieldRecord[] => {
    const trait = traits.get(key)!
    const read = traitKind(trait.kind).read(cell, trait, 'metric')
    const value = read.ok
      ? read.value
      : trait.kind === 'yes/no'
        ? ({ kind: 'yes/no', value: /^(?:yes|y|true)$/i.test(cell) } as const)
        : null
    if (!value) return []
    return [{ type: 'reading', ...who(), unit, trait: key, visit, sample, observer: person.id, value, supersedes: [], confirmed: false }]
  })
  const note = (unit: string, kind: 'left out' | 'remark', text: string): FieldRecord => ({
    type: 'note',
    ...who(),
    unit,
    trait: null,
    kind,
    flag: null,
    text: text.slice(0, 2000),
  })
  const records = [
    ...readings,
    ...understood.leftOut.map(({ unit, text }) => note(unit, 'left out', text)),
    ...understood.notes.map(({ unit, text }) => note(unit, 'remark', text)),
  ]
  const event: TrialEvent = {
    id: newId(),
    at,
    person: person.id,
    kind: 'imported',
    section: null,
    reason: '',
    what: `Taken over from ${source}`,
    before: null,
    after: null,
    undoes: null,
  }
  return { trial, layouts, records, events: [event], people: [person] }
}
