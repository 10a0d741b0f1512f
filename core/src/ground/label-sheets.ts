/** A sheet of labels as it is sold: measures in millimetres, from its left and upper edge. */
export interface LabelSheet {
  readonly key: string
  readonly name: string
  readonly paper: 'A4' | 'letter'
  readonly columns: number
  readonly rows: number
  readonly width: number
  readonly height: number
  readonly left: number
  readonly top: number
  /** From the beginning of one label to that of the next. */
  readonly across: number
  readonly down: number
}

/** Sizes of paper, mm. */
export const PAPERS = { A4: { width: 210, height: 297 }, A3: { width: 297, height: 420 }, letter: { width: 215.9, height: 279.4 } } as const
export type Paper = keyof typeof PAPERS

function sheet(paper: LabelSheet['paper'], columns: number, rows: number, width: number, height: number, gap = 0): LabelSheet {
  const { width: wide, height: high } = PAPERS[paper]
  const [across, down] = [width + gap, height]
  return {
    key: `${paper}-${columns}x${rows}`.toLowerCase(),
    name: `${columns * rows} on ${paper === 'A4' ? 'A4' : 'Letter'}, ${width} × ${height} mm`,
    paper,
    columns,
    rows,
    width,
    height,
    left: (wide - (columns * across - gap)) / 2,
    top: (high - rows * down) / 2,
    across,
    down,
  }
}

/** Sheets that can be bought in most places; adding one is a line here. */
export const LABEL_SHEETS: readonly LabelSheet[] = [
  sheet('A4', 3, 8, 70, 37),
  sheet('A4', 3, 7, 63.5, 38.1, 2.5),
  sheet('A4', 2, 7, 99.1, 38.1, 2.5),
  sheet('A4', 2, 4, 99.1, 67.7, 2.5),
  sheet('A4', 5, 13, 38.1, 21.2, 2.5),
  sheet('letter', 3, 10, 66.7, 25.4, 3.2),
  sheet('letter', 2, 5, 101.6, 50.8, 4),
]

/** Where a label lies on which page, mm; `used` labels of the first sheet are gone already. */
export function labelAt(
  { columns, rows, left, top, across, down }: LabelSheet,
  n: number,
  used: number,
): { page: number; x: number; y: number } {
  const place = n + Math.min(Math.max(0, used), columns * rows - 1)
  const on = place % (columns * rows)
  return { page: Math.floor(place / (columns * rows)), x: left + (on % columns) * across, y: top + Math.floor(on / columns) * down }
}
