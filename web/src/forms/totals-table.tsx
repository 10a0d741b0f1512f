import { balanceTreatments, differsInWords, genericProducts, treatmentTotals } from '@canter/core/amounts'
import { swatchFill, treatmentColours } from '@canter/core/ground'
import { figure, formatNumber, given, type Worked } from '@canter/core/quantity'
import type { Product, Site, Trial } from '@canter/core/trial'
import { MultiSelect } from '@mantine/core'
import { useState } from 'react'
import { usePerson, useShelf } from '../data/queries.ts'
import { MatchedSources } from './matched-sources.tsx'

/** All that each treatment gets over the season, and what they differ in beside what is asked about. */
export function TotalsTable({ trial, site }: { trial: Trial; site: Site }) {
  const { units: system } = usePerson()
  const { totals, nutrients, differsAlsoIn, flags } = treatmentTotals(trial.treatments, trial.amounts, site)
  const water = totals.some((each) => each.water !== null)
  // What one dose alone brings of one nutrient stands with it already.
  const several = new Set(totals.flatMap((each) => each.rows.map((row) => row.dose))).size > 1
  if ((nutrients.length === 0 && !water) || (nutrients.length < 2 && !several && flags.length === 0 && !water)) return null
  const colours = treatmentColours(trial.treatments)
  const single = site.design.unit === 'pot' || site.design.unit === 'plant'
  const told = (of: Worked | null | undefined, unit: string): string => figure(of ?? given('', 0, unit), system)
  // Of many combinations those that come to the same are told once.
  const groups = new Map<string, { readonly codes: string[]; readonly total: (typeof totals)[number] }>()
  for (const total of totals) {
    const key = JSON.stringify([nutrients.map((each) => total.nutrients.get(each)?.value.toPrecision(9) ?? 0), total.water?.value.toPrecision(9) ?? 0]) // prettier-ignore
    const known = groups.get(key)
    if (known) known.codes.push(total.treatment.code)
    else groups.set(key, { codes: [total.treatment.code], total })
  }
  const varied = trial.treatments.factors.map((factor) => factor.name.toLowerCase()).join(' and ')
  return (
    <section className="section" aria-labelledby="totals">
      <h2 className="section-title" id="totals">
        In all, by treatment
      </h2>
      <div style={{ overflowX: 'auto' }}>
        <table className="ruled" data-testid="others">
          <thead>
            <tr>
              <th>Treatment</th>
              {nutrients.map((each) => (
                <th key={each} className="number">
                  {each}
                  {differsAlsoIn.includes(each) && (
                    <span className="badge" style={{ marginLeft: 5 }}>
                      differs
                    </span>
                  )}
                </th>
              ))}
              {water && <th className="number">Water, as rain</th>}
            </tr>
          </thead>
          <tbody>
            {[...groups.values()].map(({ codes, total }) => (
              <tr key={codes[0]}>
                <td>
                  <span className="swatch" style={{ background: swatchFill(colours.get(total.treatment.key)) }} />
                  {codes.length > 2 ? (
                    <span title={codes.join(', ')}>{`${codes[0]!} and ${codes.length - 1} more`}</span>
                  ) : (
                    codes.join(', ')
                  )}
                </td>
                {nutrients.map((each) => (
                  <td key={each} className="number">
                    {told(total.nutrients.get(each), single ? 'mg' : 'kg/ha')}
                  </td>
                ))}
                {water && <td className="number">{told(total.water, 'mm')}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {differsAlsoIn.length > 0 && <p className="caution small">{differsInWords(varied, differsAlsoIn)}</p>}
      {flags.map((text) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
      {differsAlsoIn.length > 0 && <Balance trial={trial} site={site} />}
      <MatchedSources trial={trial} />
    </section>
  )
}

/** Further products that would make the rest even, solved for each treatment. */
function Balance({ trial, site }: { trial: Trial; site: Site }) {
  const { units: system } = usePerson()
  const shelf = useShelf()
  const [names, setNames] = useState<string[]>([])
  const offered = new Map<string, Product>([
    ...genericProducts.map((each) => [each.product, each] as const),
    ...shelf.flatMap((item) => (item.kind === 'product' ? [[item.name, item.body] as const] : [])),
    ...(trial.amounts.products ?? []).map((each) => [each.product, each] as const),
  ])
  const feeding = [...offered.values()]
    .filter((each) => Object.values(each.analysis).some((share) => share > 0))
    .map((each) => each.product)
  const further = names.flatMap((name) => offered.get(name) ?? [])
  const solved = further.length === 0 ? [] : balanceTreatments(trial.treatments, trial.amounts, site, further)
  return (
    <details style={{ marginTop: 10 }}>
      <summary className="small">Make the rest even with further products</summary>
      <MultiSelect
        label="Products that may be used"
        placeholder={names.length === 0 ? 'those that bring what some treatments lack' : ''}
        searchable
        data={feeding}
        value={names}
        onChange={setNames}
        maxValues={8}
        style={{ maxWidth: 620 }}
      />
      {solved.length > 0 && (
        <table className="ruled" data-testid="balance" style={{ marginTop: 8 }}>
          <thead>
            <tr>
              <th>Treatment</th>
              {names.map((name) => (
                <th key={name} className="number">
                  {name}
                </th>
              ))}
              <th>Then</th>
            </tr>
          </thead>
          <tbody>
            {solved.map(({ total, add, nutrients, exact }) => (
              <tr key={total.treatment.key}>
                <td>{total.treatment.code}</td>
                {add.map((each) => (
                  <td key={each.label} className="number">
                    {each.value > 1e-9 ? figure({ ...each, value: Number(each.value.toPrecision(4)) }, system) : '–'}
                  </td>
                ))}
                <td className="small">
                  {exact
                    ? 'even with the others'
                    : nutrients
                        .filter(({ wanted, comes }) => Math.abs(wanted - comes) > 0.01 * Math.max(wanted, 1))
                        .map(({ nutrient, wanted, comes }) => `${nutrient} ${formatNumber(comes, 3)} for ${formatNumber(wanted, 3)}`)
                        .join(', ')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {solved.length > 0 && solved.some((each) => !each.exact) && (
        <p className="caution small">
          With these it cannot be made even exactly; nothing is taken off, so what is too much stays. Of each treatment that is the nearest.
        </p>
      )}
    </details>
  )
}
