import Papa from 'papaparse'
import { findUnit, parseQuantity } from '../quantity/index.ts'
import { crossFactors, levelsNamed, treatmentsOf, treatmentWith, type Factor, type Treatment, type Treatments } from '../trial/index.ts'

/** A list as pasted, and the ways it can be read, the likeliest first. */
export interface ReadList {
  readonly rows: number
  readonly ways: readonly ReadWay[]
}

export interface ReadWay {
  /** What it takes the list for, in words. */
  readonly about: string
  readonly treatments: Treatments
}

export type ListResult = { readonly ok: true; readonly list: ReadList } | { readonly ok: false; readonly problem: string }

/** Marks that part the halves of a name: most telling first. */
const MARKS = [/\s*\+\s*/, /\s*[;|/×·]\s*/, /\s*,\s+/, /\s+(?:with|and|at|on|plus)\s+/i, /_/]
const MOST_OUTSIDE = 3

/**
 * A list of treatments from a spreadsheet: one name a row, or one factor a column under their names.
 * A flat list that is in truth a factorial (all names are made of two or three parts that cross) is
 * recognised, and offered beside the list as it stands.
 */
export function readTreatmentList(text: string, wanted = 'Treatment'): ListResult {
  const delimiter = text.includes('\t') ? '\t' : undefined
  const parsed = Papa.parse<string[]>(text.trim(), delimiter ? { delimiter } : { delimiter: '\t' })
  const rows = parsed.data.map((row) => row.map((cell) => cell.trim())).filter((row) => row.some((cell) => cell !== ''))
  if (rows.length < 2) return { ok: false, problem: 'Paste at least two treatments, one a line.' }
  if (rows.length > 501) return { ok: false, problem: `That are ${rows.length} lines; a trial has at most 500 treatments.` }
  const width = Math.max(...rows.map((row) => row.length))
  if (width > 1) return columns(rows, width)
  const names = rows.map((row) => row[0]!.replace(/^(?:\d+[.)]|[-•*])\s+/, ''))
  const list = headed(names, wanted)
  const twice = list.find((name, i) => list.findIndex((each) => each.toLowerCase() === name.toLowerCase()) !== i)
  if (twice !== undefined) return { ok: false, problem: `“${twice}” stands there twice: treatments need names that differ.` }
  const flat: ReadWay = {
    about: `${list.length} treatments as they stand`,
    treatments: treatmentsOf([factorOf('factor-1', wanted, list)]),
  }
  const crossed = asFactorial(list)
  return { ok: true, list: { rows: list.length, ways: crossed ? [crossed, flat] : [flat] } }
}

/** A first line that names the column and is no treatment. */
function headed(names: readonly string[], wanted: string): readonly string[] {
  const first = names[0]!.toLowerCase()
  return names.length > 2 && ['treatment', 'treatments', 'name', 'entry', wanted.toLowerCase()].includes(first) ? names.slice(1) : names
}

/** One factor a column, under their names. */
function columns(rows: readonly string[][], width: number): ListResult {
  const [header, ...body] = rows as [string[], ...string[][]]
  if (width > 4) return { ok: false, problem: `That are ${width} columns; at most four things are varied at once.` }
  if (body.length < 2) return { ok: false, problem: 'Below the line of names at least two treatments are needed.' }
  const short = body.findIndex((row) => row.length < width || row.slice(0, width).some((cell) => cell === ''))
  if (short !== -1) return { ok: false, problem: `Line ${short + 2} has an empty cell: each treatment needs something in every column.` }
  const name = (c: number): string => header[c] || `Factor ${c + 1}`
  const way = crossedOf(
    Array.from({ length: width }, (_, c) => name(c)),
    body.map((row) => row.slice(0, width)),
    [],
  )
  if (typeof way === 'string') return { ok: false, problem: way }
  return { ok: true, list: { rows: body.length, ways: [way] } }
}

/** The list read as combinations of parts of its names; null where it is none. */
function asFactorial(names: readonly string[]): ReadWay | null {
  for (const split of splits(names)) {
    const parted = names.map((name) => split(name))
    const counts = parted.map((parts) => parts.length)
    const usual = [3, 2].find((count) => counts.filter((each) => each === count).length >= Math.max(4, names.length - MOST_OUTSIDE))
    if (usual === undefined) continue
    const inside = parted.filter((parts) => parts.length === usual)
    const outside = names.filter((_, i) => parted[i]!.length !== usual)
    const sizes = Array.from({ length: usual }, (_, p) => new Set(inside.map((parts) => parts[p]!.toLowerCase())).size)
    const cells = sizes.reduce((product, size) => product * size, 1)
    if (sizes.some((size) => size < 2) || inside.length < 0.75 * cells || inside.length > cells) continue
    const way = crossedOf(
      sizes.map((_, p) =>
        partName(
          inside.map((parts) => parts[p]!),
          p,
        ),
      ),
      inside,
      outside,
    )
    if (typeof way !== 'string') return way
  }
  return null
}

