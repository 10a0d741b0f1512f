import { doseAmounts, dosesOf, givenIn, passesOf, type Pass } from '@canter/core/amounts'
import { figure } from '@canter/core/quantity'
import { base, type Colouring } from './colouring.ts'

/** What each plot gets in a pass: the one that was chosen, else the first that tells treatments apart and has not gone out yet. */
export const amount: Colouring = {
  key: 'amount',
  name: 'Amount',
  analysed: false,
  // What a plot gets would tell what its code stands for.
  available: ({ trial }) => !trial.treatments.blinded && dosesOf(trial.treatments, trial.amounts).length > 0,
  look(ground) {
    const { trial, site, layout } = ground.open
    const units = layout?.units ?? []
    const { rows } = doseAmounts(trial.treatments, trial.amounts, site, units, ground.left)
    const out = new Set((trial.amounts.actual ?? []).flatMap((each) => (each.site === site.key ? [`${each.dose}.${each.part}`] : [])))
    const passes = passesOf(rows, site, units, ground.left)
    const done = (pass: Pass): boolean => Array.from({ length: pass.alike }, (_, i) => pass.part + i).every((part) => pass.doses.every((dose) => out.has(`${dose.key}.${part}`))) // prettier-ignore
    const telling = passes.filter((pass) => pass.dose.to !== null)
    const next = passes.find((pass) => pass.key === ground.pass) ?? telling.find((pass) => !done(pass)) ?? telling[0] ?? passes[0]
    const gets = next ? givenIn(next) : null
    return {
      key: next
        ? {
            kind: 'treatments',
            note: `${next.product.product}${next.dose.parts.length > 1 ? `, pass ${next.part + 1}` : ''}, for one ${site.design.unit}`,
          }
        : { kind: 'treatments' },
      of: (unit) => {
        const from = base(ground, unit)
        const mine = gets?.get(unit.id)
        const text = mine === undefined ? '' : mine === null ? '0' : figure(mine, ground.system)
        return next && text
          ? { ...from, lines: [...from.lines, text], about: `${from.about}, ${text} of ${next.product.product} at this pass` }
          : from
      },
    }
  },
}
