import { Trait, type Traits } from '../../trial/index.ts'
import { DATE, NOTHING_THERE, numberOf, YES_NO, type Matched } from './roles.ts'
import type { OddRow } from './said.ts'
import { slug } from './varied.ts'

export interface TraitColumn extends Matched {
  readonly column: number
}

interface Read {
  readonly traits: Traits
  readonly columns: readonly { readonly column: number; readonly key: string; readonly name: string }[]
  readonly visitOf: (name: string) => string
  readonly isValue: (key: string, cell: string) => boolean
}

/** Columns that were measured as traits, taken at the visits that are named; a cell that is no value is told. */
export function traitsFrom(
  columns: readonly TraitColumn[],
  rows: readonly { readonly line: number; readonly cells: readonly string[] }[],
  visits: readonly string[],
  on: string | null,
  odd: OddRow[],
): Read {
  const taken = new Set<string>()
  const codes = new Set<string>()
  const found = columns.map(({ column, name: typed, unit }) => {
    const name = typed.trim() || 'Measured'
    const cells = rows.map((row) => row.cells[column]!).filter((cell) => !NOTHING_THERE.test(cell))
    let key = slug(name) || 'measured'
    for (let n = 2; taken.has(key); n++) key = `${(slug(name) || 'measured').slice(0, 36)}-${n}`
    taken.add(key)
    const share = (of: RegExp): number => cells.filter((cell) => of.test(cell)).length / Math.max(1, cells.length)
    const kind =
      share(DATE) > 0.8
        ? 'date'
        : share(YES_NO) > 0.8
          ? 'yes/no'
          : cells.some((cell) => numberOf(bare(cell)) !== null) || cells.length === 0
            ? 'number'
            : 'text'
    const decimals = Math.min(6, Math.max(0, ...cells.map((cell) => /[.,](\d+)$/.exec(bare(cell))?.[1]?.length ?? 0)))
    let code = name.length <= 12 ? name : name.split(/\s+/).map((word) => word.charAt(0).toUpperCase()).join('').slice(0, 12) // prettier-ignore
    for (let n = 2; codes.has(code); n++) code = `${code.slice(0, 10)}${n}`
    codes.add(code)
    const trait = Trait.parse({ key, code, name: name.slice(0, 80), kind, unit: kind === 'number' ? unit : '', low: null, high: null, decimals: kind === 'number' ? decimals : 0, better: 'more', steps: [], method: '', on: 'unit', samples: 1, visits: [], observers: 'apart' }) // prettier-ignore
    return { column, trait }
  })
  const kinds = new Map(found.map(({ trait }) => [trait.key, trait.kind]))
  const isValue = (key: string, cell: string): boolean => {
    const kind = kinds.get(key)
    return kind === 'number'
      ? numberOf(bare(cell)) !== null
      : kind === 'date'
        ? DATE.test(cell)
        : kind === 'yes/no'
          ? YES_NO.test(cell)
          : true
  }
  for (const { line, cells } of rows)
    for (const { column, trait } of found)
      if (!NOTHING_THERE.test(cells[column]!) && !isValue(trait.key, cells[column]!))
        odd.push({
          line,
          text: `“${cells[column]!.slice(0, 40)}” is no value of ${trait.name}: it is taken as missing.`,
          effect: 'missing',
        })
  const named = visits.length > 0 ? visits : ['Measured']
  const keys = new Map<string, string>()
  for (const name of named) {
    let key = slug(name) || 'visit'
    for (let n = 2; [...keys.values()].includes(key); n++) key = `${(slug(name) || 'visit').slice(0, 36)}-${n}`
    keys.set(name, key)
  }
  const observed = found.length > 0 ? found.map(({ trait }) => trait) : [Trait.parse({ key: 'yield', code: 'Y', name: 'Yield', kind: 'number', unit: 't/ha', low: null, high: null, decimals: 2, better: 'more', steps: [], method: '', on: 'unit', samples: 1, visits: [], observers: 'apart' })] // prettier-ignore
  return {
    traits: {
      observed,
      derived: [],
      visits: named.map((name) => ({ key: keys.get(name)!, name: name.slice(0, 60), on: visits.length > 1 ? null : on })),
      response: observed[0]!.key,
      yieldTrait: null,
      qualityTrait: null,
      smallestDifference: null,
    },
    columns: found.map(({ column, trait }) => ({ column, key: trait.key, name: trait.name })),
    visitOf: (name) => keys.get(name) ?? [...keys.values()][0]!,
    isValue,
  }
}

/** Without a sign of a bound. */
function bare(cell: string): string {
  return cell.replace(/^[<>]\s*/, '')
}
