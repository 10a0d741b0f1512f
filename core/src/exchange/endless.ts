import { FileError } from './table.ts'

/** Most rows and cells of a table: far above any trial, far below what would fill a memory. */
const MOST_ROWS = 500_000
const MOST_CELLS = 6_000_000

/** Counts line ends and marks between cells before anything is made of them. Throws FileError. */
export function refuseEndless(file: string, content: Uint8Array): void {
  let [rows, marks] = [0, 0]
  for (const byte of content) {
    if (byte === 10 || byte === 13) rows++
    else if (byte === 44 || byte === 59 || byte === 9 || byte === 34) marks++
  }
  if (rows > MOST_ROWS) throw new FileError(file, `it has more than ${MOST_ROWS / 1000} 000 lines; no trial is that large.`)
  if (marks > MOST_CELLS) throw new FileError(file, `it has more than ${MOST_CELLS / 1_000_000} million cells; no trial is that large.`)
}
