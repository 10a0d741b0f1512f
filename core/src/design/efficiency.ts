import { marksOn, treatmentWith, type Layout, type Treatments, type Unit } from '../trial/index.ts'

/** How good the comparisons of a plan are, from where its treatments stand and nothing else. */
export interface PlanEfficiency {
  /**
   * Average variance of a comparison of two treatments if nothing were taken out for blocks, over
   * what it is with them taken out: A = (t − 1) / (r · trace of the inverse of the information
   * matrix) where all stand r times. 1 in complete blocks; 0 where not all can be compared.
   */
  readonly average: number
  /** Fewest and most blocks in which two treatments meet; null where blocks do not hold the treated units. */
  readonly concurrence: readonly [number, number] | null
}

/**
 * Null where no one figure says it: treatments stand on units of several sizes, each with an error of its own;
 * or combinations are not all compared with each other, but each factor is, an interaction being given up to blocks.
 */
export function planEfficiency({ structure, units }: Layout, treatments: Treatments): PlanEfficiency | null {
  const kinds = new Set(structure.factors.map((each) => each.appliedTo))
  const [kind] = kinds
  if (kind === undefined || kinds.size > 1) return null
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const entries = new Map(treatments.list.map((each, i) => [each.key, i]))
  const plots = units.flatMap((unit) => {
    const treatment = unit.kind === kind ? treatmentWith(marksOn(unit, index, 'planned'), treatments) : undefined
    return treatment ? [{ unit, entry: entries.get(treatment.key)! }] : []
  })
  const holders = holdersOf(
    plots.map((plot) => plot.unit),
    index,
  )
  const t = treatments.list.length
  const times = countsOf(
    plots.map((plot) => plot.entry),
    t,
  )
  if (times.some((each) => each === 0)) return { average: 0, concurrence: null }
  const information = informationOf(plots, holders, t)
  const inverse = traceOfInverse(information, t)
  if (inverse === null && factorsCompared(information, treatments)) return null
  if (inverse === null) return { average: 0, concurrence: concurrenceOf(plots, index, t) }
  const without = (2 * times.reduce((sum, each) => sum + 1 / each, 0)) / t
  return { average: without / ((2 * inverse) / (t - 1)), concurrence: concurrenceOf(plots, index, t) }
}

interface Plot {
  readonly unit: Unit
  readonly entry: number
}

function countsOf(entries: readonly number[], t: number): number[] {
  const counts = Array.from({ length: t }, () => 0)
  for (const entry of entries) counts[entry]!++
  return counts
}

/** For each plot the units that hold it, at any height, numbered from 0. */
function holdersOf(plots: readonly Unit[], index: ReadonlyMap<string, Unit>): number[][] {
  const numbers = new Map<string, number>()
  const above = (unit: Unit): string[] => unit.in.flatMap((id) => [id, ...(index.has(id) ? above(index.get(id)!) : [])])
  return plots.map((plot) =>
    [...new Set(above(plot))].map((id) => {
      if (!numbers.has(id)) numbers.set(id, numbers.size)
      return numbers.get(id)!
    }),
  )
}

/** X'X − X'Z (Z'Z)⁻ Z'X: what is known of treatments once the differences between all units that hold them are taken out. */
function informationOf(plots: readonly Plot[], holders: readonly number[][], t: number): Float64Array {
  const b = 1 + Math.max(...holders.flat())
  const n = b + t
  const cross = new Float64Array(n * n)
  plots.forEach(({ entry }, i) => {
    const columns = [...holders[i]!, b + entry]
    for (const p of columns) for (const q of columns) cross[p * n + q]! += 1
  })
  // The units are swept out one by one; one that is the sum of others is passed over.
  for (let p = 0; p < b; p++) {
    const pivot = cross[p * n + p]!
    if (pivot < 1e-9) continue
    for (let i = p + 1; i < n; i++) {
      const factor = cross[i * n + p]! / pivot
      if (factor === 0) continue
      for (let j = p + 1; j < n; j++) cross[i * n + j]! -= factor * cross[p * n + j]!
    }
  }
  const information = new Float64Array(t * t)
  for (let i = 0; i < t; i++) for (let j = 0; j < t; j++) information[i * t + j] = cross[(b + i) * n + b + j]!
  return information
}

/** Whether of two factors or more each can be told within blocks, averaged over the others: its contrasts add nothing to the space of the information. */
function factorsCompared(information: Float64Array, { factors, list }: Treatments): boolean {
  const t = list.length
  if (factors.length < 2) return false
  const rows = Array.from({ length: t }, (_, i) => [...information.subarray(i * t, (i + 1) * t)])
  const contrasts = factors.flatMap(({ key, levels }) => {
    const standing = levels.map((level) => list.filter((each) => each.levels[key] === level.key).length)
    return levels
      .slice(1)
      .map((level, l) =>
        list.map((each) =>
          each.levels[key] === level.key ? 1 / standing[l + 1]! : each.levels[key] === levels[0]!.key ? -1 / standing[0]! : 0,
        ),
      )
  })
  return rankOf([...rows, ...contrasts]) === rankOf(rows)
}

