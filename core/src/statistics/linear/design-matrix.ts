/** A classifying variable: for each observation the index of its level. */
export interface Classification {
  readonly name: string
  readonly levels: readonly string[]
  readonly codes: Int32Array
}

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
  readonly classes: ReadonlyMap<string, Classification>
}

/** Value of contrast column `c` (0 … levels − 2) at a level, for one variable. */
export function codedValue(coding: Coding, levels: number, c: number, level: number): number {
  if (coding === 'reference') return level === c + 1 ? 1 : 0
  return level === c ? 1 : level === levels - 1 ? -1 : 0
}

/**
 * Columns of the terms in the order given, intercept first. Reference coding takes the first
 * level of each classification as the reference; sum coding is what Type III tests need.
 */
export function designMatrix(
  classes: readonly Classification[],
  terms: readonly Term[],
  rows: number,
  coding: Coding = 'reference',
): DesignMatrix {
  const byName = new Map(classes.map((each) => [each.name, each]))
  const columns: Float64Array[] = []
  const termOf: number[] = []
  const all: Term[] = [[], ...terms]
  all.forEach((term, index) => {
    const variables = term.map((name) => {
      const found = byName.get(name)
      if (!found) throw new RangeError(`No variable named ${name}`)
      return found
    })
    for (const choice of contrasts(variables)) {
      const column = new Float64Array(rows).fill(1)
      variables.forEach((variable, v) => {
        for (let i = 0; i < rows; i++) column[i]! *= codedValue(coding, variable.levels.length, choice[v]!, variable.codes[i]!)
      })
      columns.push(column)
      termOf.push(index)
    }
  })
  return { rows, columns, termOf: Int32Array.from(termOf), terms: all, coding, classes: byName }
}

/** All choices of one contrast column per variable, the first variable running fastest. */
export function contrasts(variables: readonly Classification[]): number[][] {
  return variables.reduce<number[][]>(
    (choices, variable) =>
      Array.from({ length: variable.levels.length - 1 }, (_, c) => c).flatMap((c) => choices.map((choice) => [...choice, c])),
    [[]],
  )
}
