import { applicationCautions, nutrientAmounts, sheetRefusal, type LevelAmounts } from '@canter/core/amounts'
import { figure, formatQuantity, workingChain, type Worked } from '@canter/core/quantity'
import type { Supply } from '@canter/core/trial'
import { Button, NumberInput } from '@mantine/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { usePerson } from '../api/queries.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'
import { useOpenTrial } from '../pages/trial-context.ts'
import { useSaving } from '../pages/use-save.tsx'
import { swatchFill, treatmentColours } from '../plan/colours.ts'

const NEW_SUPPLY: Supply = {
  product: 'Ammonium nitrate with lime',
  analysis: {},
  applications: 1,
  labelMaximumPerApplication: null,
  labelMaximumPerSeason: null,
  reentryHours: null,
  preHarvestDays: null,
  protection: '',
  overMaximumReason: '',
}

/** From a rate to what is weighed, every figure with its working. */
export function AmountsStep() {
  const { trial, layout } = useOpenTrial()
  const { save } = useSaving()
  const { units } = usePerson()
  const [shownWorking, setShownWorking] = useState<Worked | null>(null)
  const nutrient = trial.factors[0]!.nutrient
  if (nutrient === null) {
    return <p className="sentence">The treatments of this trial are not rates of a nutrient, so there is nothing to weigh out here.</p>
  }
  const supply = trial.supply ?? NEW_SUPPLY
  const change = (patch: Partial<Supply>): void => save({ supply: { ...supply, ...patch } })
  const outcome = nutrientAmounts(trial, layout)
  const refusal = outcome.ok ? sheetRefusal(trial, outcome.amounts.overMaximum) : null
  const colours = treatmentColours(trial.factors[0]!)
  const figureCell = (worked: Worked, testid?: string) => (
    <td className="number">
      <button
        type="button"
        className="figure-button"
        onClick={() => setShownWorking(worked)}
        aria-label={`${worked.label}: show the working`}
        data-testid={testid}
      >
        {figure(worked, units)}
      </button>
    </td>
  )
  return (
    <>
      <section className="section" aria-labelledby="product">
        <h2 className="section-title" id="product">
          Product
        </h2>
        <div className="fields">
          <CommitText
            className="half"
            label={`Product that carries the ${nutrient}`}
            value={supply.product}
            onCommit={(product) => change({ product })}
            check={(text) => (text === '' ? 'Name the product.' : null)}
          />
          <QuantityField
            label={`${nutrient} by weight`}
            value={supply.analysis[nutrient] ?? null}
            unit="%"
            low={0.01}
            high={100}
            onCommit={(value) => value !== null && change({ analysis: { ...supply.analysis, [nutrient]: value } })}
          />
          <NumberInput
            label="Applications"
            value={supply.applications}
            min={1}
            max={12}
            allowDecimal={false}
            onChange={(value) =>
              typeof value === 'number' && value >= 1 && value <= 12 && value !== supply.applications && change({ applications: value })
            }
          />
          <QuantityField
            label="Label maximum, one application"
            value={supply.labelMaximumPerApplication}
            unit="kg/ha"
            low={0.001}
            optional
            onCommit={(labelMaximumPerApplication) => change({ labelMaximumPerApplication })}
          />
          <QuantityField
            label="Label maximum, whole season"
            value={supply.labelMaximumPerSeason}
            unit="kg/ha"
            low={0.001}
            optional
            onCommit={(labelMaximumPerSeason) => change({ labelMaximumPerSeason })}
          />
          <NumberInput
            label="Stay out after (hours)"
            value={supply.reentryHours ?? ''}
            min={0}
            max={10000}
            hideControls
            onChange={(value) => change({ reentryHours: typeof value === 'number' ? value : null })}
          />
          <NumberInput
            label="Before harvest (days)"
            value={supply.preHarvestDays ?? ''}
            min={0}
            max={1000}
            hideControls
            onChange={(value) => change({ preHarvestDays: typeof value === 'number' ? value : null })}
          />
          <CommitText
            className="half"
            label="Protective equipment"
            value={supply.protection}
            onCommit={(protection) => change({ protection })}
          />
        </div>
      </section>
      {outcome.ok ? (
        <section className="section" aria-labelledby="amounts">
          <h2 className="section-title" id="amounts">
            To weigh at each application
          </h2>
          <table className="ruled" data-testid="amounts">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="number">{nutrient} over the season</th>
                <th className="number">Product over the season</th>
                <th className="number">Per plot</th>
                <th className="number">Per block</th>
                <th className="number">The site</th>
              </tr>
            </thead>
            <tbody>
              {outcome.amounts.levels.map((row: LevelAmounts) => (
                <tr key={row.level.key}>
                  <td>
                    <span className="swatch" style={{ background: swatchFill(colours.get(row.level.key)) }} />
                    {row.level.code}
                    {row.level.control && <span className="quiet"> control, treated first</span>}
                  </td>
                  {figureCell(row.nutrientRate)}
                  {figureCell(row.productRate)}
                  {figureCell(row.perPlot, `per-plot-${row.level.code}`)}
                  {figureCell(row.perBlock)}
                  {figureCell(row.perSite)}
                </tr>
              ))}
              <tr>
                <td>
                  <strong>All</strong>
                </td>
                <td colSpan={4} />
                <td className="number">
                  <strong>{formatQuantity(outcome.amounts.siteTotal.value, 'kg', units)}</strong>
                </td>
              </tr>
            </tbody>
          </table>
          <p className="small quiet" data-testid="working" style={{ minHeight: 40, margin: '6px 0 0' }}>
            {shownWorking
              ? workingChain(shownWorking, units).map((line) => (
                  <span key={line} style={{ display: 'block' }}>
                    {line}
                  </span>
                ))
              : 'Pick a figure to see its working.'}
          </p>
          {outcome.amounts.overMaximum.map((text) => (
            <p key={text} className="caution" role="alert">
              {text}
            </p>
          ))}
          {outcome.amounts.overMaximum.length > 0 && (
            <CommitText
              label="Why this is right here all the same (stands on the sheet and in the report)"
              value={supply.overMaximumReason}
              onCommit={(overMaximumReason) => change({ overMaximumReason })}
            />
          )}
          {refusal ? (
            <p className="caution">{refusal}</p>
          ) : (
            <Button component={Link} to={`/trials/${trial.id}/sheet`} mt={8} variant="outline">
              Mixing sheet to print
            </Button>
          )}
        </section>
      ) : (
        <section className="section">
          <p className="sentence">{outcome.problem}</p>
        </section>
      )}
      <section className="section" aria-labelledby="cautions">
        <h2 className="section-title" id="cautions">
          Before anyone weighs or spreads
        </h2>
        {applicationCautions({ ...trial, supply }).map((text) => (
          <p key={text} className="caution small">
            {text}
          </p>
        ))}
      </section>
    </>
  )
}
