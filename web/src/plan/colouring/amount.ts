import { nutrientAmounts, nutrientFactor } from '@canter/core/amounts'
import { formatNumber, shown, withUnit } from '@canter/core/quantity'
import { base, type Colouring } from './colouring.ts'

export const amount: Colouring = {
  key: 'amount',
  name: 'Amount',
  analysed: false,
  available: ({ trial }) => nutrientFactor(trial.treatments) !== undefined && trial.amounts.supply !== null,
  look(ground) {
    const { trial, site, layout, dealt } = ground.open
    const outcome = nutrientAmounts(trial.treatments, trial.amounts.supply, site, layout?.units ?? [])
    return {
      key: { kind: 'treatments' },
      of: (unit) => {
        const from = base(ground, unit)
        if (!outcome.ok) return from
        const { factor, levels } = outcome.amounts
        const mine = levels.find((each) => each.level.key === dealt?.planned.get(unit.id)?.[factor.key])
        const out = mine ? shown(mine.perPlot.value, 'g', ground.system) : null
        const text = out ? withUnit(formatNumber(out.value, 3), out.unit) : ''
        return { ...from, lines: [...from.lines, text], about: `${from.about}, ${text} at each application` }
      },
    }
  },
}
