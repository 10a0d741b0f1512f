/** A classifying variable: for each observation the index of its level. */
export interface Classification {
  readonly name: string
  readonly levels: readonly string[]
  readonly codes: Int32Array
}

/** A measured variable that enters as it is. */
export interface Covariate {
  readonly name: string
  readonly values: Float64Array
}

export type Variable = Classification | Covariate

/** A term is the set of variables it crosses; no variables is the intercept. */
export type Term = readonly string[]

export type Coding = 'reference' | 'sum'

export interface DesignMatrix {
  readonly rows: number
  readonly columns: readonly Float64Array[]
  /** For each column, the index of its term in `terms`. */
  readonly termOf: Int32Array
  readonly terms: readonly Term[]
  readonly coding: Coding
  readonly variables: ReadonlyMap<string, Variable>
}

export function isClassification(variable: Variable): variable is Classification {
  return 'codes' in variable
}

/** Value of contrast column `c` (0 … levels − 2) at a level, for one classification. */
export function codedValue(coding: Coding, levels: number, c: number, level: number): number {
  if (coding === 'reference') return level === c + 1 ? 1 : 0
  return level === c ? 1 : level === levels - 1 ? -1 : 0
}

/**
 * Columns of the terms in the order given, intercept first. Reference coding takes the first
 * level of each classification as the reference; sum coding is what Type III tests need.
 */
export function designMatrix(
  variables: readonly Variable[],
  terms: readonly Term[],
  rows: number,
  coding: Coding = 'reference',
): DesignMatrix {
  const byName = new Map(variables.map((each) => [each.name, each]))
  const columns: Float64Array[] = []
  const termOf: number[] = []
  const all: Term[] = [[], ...terms]
  all.forEach((term, index) => {
    const crossed = variablesOf(byName, term)
    for (const choice of contrasts(crossed)) {
      const column = new Float64Array(rows).fill(1)
      crossed.forEach((variable, v) => {
        if (!isClassification(variable)) {
          for (let i = 0; i < rows; i++) column[i]! *= variable.values[i]!
          return
        }
        for (let i = 0; i < rows; i++) column[i]! *= codedValue(coding, variable.levels.length, choice[v]!, variable.codes[i]!)
      })
      columns.push(column)
      termOf.push(index)
    }
  })
  return { rows, columns, termOf: Int32Array.from(termOf), terms: all, coding, variables: byName }
}

export function variablesOf(variables: ReadonlyMap<string, Variable>, term: Term): Variable[] {
  return term.map((name) => {
    const found = variables.get(name)
    if (!found) throw new RangeError(`No variable named ${name}`)
    return found
  })
}

/** All choices of one column per variable, the first variable running fastest; a covariate has one. */
export function contrasts(variables: readonly Variable[]): number[][] {
  return variables.reduce<number[][]>(
    (choices, variable) => {
      const width = isClassification(variable) ? variable.levels.length - 1 : 1
      return Array.from({ length: width }, (_, c) => c).flatMap((c) => choices.map((choice) => [...choice, c]))
    },
    [[]],
  )
}

/** The classification whose levels are the combinations of others that occur, in order of their levels. */
export function crossed(name: string, parts: readonly Classification[]): Classification {
  const rows = parts[0]?.codes.length ?? 0
  const keys = new Map<number, number>()
  const raw = new Float64Array(rows)
  for (let i = 0; i < rows; i++) {
    let key = 0
    for (const part of parts) key = key * part.levels.length + part.codes[i]!
    raw[i] = key
    keys.set(key, 0)
  }
  const sorted = [...keys.keys()].sort((a, b) => a - b)
  sorted.forEach((key, i) => keys.set(key, i))
  const levels = sorted.map((key) => {
    const names: string[] = []
    let rest = key
    for (let p = parts.length - 1; p >= 0; p--) {
      const size = parts[p]!.levels.length
      names.unshift(parts[p]!.levels[rest % size]!)
      rest = Math.floor(rest / size)
    }
    return names.join(':')
  })
  return { name, levels, codes: Int32Array.from(raw, (key) => keys.get(key)!) }
}
