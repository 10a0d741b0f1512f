import { actualRates, doseAmounts, rateInWords, sheetStops, treatmentTotals, differsInWords } from '@canter/core/amounts'
import { counted, figure, formatPlain, given } from '@canter/core/quantity'
import { placementOf } from '@canter/core/trial'
import { usePerson } from '../data/queries.ts'
import type { OpenTrial } from '../data/open-trial.ts'

/** What was put on, what every treatment got in all, and what really went out. */
export function AmountsInReport({ open: { trial, site, layout } }: { open: OpenTrial }) {
  const { units: system } = usePerson()
  const { treatments, amounts } = trial
  const { rows } = doseAmounts(treatments, amounts, site, layout?.units ?? [])
  const doses = [...new Set(rows.map((row) => row.dose))]
  // Of a blinded trial it would tell what the codes stand for.
  if (doses.length === 0 || treatments.blinded) return null
  const { totals, nutrients, differsAlsoIn, flags } = treatmentTotals(treatments, amounts, site)
  const single = site.design.unit === 'pot' || site.design.unit === 'plant'
  const out = actualRates(treatments, amounts, trial.sites.map((each) => each.key)) // prettier-ignore
  return (
    <>
      {doses.map((dose) => {
        const own = rows.filter((row) => row.dose === dose)
        const { stops, by } = sheetStops(own, trial, site)
        const open = by.flatMap((each) => each.open)
        const { to } = dose
        return (
          <p key={dose.key} className="small">
            {own[0]!.product.product}, {placementOf(dose.placement).name.toLowerCase()}, {counted(dose.parts.length, 'application')}
            {to === null ? `, every ${site.design.unit} alike` : ''}
            {dose.amount === null ? '' : `: ${rateInWords({ ...dose, amount: dose.amount })}`}
            {own.some((row) => row.perArea && row.recipient.named) &&
              `; in the season ${own.flatMap((row) => (row.perArea ? [`${row.recipient.named?.code ?? ''} ${figure(row.perArea, system)}`] : [])).join(', ')} of product`}
            .
            {dose.reason && stops.length > open.length
              ? ` ${stops.filter((stop) => !open.includes(stop)).join(' ')} Put on all the same, because: ${dose.reason}.`
              : ''}
            {dose.reason && open.length > 0 ? ` Since then, with no reason on record: ${open.join(' ')}` : ''}
          </p>
        )
      })}
      {nutrients.length > 0 && totals.length <= 60 && (
        <table className="ruled" data-testid="report-totals">
          <thead>
            <tr>
              <th>In all over the season</th>
              {nutrients.map((each) => (
                <th key={each} className="number">
                  {each}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {totals.map(({ treatment, nutrients: got }) => (
              <tr key={treatment.key}>
                <td>{treatment.code}</td>
                {nutrients.map((each) => (
                  <td key={each} className="number">
                    {figure(got.get(each) ?? given('', 0, single ? 'mg' : 'kg/ha'), system)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {differsAlsoIn.length > 0 && (
        <p className="caution small">
          {differsInWords(treatments.factors.map((each) => each.name.toLowerCase()).join(' and '), differsAlsoIn)}
        </p>
      )}
      {flags.map((text) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
      {out.length > 0 && (
        <p className="small">
          What went out, over all sites:{' '}
          {out
            .map(
              (each) =>
                `${each.level.code} ${figure(each.actual, system)} for ${figure(each.planned, system)} (${each.deviation > 0 ? '+' : ''}${formatPlain(each.deviation, 2)} %)`,
            )
            .join(', ')}
          .
        </p>
      )}
    </>
  )
}
