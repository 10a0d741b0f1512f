import { nutrientAmounts } from '@canter/core/amounts'
import type { Analysis } from '@canter/core/analysis'
import { standsOut } from '@canter/core/numbers'
import { formatFixed, formatNumber, formatPlain, shown, withUnit, type UnitSystem } from '@canter/core/quantity'
import type { Unit } from '@canter/core/trial'
import type { OpenTrial } from '../pages/trial-context.ts'
import { inkOn, residualScale, treatmentColours, valueScale } from './colours.ts'
import type { PlotLook } from './plan.tsx'

export type Colouring = 'treatment' | 'amount' | 'progress' | 'value' | 'mean' | 'residual'

export interface Looks {
  readonly of: (unit: Unit) => PlotLook
  /** For the legend of a ramp; null for classes. */
  readonly ramp: { readonly low: string; readonly high: string; readonly stops: string; readonly name: string } | null
}

/** How each plot looks under the colouring chosen; the plan itself knows nothing of trials. */
export function looks(open: OpenTrial, colouring: Colouring, traitKey: string, analysis: Analysis | null, system: UnitSystem): Looks {
  const { trial, layout, rowOf } = open
  const factor = trial.factors[0]!
  const colours = treatmentColours(factor)
  const trait = [...trial.traits, ...trial.derived].find((each) => each.key === traitKey)
  const levelOf = (unit: Unit) => factor.levels.find((level) => level.key === unit.received[factor.key])
  const residuals = new Map(analysis?.residuals.map((row) => [row.unit, row]))
  const amounts = colouring === 'amount' ? nutrientAmounts(trial, layout) : null
  const number = (value: number): string => {
    if (!trait) return ''
    const out = shown(value, trait.unit, system).value
    return trait.unit === 'score' ? formatPlain(out, 2) : formatNumber(out, 3)
  }

  const base = (unit: Unit): PlotLook => {
    const level = levelOf(unit)
    const colour = level ? colours.get(level.key) : undefined
    const row = rowOf.get(unit.id)
    const out = row?.leftOut(traitKey)
    const missing = row?.values.get(traitKey)?.kind === 'missing'
    const flags = row?.notes.filter((note) => note.kind === 'flag').length ?? 0
    return {
      fill: colour?.fill ?? '#fffefb',
      ink: colour?.ink ?? '#1d201d',
      hatched: colour?.hatched ?? false,
      lines: level ? [level.code] : [],
      crossed: Boolean(out) || missing,
      ringed: false,
      about: `Plot ${unit.code}, ${level?.name ?? 'no treatment yet'}${out ? ', left out' : ''}${missing ? ', missing' : ''}${flags > 0 ? ', flagged' : ''}`,
    }
  }
  const plain = (unit: Unit, fill: string, lines: string[], more: Partial<PlotLook> = {}): PlotLook => {
    const from = base(unit)
    return { ...from, fill, ink: inkOn(fill), hatched: false, lines, ...more, about: [from.about, ...lines].join(', ') }
  }
  const valueOf = (unit: Unit): number | null => {
    const value = rowOf.get(unit.id)?.values.get(traitKey)
    return value?.kind === 'value' ? value.worked.value : null
  }

  if (colouring === 'amount' && amounts?.ok) {
    return {
      ramp: null,
      of: (unit) => {
        const mine = amounts.amounts.levels.find((each) => each.level.key === unit.planned[factor.key])
        const out = mine ? shown(mine.perPlot.value, 'g', system) : null
        const from = base(unit)
        const text = out ? withUnit(formatNumber(out.value, 3), out.unit) : ''
        return { ...from, lines: [...from.lines, text], about: `${from.about}, ${text} at each application` }
      },
    }
  }
  if (colouring === 'progress') {
    return {
      ramp: null,
      of: (unit) => {
        const row = rowOf.get(unit.id)
        const done = trial.traits.filter((each) => row && row.values.get(each.key)?.kind !== 'none').length
        const whole = done === trial.traits.length
        const flagged = row?.notes.some((note) => note.kind !== 'remark') ?? false
        return plain(unit, whole ? '#9dbfa8' : done > 0 ? '#e9e0bd' : '#fffefb', [`${done}/${trial.traits.length}`], { ringed: flagged })
      },
    }
  }
  if (colouring === 'value' && trait) {
    const values = open.table?.rows.map((row) => valueOf(row.unit)).filter((each) => each !== null) ?? []
    if (values.length > 0) {
      const scale = valueScale(values)
      return {
        ramp: { ...rampNames(trait, scale.low, scale.high, number, system), stops: '#f6efe2, #c78fae, #5c1a49' },
        of: (unit) => {
          const value = valueOf(unit)
          const odd = standsOut(residuals.get(unit.id))
          if (value === null) return plain(unit, '#fffefb', [levelOf(unit)?.code ?? ''])
          return plain(unit, scale(value), [levelOf(unit)?.code ?? '', number(value)], {
            ringed: odd || (rowOf.get(unit.id)?.notes.some((note) => note.kind === 'flag') ?? false),
          })
        },
      }
    }
  }
  if (colouring === 'mean' && trait && analysis) {
    const means = new Map(analysis.terms[factor.key]!.means.map((row) => [row.level, row.mean]))
    const scale = valueScale([...means.values()])
    return {
      ramp: { ...rampNames(trait, scale.low, scale.high, number, system), stops: '#f6efe2, #c78fae, #5c1a49' },
      of: (unit) => {
        const mean = means.get(unit.received[factor.key] ?? '')
        return mean === undefined ? base(unit) : plain(unit, scale(mean), [levelOf(unit)?.code ?? '', number(mean)])
      },
    }
  }
  if (colouring === 'residual' && trait && analysis) {
    const most = Math.max(...analysis.residuals.map((row) => Math.abs(row.residual)), 1e-12)
    const scale = residualScale(most)
    // One count of decimals for all, two figures of the largest.
    const widest = shown(most, trait.unit, system).value
    const decimals = Math.max(0, 1 - Math.floor(Math.log10(widest)))
    const fixed = (value: number): string => formatFixed(shown(value, trait.unit, system).value, decimals)
    return {
      ramp: {
        name: `${trait.name} left over after block and treatment`,
        low: `−${fixed(most)}`,
        high: `+${fixed(most)}`,
        stops: '#b5541c, #fffefb, #2b5d8c',
      },
      of: (unit) => {
        const row = residuals.get(unit.id)
        if (!row) return plain(unit, '#fffefb', [levelOf(unit)?.code ?? ''])
        const sign = row.residual > 0 ? '+' : ''
        return plain(unit, scale(row.residual), [levelOf(unit)?.code ?? '', sign + fixed(row.residual)], {
          ringed: standsOut(row),
        })
      },
    }
  }
  return { ramp: null, of: base }
}

function rampNames(
  trait: { name: string; unit: string },
  low: number,
  high: number,
  number: (value: number) => string,
  system: UnitSystem,
) {
  return { name: trait.name, low: number(low), high: withUnit(number(high), shown(1, trait.unit, system).unit) }
}
