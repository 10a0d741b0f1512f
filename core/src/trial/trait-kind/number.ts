import { parseQuantity, shownUnit } from '../../quantity/index.ts'
import type { ReadingValue } from '../reading-value.ts'
import { mean, NOTHING, plain, type TraitKind } from './trait-kind.ts'

/** A measured number. Samples are averaged; one below what could be read makes the mean a bound, as far as it is known. */
export const number: TraitKind = {
  key: 'number',
  name: 'Number',
  about: 'Something weighed or measured: a weight, a length, a percentage read off.',
  values: ['number', 'below limit', 'above limit'],
  measured: true,
  numeric: true,
  digits: 'as read',
  held: false,
  ...plain,
  analysed: 'continuous',
  choices: null,
  keyboard: 'decimal',
  example: '62.4, or < 0.5 for what lies below what can be read',
  read(typed, trait, system) {
    const bound = /^([<>])\s*(.+)$/.exec(typed)
    const parsed = parseQuantity(bound?.[2] ?? typed, trait.unit, shownUnit(trait.unit, system))
    if (!parsed.ok) return parsed
    const stored = Number(parsed.value.toPrecision(12))
    const common = { typed: typed.slice(0, 60), typedMeasure: parsed.typedUnit }
    return {
      ok: true,
      number: stored,
      value: bound
        ? { kind: bound[1] === '<' ? 'below limit' : 'above limit', limit: stored, ...common }
        : { kind: 'number', value: stored, ...common },
    }
  },
  figure: figureOf,
  reduce(values) {
    const figures = values.map((each) => figureOf(each)!)
    const below = values.some((each) => each.kind === 'below limit')
    const above = values.some((each) => each.kind === 'above limit')
    if (below && above) return { ...NOTHING, text: 'some below, some above what could be read' }
    return {
      ...NOTHING,
      value: mean(figures),
      bound: below ? 'below' : above ? 'above' : null,
      part: below || above ? null : mean(figures),
    }
  },
}

function figureOf(value: ReadingValue): number | null {
  if (value.kind === 'number') return value.value
  return value.kind === 'below limit' || value.kind === 'above limit' ? value.limit : null
}
