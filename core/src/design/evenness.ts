import { plural } from '../quantity/index.ts'
import { binomialUpper, normalUpper } from '../statistics/index.ts'
import { inOwnAxes, marksOn, treatmentWith, type Layout, type Treatment, type Treatments, type Unit } from '../trial/index.ts'

/** A draw that is fair and may mislead all the same, in words. */
export interface Uneven {
  readonly text: string
  /** How seldom chance draws as uneven a plan in this respect. */
  readonly p: number
}

/** What is told: so seldom, over all treatments, or over the controls alone, which all else is read against. */
const SELDOM = 0.1

/**
 * How evenly each treatment lies on the ground: towards which side of what holds it, at the ends of
 * its rows, always beside the same other. A slope, a track or a tall neighbour would then be taken
 * for what the treatment does. Worst first; empty where nothing stands out among so many.
 */
export function uneven({ structure, units }: Layout, treatments: Treatments): Uneven[] {
  const plots = placedOf(
    structure.factors.map((each) => each.appliedTo),
    units,
    treatments,
  )
  if (plots.length === 0) return []
  const tests = new Tests(treatments)
  for (const along of ['x', 'y'] as const) sides(plots, along, tests)
  ends(plots, tests)
  besides(plots, tests)
  return tests.found.sort((a, b) => a.p - b.p)
}

interface Plot {
  readonly treatment: Treatment
  readonly unit: Unit
  readonly x: number
  readonly y: number
  /** What holds it next: positions are told within it. */
  readonly holder: string
  /** The kind of that. */
  readonly within: string
}

function placedOf(kinds: readonly string[], units: readonly Unit[], treatments: Treatments): Plot[] {
  // The finest kind treated is the one that most units are of.
  const treated = [...new Set(kinds)].map((kind) => units.filter((unit) => unit.kind === kind)).sort((a, b) => b.length - a.length)[0] ?? []
  const index = new Map(units.map((unit) => [unit.id, unit]))
  return treated.flatMap((unit): Plot[] => {
    const treatment = treatmentWith(marksOn(unit, index, 'planned'), treatments)
    if (!treatment || !unit.place) return []
    const { x, y, width, length } = inOwnAxes(unit.place)
    return [
      {
        treatment,
        unit,
        x: x + width / 2,
        y: y + length / 2,
        holder: unit.in.join(' '),
        within: index.get(unit.in[0] ?? '')?.kind ?? 'site',
      },
    ]
  })
}

/** Keeps what is seldom, counted over all that was looked at. */
class Tests {
  readonly found: Uneven[] = []
  readonly #treatments: Treatments

  constructor(treatments: Treatments) {
    this.#treatments = treatments
  }

  /** `p` of one treatment, or of one pair of `of` pairs. A control is looked at by itself: it matters to every comparison. */
  take(treatment: Treatment | null, p: number, text: () => string, of = this.#treatments.list.length): void {
    const control = treatment !== null && treatment.role !== 'none'
    const among = Math.min(1, p * (control ? 2 : of))
    if (among < SELDOM) this.found.push({ text: text(), p: among })
  }
}

function groupBy<T>(items: readonly T[], key: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const each of items) groups.set(key(each), [...(groups.get(key(each)) ?? []), each])
  return groups
}

const SIDES = { x: ['left', 'right'], y: ['near', 'far'] } as const

/** Mean place within the holders against what chance gives: the rank of a plot among those it lies with. */
function sides(plots: readonly Plot[], along: 'x' | 'y', tests: Tests): void {
  const scores = new Map<Plot, number>()
  const spread = new Map<Plot, number>()
  for (const group of groupBy(plots, (plot) => plot.holder).values()) {
    const mean = group.reduce((sum, plot) => sum + plot[along], 0) / group.length
    const variance = group.reduce((sum, plot) => sum + (plot[along] - mean) ** 2, 0) / group.length
    if (variance < 1e-9) continue
    for (const plot of group) {
      scores.set(plot, plot[along] - mean)
      spread.set(plot, variance)
    }
  }
  for (const own of groupBy([...scores.keys()], (plot) => plot.treatment.key).values()) {
    const sum = own.reduce((total, plot) => total + scores.get(plot)!, 0)
    const z = sum / Math.sqrt(own.reduce((total, plot) => total + spread.get(plot)!, 0))
    if (own.length < 2) continue
    const { treatment } = own[0]!
    tests.take(
      treatment,
      2 * normalUpper(Math.abs(z)),
      () =>
        `${treatment.code} gathers at the ${SIDES[along][z < 0 ? 0 : 1]} side of its ${plural(own[0]!.within)}: what the ground does from side to side would be taken for its effect.`,
    )
  }
}

/** At the ends of its rows more often than chance puts it there. */
function ends(plots: readonly Plot[], tests: Tests): void {
  const rows = [...groupBy(plots, (plot) => `${plot.holder} ${plot.y.toFixed(3)}`).values()].filter((row) => row.length > 3)
  if (rows.length === 0) return
  const atEnd = new Set(
    rows.flatMap((row) => {
      const sorted = [...row].sort((a, b) => a.x - b.x)
      return [sorted[0]!, sorted.at(-1)!]
    }),
  )
  const looked = rows.flat()
  const share = atEnd.size / looked.length
  for (const own of groupBy(looked, (plot) => plot.treatment.key).values()) {
    const count = own.filter((plot) => atEnd.has(plot)).length
    const { treatment } = own[0]!
    if (count < 3) continue
    tests.take(
      treatment,
      binomialUpper(count - 1, own.length, share),
      () =>
        `${treatment.code} stands at an end of its row ${count} times of ${own.length}: a track or a weak edge would be taken for its effect.`,
    )
  }
}

/** Two treatments side by side more often than chance puts them there. */
function besides(plots: readonly Plot[], tests: Tests): void {
  const rows = groupBy(plots, (plot) => `${plot.holder} ${plot.y.toFixed(3)}`)
  const together = new Map<string, { a: Treatment; b: Treatment; count: number }>()
  for (const row of rows.values()) {
    const sorted = [...row].sort((a, b) => a.x - b.x)
    sorted.slice(1).forEach((plot, i) => {
      const [a, b] = [sorted[i]!.treatment, plot.treatment].sort((one, other) => (one.key < other.key ? -1 : 1)) as [Treatment, Treatment]
      if (a === b) return
      const key = `${a.key} ${b.key}`
      const known = together.get(key)
      together.set(key, { a, b, count: (known?.count ?? 0) + 1 })
    })
  }
  const kinds = new Set(plots.map((plot) => plot.treatment.key)).size
  const pairs = (kinds * (kinds - 1)) / 2
  if (pairs < 3) return
  for (const { a, b, count } of together.values()) {
    if (count < 3) continue
    tests.take(
      null,
      binomialUpper(count - 1, rows.size, Math.min(1, 2 / (plots.length / rows.size))),
      () =>
        `${a.code} and ${b.code} lie side by side ${count} times: what one does to its neighbour would be taken for the other’s effect.`,
      pairs,
    )
  }
}
