import { doseAmounts, dosesOf, leading, passesOf, type Pass } from '@canter/core/amounts'
import { figure } from '@canter/core/quantity'
import { base, type Colouring } from './colouring.ts'

/** What each plot gets in a pass: the one that was chosen, else the first that tells treatments apart and has not gone out yet. */
export const amount: Colouring = {
  key: 'amount',
  name: 'Amount',
  analysed: false,
  available: ({ trial }) => dosesOf(trial.treatments, trial.amounts).length > 0,
  look(ground) {
    const { trial, site, layout } = ground.open
    const units = layout?.units ?? []
    const { rows } = doseAmounts(trial.treatments, trial.amounts, site, units)
    const out = new Set((trial.amounts.actual ?? []).flatMap((each) => (each.site === site.key ? [`${each.dose}.${each.part}`] : [])))
    const passes = passesOf(
      rows,
      site,
      units.filter((unit) => unit.kind === site.design.unit),
    )
    const done = (pass: Pass): boolean => Array.from({ length: pass.alike }, (_, i) => pass.part + i).every((part) => out.has(`${pass.dose.key}.${part}`)) // prettier-ignore
    const telling = passes.filter((pass) => pass.dose.to !== null)
    const next = passes.find((pass) => pass.key === ground.pass) ?? telling.find((pass) => !done(pass)) ?? telling[0] ?? passes[0]
    const gets = new Map<string, string>()
    for (const turn of next?.turns ?? []) {
      const each = turn.row ? leading(turn.row.passes[next!.part]!, turn.row.product) : null
      for (const unit of turn.units)
        gets.set(unit.id, each ? figure(each, ground.system) : turn.carrier ? figure(turn.carrier, ground.system) : '0')
    }
    return {
      key: next
        ? {
            kind: 'treatments',
            note: `${next.product.product}${next.dose.parts.length > 1 ? `, pass ${next.part + 1}` : ''}, for one ${site.design.unit}`,
          }
        : { kind: 'treatments' },
      of: (unit) => {
        const from = base(ground, unit)
        const text = gets.get(unit.id) ?? ''
        return next && text
          ? { ...from, lines: [...from.lines, text], about: `${from.about}, ${text} of ${next.product.product} at this pass` }
          : from
      },
    }
  },
}
