import type { Chance } from './random.ts'

/** A place that is given one entry, and the blocking units it lies in (blocks; or a row and a column). */
export interface Cell {
  readonly units: readonly number[]
  /** Entries are exchanged within a group only: the cells of one replicate where each must stay complete. */
  readonly group: number
}

export interface SearchProblem {
  readonly cells: readonly Cell[]
  /** How many blocking units there are. */
  readonly units: number
  /** The entry in each cell at the beginning, counted from 0. */
  readonly start: readonly number[]
  readonly entries: number
  readonly chance: Chance
  /** How many exchanges are looked at. The same count gives the same plan on any machine. */
  readonly looks: number
}

/** Told of the search while it goes on, and asked whether it is to end with the best it has. */
export interface SearchWatch {
  progress(share: number, efficiency: number): void
  stopped(): boolean
}

export interface SearchResult {
  /** The entry in each cell. */
  readonly entries: readonly number[]
  /** Average efficiency factor against complete blocks; 0 where some entries cannot be compared at all. */
  readonly efficiency: number
}

/** Looks between two words to whoever watches. */
const PIECE = 20_000
/** The effect of an exchange that leaves all comparisons as they are. */
const NOTHING = 0
/** Exchanges made until the inverse is worked out anew, against the drift of many small changes. */
const ANEW = 400

/**
 * Searches the allocation of entries to cells with the highest average efficiency factor
 * A = (t − 1) / Σ 1/e, e the canonical efficiency factors (A. T. James and G. N. Wilkinson,
 * Biometrika 58, 1971), by exchanges of two entries under a falling temperature.
 *
 * All is done on the side of the blocking units, which are fewer than the entries: with N the
 * incidence of entries on units, each unit scaled by its size and each entry by its replication,
 * the factors that are not 1 are those of I − N'N (H. D. Patterson and E. R. Williams, Biometrika
 * 63, 1976). An exchange changes N'N by u d' + d u' + a u u', so its effect on the trace of the
 * inverse is known from a few cells of the inverse and of its square.
 */
export function exchangeSearch(problem: SearchProblem, watch: SearchWatch | null = null): SearchResult {
  const { looks, chance } = problem
  const search = new Exchange(problem)
  search.settle()
  let best = search.trace
  let kept = search.entries()
  let done = 0
  for (const { share, warmth } of ROUNDS) {
    if (done > 0) search.take(kept)
    const own = Math.round(looks * share)
    let heat = warmth * search.heat()
    const cooling = Math.exp(Math.log(COLD) / Math.max(1, own))
    for (let n = 0; n < own; n++, done++) {
      if (watch && done % PIECE === 0) {
        watch.progress(done / looks, search.efficiency(best))
        if (watch.stopped()) return { entries: kept, efficiency: search.efficiency(best) }
      }
      heat *= cooling
      const pair = search.pick(chance)
      if (!pair) continue
      const change = search.effect(pair[0], pair[1])
      if (change === NOTHING || (change > 0 && !(heat > 0 && uniform(chance) < Math.exp(-change / heat)))) continue
      search.exchange(pair[0], pair[1])
      if (search.trace < best - 1e-10) {
        best = search.trace
        kept = search.entries()
      }
    }
  }
  watch?.progress(1, search.efficiency(best))
  return { entries: kept, efficiency: search.efficiency(best) }
}

/** The best is warmed up again, less each time: what lies beside it is often better still. Found by trial, with the heat below, on plans of 7 to 500 entries. */
const ROUNDS = [
  { share: 0.4, warmth: 1 },
  { share: 0.3, warmth: 0.6 },
  { share: 0.3, warmth: 0.4 },
] as const
/** How far a round cools down. */
const COLD = 3e-3

function uniform(chance: Chance): number {
  return (chance.below(1 << 24) + 0.5) / (1 << 24)
}

class Exchange {
  trace = Infinity
  readonly #cells: readonly Cell[]
  readonly #units: number
  readonly #count: number
  readonly #entry: Int32Array
  readonly #groups: readonly (readonly number[])[]
  /** Cells of each entry. */
  readonly #at: number[][]
  readonly #weight: Float64Array
  readonly #inverse: Float64Array
  readonly #square: Float64Array
  #made = 0
  // The vectors of an exchange: place by place, so that nothing is made anew for each look.
  readonly #u: Float64Array
  readonly #d: Float64Array
  readonly #uPlaces: Int32Array
  readonly #dPlaces: Int32Array
  readonly #seen: Int32Array
  #stamp = 0
  #uCount = 0
  #dCount = 0
  #alpha = 0
  #middle: [number, number, number] = [0, 0, 0]