/** Ways to part a name: at a mark, or after its first or before its last words. */
function splits(names: readonly string[]): ((name: string) => string[])[] {
  const marks = MARKS.map((mark) => (name: string) => name.split(mark).filter(Boolean))
  const most = Math.max(...names.map((name) => name.split(/\s+/).length))
  const words = Array.from({ length: Math.max(0, Math.min(3, most - 1)) }, (_, i) => i + 1).flatMap((n) => [
    (name: string) => halves(name, n),
    (name: string) => halves(name, -n),
  ])
  return [...marks, ...words]
}

function halves(name: string, at: number): string[] {
  const words = name.split(/[\s-]+/)
  if (words.length <= Math.abs(at)) return [name]
  return [words.slice(0, at).join(' '), words.slice(at).join(' ')]
}

/** `Rate` where all are amounts, else a number to be renamed. */
function partName(parts: readonly string[], p: number): string {
  return measureOf(parts) !== null ? 'Rate' : `Factor ${p + 1}`
}

/** The treatments of rows of parts, with names that stand outside them. A problem in words where two rows are alike. */
function crossedOf(names: readonly string[], rows: readonly (readonly string[])[], outside: readonly string[]): ReadWay | string {
  const factors = names.map((name, p) => {
    const values = [...new Map(rows.map((row) => [row[p]!.toLowerCase(), row[p]!])).values()]
    return factorOf(`factor-${p + 1}`, name, values)
  })
  const levelOf = (p: number, cell: string): string => {
    const factor = factors[p]!
    const amount = factor.measure ? amountIn(cell, factor.measure) : null
    return factor.levels.find((level) =>
      amount === null ? level.name.toLowerCase() === cell.toLowerCase().slice(0, 80) : level.amount === amount,
    )!.key
  }
  const whole = treatmentsOf(factors)
  const kept = new Set<Treatment>()
  for (const row of rows) {
    const treatment = treatmentWith(Object.fromEntries(row.map((cell, p) => [factors[p]!.key, levelOf(p, cell)])), whole)!
    if (kept.has(treatment)) return `“${row.join(', ')}” stands there twice.`
    kept.add(treatment)
  }
  const beside = outside.map((name, i): Treatment => {
    const untreated = i === 0 && /^(untreated|control|nil|nothing|none|check)\b/i.test(name)
    return {
      key: `outside-${i + 1}`,
      code: untreated ? 'NIL' : `CHK${i + 1}`,
      name: name.slice(0, 200),
      colour: null,
      role: untreated ? 'untreated control' : 'standard',
      levels: {},
    }
  })
  const sizes = factors.map((factor) => factor.levels.length).join(' × ')
  const holes = whole.list.length - kept.size
  const also = [
    ...(holes > 0 ? [`${holes} ${holes === 1 ? 'combination' : 'combinations'} left out`] : []),
    ...(beside.length > 0 ? [`${beside.length} outside`] : []),
  ]
  return {
    about: `${factors.length === 1 ? 'One thing at several levels' : `${sizes}: ${factors.map((factor) => factor.name.toLowerCase()).join(' × ')}`}${also.length > 0 ? ` (${also.join(', ')})` : ''}`,
    treatments: treatmentsOf(factors, [
      ...crossFactors(factors).filter((each) => [...kept].some((one) => one.key === each.key)),
      ...beside,
    ]),
  }
}

/** A factor of these values: amounts where all of them are, else kinds. */
function factorOf(key: string, header: string, values: readonly string[]): Factor {
  const inHead = /^(.*?)\s*[[(,]\s*([^\])]+?)\s*[\])]?$/.exec(header)
  const headMeasure = inHead ? findUnit(inHead[2]!.replace(/\s+(n|p|k|s|mg)\s*(?=\/)/i, ''))?.symbol : undefined
  const name = (headMeasure ? inHead![1]! : header).slice(0, 80)
  const measure = headMeasure ?? measureOf(values)
  const amounts = measure ? values.map((value) => amountIn(value, measure)) : []
  const rates = measure !== null && measure !== '' && amounts.every((amount) => amount !== null)
  const factor: Factor = { key, name, kind: rates ? 'rate' : 'kind', measure: rates ? measure : '', of: null, levels: [] }
  return { ...factor, levels: levelsNamed(factor, rates ? amounts : values) }
}

/** The one measure that all amounts share; null where they are none. */
function measureOf(values: readonly string[]): string | null {
  const measures = values.map((value) => {
    const match = /^\d+(?:[.,]\d+)?\s*(.*)$/.exec(value.replace(/\s+(n|p|k|s|mg)\s*(?=\/)/i, ''))
    return match && match[1] !== '' ? findUnit(match[1]!)?.symbol : /^0+$|^none$/i.test(value) ? '' : undefined
  })
  if (measures.includes(undefined)) return null
  const named = [...new Set(measures.filter((each) => each !== ''))]
  return named.length === 1 ? named[0]! : null
}

function amountIn(value: string, measure: string): number | null {
  if (/^none$/i.test(value)) return 0
  const read = parseQuantity(value, measure)
  return read.ok && read.value >= 0 ? Number(read.value.toPrecision(9)) : null
}
