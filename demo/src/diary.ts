import type { FieldRecord, Layout, Note, Reading, Trait, Unit } from '@canter/core/trial'

/** Writes the records a crew would have made, one after another, each a little later. */
export class Diary {
  readonly records: FieldRecord[] = []
  /** The visit whose readings are written. */
  visit: string
  readonly #newId: () => string
  readonly #person: string
  #time: number

  constructor(newId: () => string, person: string, start: string, visit: string) {
    this.visit = visit
    this.#newId = newId
    this.#person = person
    this.#time = Date.parse(start)
  }

  goTo(time: string): void {
    this.#time = Date.parse(time)
  }

  measure(unit: Unit, trait: Trait, value: number, more: Partial<Reading> = {}): Reading {
    const rounded = Number(value.toFixed(trait.decimals))
    const typed = rounded.toFixed(trait.decimals)
    const values: Partial<Record<Trait['kind'], Reading['value']>> = {
      score: { kind: 'score', value: rounded, typed },
      count: { kind: 'count', value: rounded, of: null, typed },
    }
    return this.#reading(unit, trait, values[trait.kind] ?? { kind: 'number', value: rounded, typed, typedMeasure: null }, more)
  }

  /** Less than can be told from none. */
  belowLimit(unit: Unit, trait: Trait, limit: number): Reading {
    return this.#reading(unit, trait, { kind: 'below limit', limit, typed: `< ${limit}`, typedMeasure: null }, {})
  }

  missing(unit: Unit, trait: Trait, reason: string, more: Partial<Reading> = {}): Reading {
    return this.#reading(unit, trait, { kind: 'missing', reason }, more)
  }

  note(unit: Unit | null, note: Pick<Note, 'kind' | 'flag' | 'text'> & { trait?: string }): void {
    this.records.push({
      type: 'note',
      ...this.#who(),
      unit: unit?.id ?? null,
      trait: note.trait ?? null,
      kind: note.kind,
      flag: note.flag,
      text: note.text,
    })
  }

  planted(layout: Layout, on: string, text: string): void {
    this.records.push({ type: 'operation', ...this.#who(), kind: 'planted', siteKey: layout.siteKey, on, text })
  }

  #reading(unit: Unit, trait: Trait, value: Reading['value'], more: Partial<Reading> = {}): Reading {
    const reading: Reading = {
      type: 'reading',
      ...this.#who(),
      unit: unit.id,
      trait: trait.key,
      visit: this.visit,
      sample: 1,
      observer: this.#person,
      value,
      supersedes: [],
      confirmed: false,
      ...more,
    }
    this.records.push(reading)
    return reading
  }

  #who() {
    this.#time += 23_000
    return { id: this.#newId(), at: new Date(this.#time).toISOString(), person: this.#person, device: 'field-tablet-2' }
  }
}
