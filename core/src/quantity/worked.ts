import { formatNumber, formatPlain, withUnit } from './format.ts'
import { shown, type UnitSystem } from './system.ts'
import { convert, sameDimension, unitOf } from './unit.ts'

/** A number that carries the chain of figures and units that made it. */
export interface Worked {
  readonly label: string
  readonly value: number
  readonly unit: string
  /** What the quantity is of, e.g. the nutrient in a rate. */
  readonly of?: string
  readonly terms?: readonly WorkedTerm[]
  /** Terms are added up, and those of power −1 taken off; else they are multiplied and divided. */
  readonly sum?: true
  /** How it was worked out, where that is no product and no sum. */
  readonly how?: string
}

export interface WorkedTerm {
  readonly of: Worked
  readonly power: 1 | -1
  /** Use `1 − x` of a share, e.g. what is left after dirt tare or moisture. */
  readonly complement?: boolean
}

/** A figure taken as it stands: measured, typed or set. */
export function given(label: string, value: number, unit: string, of?: string): Worked {
  unitOf(unit)
  return of ? { label, value, unit, of } : { label, value, unit }
}

/**
 * The product (and quotient) of worked figures, in `unit`. Throws RangeError when the
 * dimensions of the terms do not make that unit. The value is not finite when a divisor
 * is zero or a term is missing; nothing is filled in.
 */
export function workedProduct(label: string, unit: string, terms: readonly WorkedTerm[], of?: string): Worked {
  let value = 1
  const dimension: [number, number, number, number, number] = [0, 0, 0, 0, 0]
  for (const term of terms) {
    const from = unitOf(term.of.unit)
    const base = term.of.value * from.factor
    const factor = term.complement ? 1 - base : base
    value = term.power === 1 ? value * factor : value / factor
    from.dimension.forEach((exponent, i) => (dimension[i]! += exponent * term.power))
  }
  const to = unitOf(unit)
  if (!sameDimension(dimension, to.dimension)) {
    throw new RangeError(`${label}: the terms do not make ${unit || 'a plain number'}`)
  }
  const result = { label, value: value / to.factor, unit, terms }
  return of ? { ...result, of } : result
}

/** The sum of worked figures, less those of `less`, in `unit`. Throws RangeError when one measures something else. */
export function workedSum(label: string, unit: string, add: readonly Worked[], less: readonly Worked[] = []): Worked {
  const value = add.reduce((sum, each) => sum + convert(each.value, each.unit, unit), 0)
  const off = less.reduce((sum, each) => sum + convert(each.value, each.unit, unit), 0)
  return { label, value: value - off, unit, sum: true, terms: [...add.map(times), ...less.map(over)] }
}

/** A figure by a formula that is no product and no sum, told in words: `terms` are what went in. */
export function workedBy(label: string, value: number, unit: string, how: string, from: readonly Worked[] = []): Worked {
  unitOf(unit)
  return { label, value, unit, how, terms: from.map(times) }
}

export function times(of: Worked): WorkedTerm {
  return { of, power: 1 }
}

export function over(of: Worked): WorkedTerm {
  return { of, power: -1 }
}

/** `1 − x` of a share. */
export function timesRest(of: Worked): WorkedTerm {
  return { of, power: 1, complement: true }
}

/** One figure with its unit. */
export function figure(worked: Worked, system: UnitSystem = 'metric', digits = 3): string {
  const out = shown(worked.value, worked.unit, system)
  // A given figure is read as it was given, a computed one to the digits it is worth.
  return withUnit(worked.terms ? formatNumber(out.value, digits) : formatPlain(out.value, 5), out.unit, worked.of)
}

/** The working in one line: `62.4 kg × (1 − 8.0 %) ÷ 13.5 m² = 42.5 t/ha`. A given figure shows itself. */
export function workingLine(worked: Worked, system: UnitSystem = 'metric', digits = 4): string {
  if (!worked.terms) return figure(worked, system, digits)
  if (worked.how !== undefined) return `${worked.how} = ${figure(worked, system, digits)}`
  const parts = worked.terms.map((term, i) => {
    const text = figure(term.of, system, digits)
    const body = term.complement ? `(1 − ${text})` : text
    if (worked.sum) return i === 0 && term.power === 1 ? body : `${term.power === 1 ? '+' : '−'} ${body}`
    if (i === 0) return term.power === 1 ? body : `1 ÷ ${body}`
    return `${term.power === 1 ? '×' : '÷'} ${body}`
  })
  return `${parts.join(' ')} = ${figure(worked, system, digits)}`
}

/** The whole chain, inner figures first, one `label: working` a line; figures met twice are told once. */
export function workingChain(worked: Worked, system: UnitSystem = 'metric'): string[] {
  const lines = new Set<string>()
  const visit = (each: Worked): void => {
    each.terms?.forEach((term) => visit(term.of))
    lines.add(`${each.label}: ${workingLine(each, system)}`)
  }
  visit(worked)
  return [...lines]
}
