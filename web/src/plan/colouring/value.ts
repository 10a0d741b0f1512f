import { standsOut } from '@canter/core/numbers'
import { valueScale } from '@canter/core/ground'
import { codeOf, painted, rampKey, traitNumber, type Colouring } from './colouring.ts'

const EMPTY = '#fffefb'

export const value: Colouring = {
  key: 'value',
  name: 'Value',
  analysed: true,
  available: ({ measured }) => measured,
  look(ground) {
    const { views, analysis } = ground
    const known = [...views.values()].flatMap((view) => (view.value === null ? [] : [view.value]))
    const scale = valueScale(known.length > 0 ? known : [0])
    const residuals = new Map(analysis?.residuals.map((row) => [row.unit, row]))
    return {
      rests: `${scale.low} ${scale.high}`,
      key:
        known.length > 0 ? rampKey(ground, scale.low, scale.high) : { kind: 'swatches', swatches: [{ fill: EMPTY, name: 'no value yet' }] },
      of: (unit) => {
        const view = views.get(unit.id)
        const code = codeOf(ground, unit)
        if (!view || view.state === 'none' || view.state === 'missing') return painted(ground, unit, EMPTY, code)
        if (view.state === 'conflict') return painted(ground, unit, EMPTY, [...code, 'twice'], { ringed: true })
        if (view.state === 'observers') return painted(ground, unit, EMPTY, [...code, 'two'], { ringed: true })
        const text =
          view.value === null
            ? (view.text ?? '')
            : `${view.bound === 'below' ? '<' : view.bound === 'above' ? '>' : ''}${traitNumber(ground, view.value)}`
        return painted(ground, unit, view.value === null ? EMPTY : scale(view.value), [...code, text], {
          ringed: view.flagged || standsOut(residuals.get(unit.id)),
        })
      },
    }
  },
}