function rankOf(rows: readonly (readonly number[])[]): number {
  const left = rows.map((row) => [...row])
  let rank = 0
  for (let column = 0; column < left[0]!.length; column++) {
    let best = rank
    for (let i = rank; i < left.length; i++) if (Math.abs(left[i]![column]!) > Math.abs(left[best]?.[column] ?? 0)) best = i
    if (best >= left.length || Math.abs(left[best]![column]!) < 1e-9) continue
    ;[left[rank], left[best]] = [left[best]!, left[rank]!]
    for (let i = rank + 1; i < left.length; i++) {
      const factor = left[i]![column]! / left[rank]![column]!
      for (let j = column; j < left[i]!.length; j++) left[i]![j]! -= factor * left[rank]![j]!
    }
    rank++
  }
  return rank
}

/** Of the inverse over contrasts; null where some cannot be estimated. */
function traceOfInverse(information: Float64Array, t: number): number | null {
  // The mean of all is put in and taken out again: it is no contrast.
  const scale = information.reduce((sum, each, i) => (i % (t + 1) === 0 ? sum + each : sum), 0) / t
  const lower = new Float64Array(t * t)
  for (let j = 0; j < t; j++) {
    for (let i = j; i < t; i++) {
      let sum = information[i * t + j]! + scale / t
      for (let m = 0; m < j; m++) sum -= lower[i * t + m]! * lower[j * t + m]!
      if (i > j) lower[i * t + j] = sum / lower[j * t + j]!
      else if (sum <= scale * 1e-9) return null
      else lower[j * t + j] = Math.sqrt(sum)
    }
  }
  let trace = 0
  const column = new Float64Array(t)
  for (let j = 0; j < t; j++) {
    for (let i = j; i < t; i++) {
      let sum = i === j ? 1 : 0
      for (let m = j; m < i; m++) sum -= lower[i * t + m]! * column[m]!
      column[i] = sum / lower[i * t + i]!
      trace += column[i]! ** 2
    }
  }
  return trace - 1 / scale
}

/** In the smallest blocks that hold plots: how often each pair meets, least and most. */
function concurrenceOf(plots: readonly Plot[], index: ReadonlyMap<string, Unit>, t: number): readonly [number, number] | null {
  const blocks = new Map<string, number[]>()
  for (const { unit, entry } of plots) {
    const block = unit.in.find((id) => index.get(id)?.kind === 'block') ?? unit.in.find((id) => index.get(id)?.kind === 'column')
    if (block === undefined) return null
    const known = blocks.get(block)
    if (known) known.push(entry)
    else blocks.set(block, [entry])
  }
  const meetings = new Uint16Array(t * t)
  for (const entries of blocks.values()) for (const a of entries) for (const b of entries) if (a !== b) meetings[a * t + b]!++
  let [least, most] = [Infinity, 0]
  for (let a = 0; a < t; a++) {
    for (let b = 0; b < a; b++) {
      least = Math.min(least, meetings[a * t + b]!)
      most = Math.max(most, meetings[a * t + b]!)
    }
  }
  return t > 1 ? [least, most] : null
}

/**
 * No plan of t entries in r = 2 complete replicates of blocks of k is more efficient than this. The
 * factors that are not 1 come in pairs 1/2 ± σ, σ the singular values of N/(2k), N the s × s
 * counts of entries shared by blocks of the two replicates, so that Σ 1/e = Σ 1/(1/4 − σ²) over s − 1
 * of them (H. D. Patterson and E. R. Williams, Biometrika 63, 1976). N holds whole numbers: with
 * entries of 0 and 1, Σ σ² is fixed, and the overlaps of its rows, whole numbers with a mean between two, give
 * Σ σ⁴ a least value. For a mean and a spread Σ f of f convex with a positive third derivative is
 * least with one value low and the rest equal (R. G. Jarrett, Biometrika 64, 1977). Larger blocks
 * than replicates have (k > s) repeat every pair k div s times first.
 */
export function boundOfTwoReplicates(t: number, k: number): number {
  const s = t / k
  const whole = Math.floor(k / s)
  const rest = k - whole * s
  // N = whole · J + M with M of 0 and 1, rows of `rest` ones; J does not touch the contrasts.
  const m = s - 1
  const mean = (rest * s - rest * rest) / m / (4 * k * k)
  const overlap = (rest * (rest - 1)) / m
  const [low, share] = [Math.floor(overlap), overlap - Math.floor(overlap)]
  const meanSquare = low ** 2 * (1 - share) + (low + 1) ** 2 * share
  // Σ of the squares of the eigenvalues of M M' over contrasts.
  const fourth = (s * rest ** 2 + s * m * meanSquare - rest ** 4) / (4 * k * k) ** 2
  const spread = Math.max(0, fourth - m * mean ** 2)
  const step = Math.sqrt(spread / (m * (m - 1)))
  const f = (value: number): number => 1 / (0.25 - value)
  const pairs = (m - 1) * f(mean + step) + f(mean - (m - 1) * step)
  return (t - 1) / (t - 1 - 2 * m + pairs)
}