  constructor({ cells, units, start, entries }: SearchProblem) {
    this.#cells = cells
    this.#units = units
    this.#count = entries
    this.#entry = Int32Array.from(start)
    const groups = new Map<number, number[]>()
    cells.forEach(({ group }, i) => {
      const known = groups.get(group)
      if (known) known.push(i)
      else groups.set(group, [i])
    })
    this.#groups = [...groups.values()].filter((each) => each.length > 1)
    this.#at = Array.from({ length: entries }, () => [])
    this.#entry.forEach((entry, i) => this.#at[entry]!.push(i))
    const sizes = new Float64Array(units)
    for (const cell of cells) for (const unit of cell.units) sizes[unit]! += 1
    this.#weight = sizes.map((size) => (size > 0 ? 1 / Math.sqrt(size) : 0))
    this.#inverse = new Float64Array(units * units)
    this.#square = new Float64Array(units * units)
    const most = 4 * Math.max(...cells.map((cell) => cell.units.length)) * Math.max(...this.#at.map((each) => each.length))
    this.#uPlaces = new Int32Array(most)
    this.#dPlaces = new Int32Array(most)
    this.#seen = new Int32Array(units)
    this.#u = new Float64Array(units)
    this.#d = new Float64Array(units)
  }

  entries(): number[] {
    return [...this.#entry]
  }

  /** Begins again from other entries. */
  take(entries: readonly number[]): void {
    this.#entry.set(entries)
    for (const cells of this.#at) cells.length = 0
    this.#entry.forEach((entry, i) => this.#at[entry]!.push(i))
    this.settle()
  }

  efficiency(trace: number): number {
    const free = this.#count - 1
    return Number.isFinite(trace) ? free / (free - this.#units + trace) : 0
  }

  /** Where the temperature begins: low enough that blocks which are even stay so, found by trial on plans of 24 to 500 entries. */
  heat(): number {
    return Number.isFinite(this.trace) ? (0.3 * (this.trace - this.#units)) / (2 * this.#cells.length) : 0
  }

  /** The inverse and its square as the entries lie now. */
  settle(): void {
    const n = this.#units
    const matrix = new Float64Array(n * n)
    const total = this.#cells.length
    for (const cells of this.#at) {
      const share = 1 / cells.length
      for (const a of cells)
        for (const b of cells)
          for (const p of this.#cells[a]!.units)
            for (const q of this.#cells[b]!.units) matrix[p * n + q]! -= share * this.#weight[p]! * this.#weight[q]!
    }
    for (let p = 0; p < n; p++) {
      for (let q = 0; q < n; q++) {
        // The mean of all is no difference between entries.
        if (this.#weight[p]! > 0 && this.#weight[q]! > 0) matrix[p * n + q]! += 1 / (total * this.#weight[p]! * this.#weight[q]!)
      }
      matrix[p * n + p]! += 1
    }
    const ok = invert(matrix, this.#inverse, n)
    this.#made = 0
    this.trace = 0
    if (!ok) {
      this.trace = Infinity
      return
    }
    multiply(this.#inverse, this.#square, n)
    for (let p = 0; p < n; p++) this.trace += this.#inverse[p * n + p]!
  }

  /** Two cells of one group that hold different entries. */
  pick(chance: Chance): [number, number] | null {
    const group = this.#groups.length === 1 ? this.#groups[0]! : this.#groups[chance.below(this.#groups.length)]
    if (!group) return null
    const a = group[chance.below(group.length)]!
    const b = group[chance.below(group.length)]!
    return this.#entry[a] === this.#entry[b] ? null : [a, b]
  }

  /** What an exchange would add to the trace. */
  effect(a: number, b: number): number {
    this.#vectors(a, b)
    if (this.#uCount === 0) return NOTHING
    if (!Number.isFinite(this.trace)) return -1
    const [uu, ud, dd] = this.#forms(this.#inverse)
    // The same blocks under other names: nothing changes, and nothing need be worked out.
    if (dd + this.#alpha * ud + (this.#alpha ** 2 / 4) * uu < 1e-12) return NOTHING
    // I − N'N loses [u d] S [u d]' with S = [[alpha, 1], [1, 0]]; the inverse of −S is [[0, −1], [−1, alpha]].
    const [m11, m12, m22] = [uu, ud - 1, dd + this.#alpha]
    const determinant = m11 * m22 - m12 * m12
    // Entries would come apart: nothing could be compared across.
    if (determinant >= -1e-9) return Infinity
    this.#middle = [m22 / determinant, -m12 / determinant, m11 / determinant]
    const [suu, sud, sdd] = this.#forms(this.#square)
    return -(this.#middle[0] * suu + 2 * this.#middle[1] * sud + this.#middle[2] * sdd)
  }

  /** u' M u, u' M d and d' M d of a symmetric matrix. */
  #forms(matrix: Float64Array): [number, number, number] {
    const [n, u, d, uPlaces, dPlaces] = [this.#units, this.#u, this.#d, this.#uPlaces, this.#dPlaces]
    let [uu, ud, dd] = [0, 0, 0]
    for (let i = 0; i < this.#uCount; i++) {
      const p = uPlaces[i]!
      let [ofU, ofD] = [0, 0]
      for (let j = 0; j < this.#uCount; j++) ofU += matrix[p * n + uPlaces[j]!]! * u[uPlaces[j]!]!
      for (let j = 0; j < this.#dCount; j++) ofD += matrix[p * n + dPlaces[j]!]! * d[dPlaces[j]!]!
      uu += u[p]! * ofU
      ud += u[p]! * ofD
    }
    for (let i = 0; i < this.#dCount; i++) {
      const p = dPlaces[i]!
      let of = 0
      for (let j = 0; j < this.#dCount; j++) of += matrix[p * n + dPlaces[j]!]! * d[dPlaces[j]!]!
      dd += d[p]! * of
    }
    return [uu, ud, dd]
  }

  /** Makes the exchange that was looked at last. */
  exchange(a: number, b: number): void {
    const [x, y] = [this.#entry[a]!, this.#entry[b]!]
    const moved = this.#uCount > 0
    this.#entry[a] = y
    this.#entry[b] = x
    this.#at[x]![this.#at[x]!.indexOf(a)] = b
    this.#at[y]![this.#at[y]!.indexOf(b)] = a
    if (!moved) return
    this.#made++
    if (this.#made >= ANEW || !Number.isFinite(this.trace)) this.settle()
    else this.#update()
  }

  /** x leaves the units of a for those of b, y the other way: u the units left less those come to, d what y lies in less what x does, each by its replication. */
  #vectors(a: number, b: number): void {
    for (let i = 0; i < this.#uCount; i++) this.#u[this.#uPlaces[i]!] = 0
    for (let i = 0; i < this.#dCount; i++) this.#d[this.#dPlaces[i]!] = 0
    const [x, y] = [this.#at[this.#entry[a]!]!, this.#at[this.#entry[b]!]!]
    this.#stamp++
    this.#uCount = this.#gather(this.#cells[b]!, -1, this.#u, this.#uPlaces, this.#gather(this.#cells[a]!, 1, this.#u, this.#uPlaces, 0))
    this.#stamp++
    this.#dCount = 0
    for (const cell of x) this.#dCount = this.#gather(this.#cells[cell]!, -1 / x.length, this.#d, this.#dPlaces, this.#dCount)
    for (const cell of y) this.#dCount = this.#gather(this.#cells[cell]!, 1 / y.length, this.#d, this.#dPlaces, this.#dCount)
    this.#alpha = 1 / x.length + 1 / y.length
    this.#uCount = withoutNothing(this.#u, this.#uPlaces, this.#uCount)
    this.#dCount = withoutNothing(this.#d, this.#dPlaces, this.#dCount)
  }

  /** Adds the units of a cell to a vector, and their places to its list. */
  #gather({ units }: Cell, share: number, into: Float64Array, places: Int32Array, count: number): number {
    for (const unit of units) {
      if (this.#seen[unit] !== this.#stamp) {
        this.#seen[unit] = this.#stamp
        places[count++] = unit
      }
      into[unit]! += share * this.#weight[unit]!
    }
    return count
  }

  #update(): void {
    const n = this.#units
    const [inverse, square] = [this.#inverse, this.#square]
    const [hu, hd, ku, kd] = [new Float64Array(n), new Float64Array(n), new Float64Array(n), new Float64Array(n)]
    for (let p = 0; p < n; p++) {
      for (let i = 0; i < this.#uCount; i++) {
        const q = this.#uPlaces[i]!
        hu[p]! += inverse[p * n + q]! * this.#u[q]!
        ku[p]! += square[p * n + q]! * this.#u[q]!
      }
      for (let i = 0; i < this.#dCount; i++) {
        const q = this.#dPlaces[i]!
        hd[p]! += inverse[p * n + q]! * this.#d[q]!
        kd[p]! += square[p * n + q]! * this.#d[q]!
      }
    }
    const [a, b, c] = this.#middle
    // P = [hu hd] M [hu hd]'; the inverse loses P, its square loses HP + PH − PP.
    const [pu, pd] = [hu.map((value, i) => a * value + b * hd[i]!), hu.map((value, i) => b * value + c * hd[i]!)]
    let [uu, ud, dd] = [0, 0, 0]
    for (let p = 0; p < n; p++) {
      uu += hu[p]! * hu[p]!
      ud += hu[p]! * hd[p]!
      dd += hd[p]! * hd[p]!
    }
    let trace = 0
    for (let p = 0; p < n; p++) {
      const [pup, pdp] = [pu[p]!, pd[p]!]
      const [su, sd] = [pup * uu + pdp * ud, pup * ud + pdp * dd]
      const [kup, kdp] = [ku[p]! - su, kd[p]! - sd]
      for (let q = p; q < n; q++) {
        const i = p * n + q
        const value = inverse[i]! - pup * hu[q]! - pdp * hd[q]!
        const squared = square[i]! - kup * pu[q]! - kdp * pd[q]! - pup * ku[q]! - pdp * kd[q]!
        inverse[i] = value
        inverse[q * n + p] = value
        square[i] = squared
        square[q * n + p] = squared
      }
      trace += inverse[p * n + p]!
    }
    this.trace = trace
  }
}

/** Leaves out the places at which a vector came to nothing again. */
function withoutNothing(vector: Float64Array, places: Int32Array, count: number): number {
  let kept = 0
  for (let i = 0; i < count; i++) {
    const place = places[i]!
    if (Math.abs(vector[place]!) < 1e-12) vector[place] = 0
    else places[kept++] = place
  }
  return kept
}

/** The inverse of a symmetric positive definite matrix by Cholesky's factors; false where it has none. */
function invert(matrix: Float64Array, into: Float64Array, n: number): boolean {
  const lower = new Float64Array(n * n)
  for (let j = 0; j < n; j++) {
    for (let i = j; i < n; i++) {
      let sum = matrix[i * n + j]!
      for (let m = 0; m < j; m++) sum -= lower[i * n + m]! * lower[j * n + m]!
      if (i > j) lower[i * n + j] = sum / lower[j * n + j]!
      else if (sum <= 1e-9) return false
      else lower[j * n + j] = Math.sqrt(sum)
    }
  }
  const column = new Float64Array(n)
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      let sum = i === j ? 1 : 0
      for (let m = j; m < i; m++) sum -= lower[i * n + m]! * column[m]!
      column[i] = i < j ? 0 : sum / lower[i * n + i]!
    }
    for (let i = n - 1; i >= 0; i--) {
      let sum = column[i]!
      for (let m = i + 1; m < n; m++) sum -= lower[m * n + i]! * into[m * n + j]!
      into[i * n + j] = sum / lower[i * n + i]!
    }
  }
  return true
}

/** The square of a symmetric matrix. */
function multiply(matrix: Float64Array, into: Float64Array, n: number): void {
  for (let i = 0; i < n; i++) {
    for (let j = i; j < n; j++) {
      let sum = 0
      for (let m = 0; m < n; m++) sum += matrix[i * n + m]! * matrix[j * n + m]!
      into[i * n + j] = sum
      into[j * n + i] = sum
    }
  }
}
