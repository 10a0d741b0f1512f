interface Placed {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly length: number
  /** Plots of different sites are no neighbours. */
  readonly site: number | string
}

/** A gap up to this share of a plot's own side (an alley, a guard row) still leaves two plots neighbours. */
const GAP = 0.75

const AROUND = [-1, 0, 1].flatMap((i) => [-1, 0, 1].map((j) => [i, j] as const))

/** Pairs of plots that lie side by side or end to end on the plan, by their places in the list. */
export function neighbours(plots: readonly Placed[]): (readonly [number, number])[] {
  // Squares as large as the largest plot and its gap: a neighbour lies in the same square or the next.
  let [width, length] = [0, 0]
  for (const plot of plots) {
    width = Math.max(width, plot.width * (1 + GAP))
    length = Math.max(length, plot.length * (1 + GAP))
  }
  const key = (site: number | string, column: number, row: number): string => `${column} ${row} ${site}`
  const squareOf = (plot: Placed) => [Math.floor(plot.x / width), Math.floor(plot.y / length)] as const
  const squares = new Map<string, number[]>()
  plots.forEach((plot, i) => {
    const at = key(plot.site, ...squareOf(plot))
    const known = squares.get(at)
    if (known) known.push(i)
    else squares.set(at, [i])
  })
  const pairs: (readonly [number, number])[] = []
  plots.forEach((plot, a) => {
    const [column, row] = squareOf(plot)
    // A set, since beyond the whole numbers a double holds the next square is the same.
    const around = new Set(AROUND.map(([i, j]) => key(plot.site, column + i, row + j)))
    for (const square of around) for (const b of squares.get(square) ?? []) if (a < b && touch(plot, plots[b]!)) pairs.push([a, b])
  })
  return pairs
}

function touch(a: Placed, b: Placed): boolean {
  const width = Math.min(a.width, b.width)
  const length = Math.min(a.length, b.length)
  const [gapX, gapY] = [Math.abs(a.x - b.x) - (a.x < b.x ? a.width : b.width), Math.abs(a.y - b.y) - (a.y < b.y ? a.length : b.length)]
  const [sideX, sideY] = [-gapX >= width / 2, -gapY >= length / 2]
  return (sideX && !sideY && gapY <= GAP * length) || (sideY && !sideX && gapX <= GAP * width)
}
