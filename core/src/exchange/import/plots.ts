import type { OddRow } from './said.ts'

export type Marks = Readonly<Record<string, string>>

/** A plot of the table: where it stands and what it is marked with. */
export interface PlacedRow {
  readonly line: number
  readonly site: string
  readonly visit: string
  readonly kind: string
  readonly code: string
  readonly block: string
  readonly main: string
  readonly bench: string
  readonly liesIn: string
  readonly row: number | null
  readonly column: number | null
  readonly x: number | null
  readonly y: number | null
  readonly width: number | null
  readonly length: number | null
  readonly turn: number | null
  readonly walk: number | null
  readonly marks: Marks
  /** As planned, where the table tells it apart. */
  readonly planned: Marks | null
}

/** A plot with the lines it stands on, each with the number of the sample it holds. */
export interface Plot extends PlacedRow {
  readonly lines: ReadonlyMap<number, number>
}

/** Several rows of one number are visits or samples of one plot, where they were treated alike. */
export function distinctPlots(rows: readonly PlacedRow[], odd: OddRow[]): Plot[] {
  const found = new Map<string, Plot>()
  const counts = new Map<string, number>()
  for (const row of rows) {
    const key = row.code === '' ? `line ${row.line}` : `${row.site}|${row.code}`
    const known = found.get(key)
    if (!known) {
      found.set(key, { ...row, lines: new Map([[row.line, 1]]) })
      counts.set(`${key}|${row.visit}`, 1)
      continue
    }
    if (JSON.stringify(known.marks) !== JSON.stringify(row.marks) || known.block !== row.block) {
      odd.push({ line: row.line, text: `${row.code} stands on line ${known.line} already, with another ${known.block === row.block ? 'treatment' : 'block'}.`, effect: 'left out' }) // prettier-ignore
      continue
    }
    const sample = (counts.get(`${key}|${row.visit}`) ?? 0) + 1
    counts.set(`${key}|${row.visit}`, sample)
    if (sample === 2)
      odd.push({
        line: row.line,
        text: `${row.code} stands on line ${known.line} already: its rows are samples of one plot.`,
        effect: 'read as',
      })
    ;(known.lines as Map<number, number>).set(row.line, sample)
  }
  return [...found.values()]
}

/** Plots of a block as one finds them: by number where all have one, else as they are listed. */
export function inOrder(plots: readonly Plot[]): readonly Plot[] {
  const numbers = plots.map((plot) => Number(plot.code))
  return plots.every((plot) => plot.code !== '') && numbers.every(Number.isFinite)
    ? [...plots].sort((a, b) => Number(a.code) - Number(b.code))
    : plots
}

export function groupsOf(plots: readonly Plot[], by: (plot: Plot) => string): Plot[][] {
  const groups = new Map<string, Plot[]>()
  for (const plot of plots) groups.set(by(plot), [...(groups.get(by(plot)) ?? []), plot])
  return [...groups.values()]
}

export const dealt = (plot: Plot): Marks => plot.planned ?? plot.marks
