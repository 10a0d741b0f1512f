import { standsOut } from '@canter/core/numbers'
import { formatFixed, shown } from '@canter/core/quantity'
import { residualScale } from '@canter/core/ground'
import { base, codeOf, measure, painted, type Colouring } from './colouring.ts'

export const residual: Colouring = {
  key: 'residual',
  name: 'Left over',
  analysed: true,
  available: ({ measured }) => measured,
  look(ground) {
    const { analysis, trait, system } = ground
    if (!analysis) return { key: { kind: 'treatments' }, of: (unit) => base(ground, unit) }
    const rows = new Map(analysis.residuals.map((row) => [row.unit, row]))
    const most = Math.max(...analysis.residuals.map((row) => Math.abs(row.residual)), 1e-12)
    const scale = residualScale(most)
    // One count of decimals for all, two figures of the largest.
    const widest = shown(most, measure(trait), system).value
    const decimals = Math.max(0, 1 - Math.floor(Math.log10(widest)))
    const fixed = (value: number): string => formatFixed(shown(value, measure(trait), system).value, decimals)
    return {
      key: {
        kind: 'ramp',
        name: `${trait.name} left over after what it lies in and its treatment`,
        low: `−${fixed(most)}`,
        high: `+${fixed(most)}`,
        stops: '#b5541c, #fffefb, #2b5d8c',
      },
      of: (unit) => {
        const row = rows.get(unit.id)
        if (!row) return painted(ground, unit, '#fffefb', codeOf(ground, unit))
        const sign = row.residual > 0 ? '+' : ''
        return painted(ground, unit, scale(row.residual), [...codeOf(ground, unit), sign + fixed(row.residual)], { ringed: standsOut(row) })
      },
    }
  },
}
