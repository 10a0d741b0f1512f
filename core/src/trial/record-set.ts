import type { Fate, FieldRecord, Note, Operation, Reading } from './record-kind/index.ts'

/** Where readings of one thing meet: a unit, a trait, a visit. */
export function cellKey(unit: string, trait: string, visit: string): string {
  return `${unit}|${trait}|${visit}`
}

/** Within a cell: readings of one sample by one observer are of one key. */
export function readingKey(reading: Pick<Reading, 'sample' | 'observer'>): string {
  return `${reading.sample}|${reading.observer}`
}

export interface Changed {
  /** Readings' cells that may say something else now. */
  readonly cells: ReadonlySet<string>
  /** Units whose notes may. */
  readonly notes: ReadonlySet<string>
  /** Units to which something else may have happened. */
  readonly fates: ReadonlySet<string>
  readonly operations: boolean
}

/**
 * Append-only records and what stands of them: rows neither taken back nor superseded by a row
 * that stands. Taking back a correction brings the value it corrected back. What stands depends
 * on the set of rows alone, not on their order, so devices that have the same rows agree. Rows
 * may come one by one: each says which cells it touched.
 */
export class RecordSet {
  readonly #byId = new Map<string, FieldRecord>()
  readonly #retractions = new Map<string, Set<string>>()
  readonly #corrections = new Map<string, Set<string>>()
  readonly #cells = new Map<string, Set<string>>()
  readonly #notes = new Map<string, Set<string>>()
  readonly #fates = new Map<string, Set<string>>()
  readonly #operations = new Set<string>()

  constructor(records: Iterable<FieldRecord> = []) {
    this.add(records)
  }

  get size(): number {
    return this.#byId.size
  }

  all(): IterableIterator<FieldRecord> {
    return this.#byId.values()
  }

  get(id: string): FieldRecord | undefined {
    return this.#byId.get(id)
  }

  add(records: Iterable<FieldRecord>): Changed {
    const fresh = [...records].filter((record) => {
      if (this.#byId.has(record.id)) return false
      this.#byId.set(record.id, record)
      return true
    })
    for (const record of fresh) this.#index(record)
    return this.#touched(fresh)
  }

  /** Takes rows out as if they had never come: those the server would not take. */
  remove(ids: Iterable<string>): Changed {
    const gone = [...ids].flatMap((id) => this.#byId.get(id) ?? [])
    const changed = this.#touched(gone)
    for (const record of gone) {
      this.#byId.delete(record.id)
      if (record.type === 'reading') {
        const cell = cellKey(record.unit, record.trait, record.visit)
        const ids = this.#cells.get(cell)
        ids?.delete(record.id)
        if (ids?.size === 0) this.#cells.delete(cell)
        for (const id of record.supersedes) this.#corrections.get(id)?.delete(record.id)
      } else if (record.type === 'note') this.#notes.get(record.unit ?? '')?.delete(record.id)
      else if (record.type === 'fate') this.#fates.get(record.unit)?.delete(record.id)
      else if (record.type === 'operation') this.#operations.delete(record.id)
      else this.#retractions.get(record.retracts)?.delete(record.id)
    }
    return changed
  }

  /** Standing readings of a cell by key; more than one under a key is a conflict, never settled by the clock. */
  readings(cell: string): Map<string, Reading[]> {
    const found = new Map<string, Reading[]>()
    for (const id of this.#cells.get(cell) ?? []) {
      if (!this.#stands(id) || this.#superseded(id)) continue
      const reading = this.#byId.get(id) as Reading
      const key = readingKey(reading)
      found.set(key, [...(found.get(key) ?? []), reading])
    }
    for (const rows of found.values()) if (rows.length > 1) rows.sort((a, b) => (a.id < b.id ? -1 : 1))
    return found
  }

  cells(): IterableIterator<string> {
    return this.#cells.keys()
  }

  notes(unit: string | null): Note[] {
    return this.#standing<Note>(this.#notes.get(unit ?? '') ?? [])
  }

  /** What happened to a unit itself, in the order it was put on record. */
  fates(unit: string): Fate[] {
    return this.#standing<Fate>(this.#fates.get(unit) ?? [])
  }

  /** Units of which any fate is on record, standing or not. */
  fated(): IterableIterator<string> {
    return this.#fates.keys()
  }

  operations(): Operation[] {
    return this.#standing<Operation>(this.#operations)
  }

  #standing<Kind extends Note | Operation | Fate>(ids: Iterable<string>): Kind[] {
    return [...ids]
      .filter((id) => this.#stands(id))
      .map((id) => this.#byId.get(id) as Kind)
      .sort((a, b) => (a.at === b.at ? (a.id < b.id ? -1 : 1) : a.at < b.at ? -1 : 1))
  }

  #index(record: FieldRecord): void {
    if (record.type === 'reading') {
      put(this.#cells, cellKey(record.unit, record.trait, record.visit), record.id)
      for (const id of record.supersedes) put(this.#corrections, id, record.id)
    } else if (record.type === 'note') put(this.#notes, record.unit ?? '', record.id)
    else if (record.type === 'fate') put(this.#fates, record.unit, record.id)
    else if (record.type === 'operation') this.#operations.add(record.id)
    else put(this.#retractions, record.retracts, record.id)
  }

  #superseded(id: string): boolean {
    for (const by of this.#corrections.get(id) ?? []) if (this.#stands(by)) return true
    return false
  }

  /**
   * Not retracted by a retraction that itself stands. Retractions of retractions may form long
   * chains, so this walks and does not call itself; a ring, which no client makes, counts as standing.
   */
  #stands(id: string): boolean {
    if (!this.#retractions.get(id)?.size) return true
    const known = new Map<string, boolean>()
    const path = [id]
    const open = new Set(path)
    while (path.length > 0) {
      const at = path.at(-1)!
      const by = [...(this.#retractions.get(at) ?? [])]
      const next = by.find((each) => !known.has(each) && !open.has(each))
      if (next !== undefined && !by.some((each) => known.get(each))) {
        path.push(next)
        open.add(next)
        continue
      }
      known.set(at, !by.some((each) => known.get(each) ?? open.has(each)))
      open.delete(at)
      path.pop()
    }
    return known.get(id)!
  }

  #touched(records: readonly FieldRecord[]): Changed {
    const cells = new Set<string>()
    const notes = new Set<string>()
    const fates = new Set<string>()
    let operations = false
    const seen = new Set<string>()
    const waiting = [...records]
    for (let record = waiting.pop(); record; record = waiting.pop()) {
      if (seen.has(record.id)) continue
      seen.add(record.id)
      if (record.type === 'reading') {
        cells.add(cellKey(record.unit, record.trait, record.visit))
        for (const id of record.supersedes) {
          const other = this.#byId.get(id)
          if (other?.type === 'reading') cells.add(cellKey(other.unit, other.trait, other.visit))
        }
      } else if (record.type === 'note') notes.add(record.unit ?? '')
      else if (record.type === 'fate') fates.add(record.unit)
      else if (record.type === 'operation') operations = true
      else {
        const other = this.#byId.get(record.retracts)
        if (other) waiting.push(other)
      }
    }
    return { cells, notes, fates, operations }
  }
}

function put(map: Map<string, Set<string>>, key: string, value: string): void {
  const found = map.get(key)
  if (found) found.add(value)
  else map.set(key, new Set([value]))
}
