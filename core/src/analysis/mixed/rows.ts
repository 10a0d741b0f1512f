import { codedValue, type Classification, type Covariate, type DesignMatrix } from '../../statistics/index.ts'

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

  constructor(
    design: DesignMatrix,
    terms: readonly (readonly string[])[],
    variables: readonly Classification[],
    sites: Classification | null,
    covariates: readonly (Covariate & { readonly at: number })[] = [],
  ) {
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

  /** The rows that are zero where a term has no effect, every level of all else counted alike. */
  of(term: readonly string[]): Row[] {
    const { columns, termOf, coding } = this.#design
    if (coding === 'sum') {
      const at = 1 + this.#terms.findIndex((each) => each.join() === term.join())
      return [...columns.keys()].filter((c) => termOf[c] === at).map((c) => Float64Array.from(columns, (_, j) => (j === c ? 1 : 0)))
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

  /** `moved`: covariates elsewhere than where means are adjusted to. */
  mean(at: Cell, moved: Readonly<Record<string, number>> = {}): Row {
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
