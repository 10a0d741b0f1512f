import { codedValue, type Classification, type Covariate, type DesignMatrix, type Independent } from '../../statistics/index.ts'

export type Row = Float64Array

/** Levels by name of the variable, as places; what is not named is averaged over, every level alike. */
export type Cell = Readonly<Record<string, number>>

/** Linear functions of the fixed effects of a mixed model, in the coding of its design matrix. */
export class Rows {
  readonly #design: DesignMatrix
  readonly #terms: readonly (readonly string[])[]
  readonly #variables: readonly Classification[]
  readonly #sites: Classification | null
  readonly #at: ReadonlyMap<string, number>
  readonly #independent: Independent | null

  constructor(
    design: DesignMatrix,
    terms: readonly (readonly string[])[],
    variables: readonly Classification[],
    sites: Classification | null,
    covariates: readonly (Covariate & { readonly at: number })[] = [],
    independent: Independent | null = null,
  ) {
    this.#independent = independent
    this.#design = design
    this.#terms = terms
    this.#variables = variables
    this.#sites = sites
    this.#at = new Map(covariates.map((each) => [each.name, each.at]))
  }

  /** Where means are adjusted to, of a covariate. */
  at(covariate: string): number {
    return this.#at.get(covariate)!
  }

  /**
   * The rows that are zero where a term has no effect, every level of all else counted alike; where
   * combinations were not grown, of what can be estimated: differences between means of the term that can
   * be, or what is left of an interaction that no other contains. None where that is nothing.
   */
  of(term: readonly string[]): Row[] {
    const { columns, termOf, coding } = this.#design
    if (coding === 'sum') {
      const at = 1 + this.#terms.findIndex((each) => each.join() === term.join())
      const own = [...columns.keys()].filter((c) => termOf[c] === at)
      const { keep = null, dependent = [] } = this.#independent ?? {}
      if (!keep) return own.map((c) => Float64Array.from(columns, (_, j) => (j === c ? 1 : 0)))
      const above = this.#terms.flatMap((each, k) =>
        each.length > term.length && term.every((name) => each.includes(name)) ? [k + 1] : [],
      )
      if (!dependent.some((each) => above.includes(termOf[each.at]!)))
        return own.filter((c) => keep.includes(c)).map((c) => Float64Array.from(keep, (k) => (k === c ? 1 : 0)))
      return this.#differences(term)
    }
    // Differences of each level from the first, and differences of these.
    const factors = term.filter((name) => !this.#at.has(name))
    const choices = factors.reduce<number[][]>(
      (found, name) =>
        found.flatMap((before) =>
          this.#variable(name)
            .levels.slice(1)
            .map((_, l) => [...before, l + 1]),
        ),
      [[]],
    )
    return choices.map((choice) =>
      combined(
        Array.from({ length: 2 ** factors.length }, (_, subset) => {
          const at = Object.fromEntries(factors.map((name, f) => [name, (subset >> f) & 1 ? choice[f]! : 0]))
          const sign = factors.reduce((product, __, f) => ((subset >> f) & 1 ? product : -product), 1)
          return [sign, this.mean(at)] as const
        }),
      ),
    )
  }

  /** Between means of one factor that can be estimated. */
  #differences(term: readonly string[]): Row[] {
    const [name, ...others] = term.filter((each) => !this.#at.has(each))
    if (name === undefined || others.length > 0) return []
    const cells = this.#variable(name).levels.map((_, l) => ({ [name]: l }))
    const [first, ...rest] = cells.filter((cell) => this.estimable(cell))
    return first ? rest.map((cell) => combined([[1, this.mean(cell)], [-1, this.mean(first)]])) : [] // prettier-ignore
  }

  /** Whether a mean can be estimated from what was grown. */
  estimable(at: Cell): boolean {
    const { keep = [], dependent = [] } = this.#independent ?? {}
    if (dependent.length === 0) return true
    const row = this.#whole(at)
    return dependent.every(({ at: d, weights }) => Math.abs(keep.reduce((sum, k, i) => sum + row[k]! * weights[i]!, 0) - row[d]!) < 1e-7)
  }

  mean(at: Cell, moved: Readonly<Record<string, number>> = {}): Row {
    const row = this.#whole(at, moved)
    return this.#independent ? Float64Array.from(this.#independent.keep, (k) => row[k]!) : row
  }

  /** `moved`: covariates elsewhere than where means are adjusted to. */
  #whole(at: Cell, moved: Readonly<Record<string, number>> = {}): Row {
    const row = [1]
    for (const term of this.#terms) {
      const measured = term.filter((name) => this.#at.has(name))
      const factor = measured.reduce((product, name) => product * (moved[name] ?? this.#at.get(name)!), 1)
      const own = term.filter((name) => !this.#at.has(name)).map((name) => this.#variable(name))
      const width = own.reduce((count, each) => count * (each.levels.length - 1), 1)
      for (let c = 0; c < width; c++) {
        let [rest, product] = [c, factor]
        for (const each of own) {
          const column = rest % (each.levels.length - 1)
          product *= this.#coded(each, column, at)
          rest = Math.floor(rest / (each.levels.length - 1))
        }
        row.push(product)
      }
    }
    return Float64Array.from(row)
  }

  #variable(name: string): Classification {
    return this.#variables.find((each) => each.name === name)!
  }

  #coded(variable: Classification, column: number, at: Cell): number {
    const { coding } = this.#design
    const levels = variable.levels.length
    const level = at[variable.name]
    if (level !== undefined) return codedValue(coding, levels, column, level)
    if (variable.name === 'site' || !this.#sites || !this.#liesInSites(variable)) return coding === 'sum' ? 0 : 1 / levels
    // Units of a site stand for it, each alike; over all sites each site counts alike.
    const groups = this.#sites.levels
      .map((_, s) => this.#membersAt(variable, s))
      .filter((_, s) => at['site'] === undefined || at['site'] === s)
    const mean = (values: readonly number[]): number => values.reduce((sum, each) => sum + each, 0) / values.length
    return mean(groups.map((members) => mean(members.map((l) => codedValue(coding, levels, column, l)))))
  }

  #liesInSites(variable: Classification): boolean {
    return variable.levels.every((_, l) => this.#sites!.levels.filter((__, s) => this.#membersAt(variable, s).includes(l)).length === 1)
  }

  readonly #members = new Map<string, number[]>()

  #membersAt(variable: Classification, site: number): number[] {
    const key = `${variable.name} ${site}`
    const found = this.#members.get(key) ?? [...new Set(variable.codes.filter((_, i) => this.#sites!.codes[i] === site))]
    this.#members.set(key, found)
    return found
  }
}

export function combined(parts: readonly (readonly [number, Row])[]): Row {
  const row = new Float64Array(parts[0]![1].length)
  for (const [c, own] of parts) if (c !== 0) own.forEach((each, j) => (row[j]! += c * each))
  return row
}
