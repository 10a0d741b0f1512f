import { readFileSync } from 'node:fs'
import Papa from 'papaparse'
import { expect } from 'vitest'

/** A reference case: its rows, what it says of itself, and the numbers expected, each with its tolerance. */
export interface ReferenceCase {
  readonly rows: Record<string, string>[]
  readonly info: {
    readonly response: string
    readonly factors: string[]
    readonly block: string | null
    readonly control?: { level: string }
    readonly levels: Record<string, string[]>
  }
  readonly expected: { name: string; value: number | string; rel: number; abs?: number }[]
}

export function referenceCase(name: string): ReferenceCase {
  const read = (file: string) => readFileSync(new URL(`../fixtures/reference/${name}/${file}`, import.meta.url), 'utf8')
  return {
    rows: Papa.parse<Record<string, string>>(read('data.csv').trim(), { header: true }).data,
    info: JSON.parse(read('case.json')) as ReferenceCase['info'],
    expected: (JSON.parse(read('expected.json')) as Pick<ReferenceCase, never> & { values: ReferenceCase['expected'] }).values,
  }
}

/** Holds every value asked for against what was got, at its own tolerance, and says all that are off. */
export function expectAgreement(expected: ReferenceCase['expected'], got: ReadonlyMap<string, number | string>): void {
  const wrong = expected.filter(({ name, value, rel, abs = 0 }) => {
    const x = got.get(name)
    if (typeof value === 'string' || typeof x !== 'number') return x !== value
    return !(Math.abs(x - value) <= Math.max(rel * Math.abs(value), abs))
  })
  expect(wrong.slice(0, 25).map((each) => `${each.name}: ${got.get(each.name)} is not ${each.value}`)).toEqual([])
}
