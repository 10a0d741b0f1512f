import { valueScale } from '@canter/core/ground'
import { base, codeOf, painted, rampKey, traitNumber, type Colouring } from './colouring.ts'

export const mean: Colouring = {
  key: 'mean',
  name: 'Mean',
  analysed: true,
  available: ({ measured }) => measured,
  look(ground) {
    const { analysis, open } = ground
    const { factors } = open.trial.treatments
    const term = analysis ? (analysis.terms['treatment'] ?? analysis.terms[factors.map((factor) => factor.key).join(':')]) : undefined
    const means = new Map(term?.means.map((row) => [row.level, row.mean]))
    if (means.size === 0) return { key: { kind: 'treatments' }, of: (unit) => base(ground, unit) }
    const scale = valueScale([...means.values()])
    return {
      key: rampKey(ground, scale.low, scale.high),
      of: (unit) => {
        const treatment = open.treatmentOf(unit.id)
        const level = term!.term === 'treatment' ? treatment?.key : factors.map((factor) => treatment?.levels[factor.key]).join(':')
        const own = means.get(level ?? '')
        return own === undefined
          ? base(ground, unit)
          : painted(ground, unit, scale(own), [...codeOf(ground, unit), traitNumber(ground, own)])
      },
    }
  },
}
