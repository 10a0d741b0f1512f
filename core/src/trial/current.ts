import type { FieldRecord, Note, Operation, Reading, Retraction } from './record.ts'

export function readingKey(reading: Pick<Reading, 'unit' | 'trait' | 'occasion' | 'replicate' | 'observer'>): string {
  return [reading.unit, reading.trait, reading.occasion, reading.replicate, reading.observer].join('|')
}

export interface CurrentRecords {
  /** The standing reading of each key. A key in conflict is not here. */
  readonly readings: ReadonlyMap<string, Reading>
  /** Keys with more than one standing reading: shown, never settled by the clock. */
  readonly conflicts: ReadonlyMap<string, readonly Reading[]>
  readonly notes: readonly Note[]
  readonly operations: readonly Operation[]
}

/**
 * What stands of an append-only list: rows neither taken back nor superseded by a row that
 * stands. Taking back a correction brings the value it corrected back. Depends on the set
 * of rows alone, not on their order, so devices that have the same rows agree.
 */
export function currentRecords(records: readonly FieldRecord[]): CurrentRecords {
  const standing = effective(records)
  const superseded = new Set<string>()
  for (const record of standing) if (record.type === 'reading') record.supersedes.forEach((each) => superseded.add(each))

  const byKey = new Map<string, Reading[]>()
  const notes: Note[] = []
  const operations: Operation[] = []
  for (const record of standing) {
    if (record.type === 'note') notes.push(record)
    else if (record.type === 'operation') operations.push(record)
    else if (record.type === 'reading' && !superseded.has(record.id)) {
      const at = readingKey(record)
      byKey.set(at, [...(byKey.get(at) ?? []), record])
    }
  }
  const readings = new Map<string, Reading>()
  const conflicts = new Map<string, readonly Reading[]>()
  for (const [at, rows] of byKey) {
    if (rows.length === 1) readings.set(at, rows[0]!)
    else
      conflicts.set(
        at,
        [...rows].sort((a, b) => a.id.localeCompare(b.id)),
      )
  }
  const inTime = <T extends { at: string; id: string }>(a: T, b: T) => a.at.localeCompare(b.at) || a.id.localeCompare(b.id)
  return { readings, conflicts, notes: notes.sort(inTime), operations: operations.sort(inTime) }
}

/** Rows that are not retracted by a retraction that itself stands. */
function effective(records: readonly FieldRecord[]): FieldRecord[] {
  const unique = new Map(records.map((record) => [record.id, record]))
  const retractionsOf = new Map<string, Retraction[]>()
  for (const record of unique.values()) {
    if (record.type === 'retraction') retractionsOf.set(record.retracts, [...(retractionsOf.get(record.retracts) ?? []), record])
  }
  const known = new Map<string, boolean>()
  // A chain of retractions is walked once; a ring, which no client makes, counts as standing.
  const stands = (id: string): boolean => {
    const answer = known.get(id)
    if (answer !== undefined) return answer
    known.set(id, true)
    const result = !(retractionsOf.get(id) ?? []).some((each) => stands(each.id))
    known.set(id, result)
    return result
  }
  return [...unique.values()].filter((record) => stands(record.id))
}
