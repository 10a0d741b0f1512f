import { setImmediate } from 'node:timers/promises'

/** How many rows are gone through before others have their turn: a save takes several turns, and each must be short. */
const ROWS = 300

/** The same as a map, in turns with whoever else waits for this thread. */
export async function inTurns<Row, Made>(rows: readonly Row[], make: (row: Row) => Made): Promise<Made[]> {
  const made: Made[] = []
  for (let from = 0; from < rows.length; from += ROWS) {
    if (from > 0) await setImmediate()
    for (const row of rows.slice(from, from + ROWS)) made.push(make(row))
  }
  return made
}

/** Lets others have their turn between two long steps. */
export async function takeTurns(): Promise<void> {
  await setImmediate()
}
