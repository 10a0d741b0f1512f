import { levelInWhole, wholeTerm } from '@canter/core/analysis'
import { valueScale } from '@canter/core/ground'
import { base, codeOf, painted, rampKey, traitNumber, type Colouring } from './colouring.ts'

export const mean: Colouring = {
  key: 'mean',
  name: 'Mean',
  analysed: true,
  available: ({ measured }) => measured,
  look(ground) {
    const { analysis, open } = ground
    const { treatments } = open.trial
    const term = analysis ? wholeTerm(analysis.terms, treatments) : undefined
    const means = new Map(term?.means.map((row) => [row.level, row.mean]))
    if (means.size === 0) return { key: { kind: 'treatments' }, of: (unit) => base(ground, unit) }
    const scale = valueScale([...means.values()])
    return {
      key: rampKey(ground, scale.low, scale.high),
      of: (unit) => {
        const treatment = open.treatmentOf(unit.id)
        const own = treatment && means.get(levelInWhole(term!, treatment, treatments))
        return own === undefined
          ? base(ground, unit)
          : painted(ground, unit, scale(own), [...codeOf(ground, unit), traitNumber(ground, own)])
      },
    }
  },
}
