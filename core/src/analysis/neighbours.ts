interface Placed {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly length: number
  readonly site: number
}

/** A gap up to this share of a plot's own side (an alley, a guard row) still leaves two plots neighbours. */
const GAP = 0.75

/** Pairs of plots that lie side by side or end to end on the plan, by their places in the list. */
export function neighbours(plots: readonly Placed[]): (readonly [number, number])[] {
  const order = [...plots.keys()].sort((a, b) => plots[a]!.x - plots[b]!.x)
  const widest = Math.max(...plots.map((plot) => plot.width))
  const pairs: (readonly [number, number])[] = []
  order.forEach((a, k) => {
    const first = plots[a]!
    for (let l = k + 1; l < order.length; l++) {
      const b = order[l]!
      const second = plots[b]!
      if (second.x - first.x > first.width + (GAP + 1) * widest) break
      if (first.site === second.site && touch(first, second)) pairs.push(a < b ? [a, b] : [b, a])
    }
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
