import { applicationCautions, differsInWords, nutrientAmounts, nutrientFactor, sheetRefusal, type LevelAmounts } from '@canter/core/amounts'
import { outline } from '@canter/core/ground'
import { emptySupply } from '@canter/core/numbers'
import { counted, figure, formatQuantity, workingChain, type Worked } from '@canter/core/quantity'
import { nutrientName, nutrientOf, type Unit } from '@canter/core/trial'
import { Button, Select } from '@mantine/core'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { useGone } from '../data/gone.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson, useShelf } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { CountField } from '../forms/count-field.tsx'
import { ProductAnalysis, type SupplyPatch } from '../forms/product-analysis.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'
import { Worksheets } from '../forms/worksheets.tsx'
import { factorColours, swatchFill } from '@canter/core/ground'

/** From a rate to what is weighed, every figure with its working. */
export function AmountsStep() {
  const { known: trial, site, layout } = useOpenTrial()
  const [opened, setOpened] = useState(false)
  const { save } = useSaving()
  const { units } = usePerson()
  const shelf = useShelf()
  const [shownWorking, setShownWorking] = useState<Worked | null>(null)
  const gone = useGone(trial.id, site.key)
  const placed = useMemo(() => layout?.units ?? outline(trial, site.key), [layout, site.key, trial])
  const factor = nutrientFactor(trial.treatments)
  if (trial.treatments.blinded && !opened)
    return (
      <>
        <p className="sentence lead">This trial is blinded: what each code gets is shown to whoever weighs and applies it.</p>
        <Button variant="outline" onClick={() => setOpened(true)}>
          I weigh and apply: show it here
        </Button>
      </>
    )
  if (!factor) {
    return (
      <>
        <p className="sentence lead">What is varied here is no rate of a nutrient: what is poured, counted or run is worked out below.</p>
        <p className="quiet">
          With rates of a nutrient this step goes from “120 kg N/ha” to 800 g in the bag of a plot. What is varied is said under{' '}
          <Link to={`/trials/${trial.id}/question`}>Question</Link>.
        </p>
        <Worksheets key={site.key} units={placed} />
      </>
    )
  }
  const nutrient = nutrientOf(factor)!
  const { supply } = trial.amounts
  // On what stands when it is saved: two fields may be left faster than one is kept.
  const change = (patch: SupplyPatch) =>
    save('amounts', ({ amounts }) => ({
      supply: {
        ...(amounts.supply ?? emptySupply(`Product with ${nutrientName(nutrient).toLowerCase()}`)),
        ...(typeof patch === 'function' ? patch(amounts.supply) : patch),
      },
    }))
  const offered = shelf.flatMap((item) => (item.kind === 'product' && item.body.analysis[nutrient] ? [item] : []))
  const outcome = nutrientAmounts(trial.treatments, supply, site, placed, gone)
  const refusal = outcome.ok ? sheetRefusal(supply, outcome.amounts.overMaximum) : null
  const colours = factorColours(trial.treatments, factor)
  const controls = new Set(trial.treatments.list.flatMap((each) => (each.role === 'untreated control' ? [each.levels[factor.key]] : [])))
  const figureButton = (worked: Worked, testid?: string) => (
    <button
      type="button"
      className="figure-button"
      onClick={() => setShownWorking(worked)}
      aria-label={`${worked.label}: show the working`}
      data-testid={testid}
    >
      {figure(worked, units)}
    </button>
  )
  const figureCell = (worked: Worked) => <td className="number">{figureButton(worked)}</td>
  return (
    <>
      <section className="section" aria-labelledby="product">
        <h2 className="section-title" id="product">
          Product
        </h2>
        <div className="fields">
          {offered.length > 0 && (
            <Select
              className="half"
              label="From the shelf"
              placeholder={`products with ${nutrient}`}
              data={offered.map((item) => ({ value: item.id, label: item.name }))}
              value={offered.find((item) => item.name === supply?.product)?.id ?? null}
              onChange={(id) => {
                const item = offered.find((each) => each.id === id)
                if (item?.kind === 'product') void save('amounts', { supply: { ...item.body, overMaximumReason: '' } })
              }}
            />
          )}
          <CommitText
            className="half"
            label={`Product that carries the ${nutrient}`}
            placeholder={nutrient === 'N' ? 'Ammonium nitrate with lime' : 'its name as on the bag'}
            value={supply?.product ?? ''}
            onCommit={(product) => change({ product })}
            check={(text) => (text === '' ? 'Name the product.' : null)}
          />
          <QuantityField
            label={`${nutrient} by weight`}
            value={supply?.analysis[nutrient] ?? null}
            unit="%"
            low={0.01}
            high={100}
            onCommit={(value) =>
              value === null ? undefined : change((stands) => ({ analysis: { ...stands?.analysis, [nutrient]: value } }))
            }
          />
          <CountField
            label="Applications"
            value={supply?.applications ?? 1}
            low={1}
            high={12}
            onCommit={(applications) => (applications === null ? undefined : change({ applications }))}
          />
          <QuantityField
            label="Label maximum, one application"
            value={supply?.labelMaximumPerApplication ?? null}
            unit="kg/ha"
            low={0.001}
            optional
            onCommit={(labelMaximumPerApplication) => change({ labelMaximumPerApplication })}
          />
          <QuantityField
            label="Label maximum, whole season"
            value={supply?.labelMaximumPerSeason ?? null}
            unit="kg/ha"
            low={0.001}
            optional
            onCommit={(labelMaximumPerSeason) => change({ labelMaximumPerSeason })}
          />
          <CountField
            label="Stay out after (hours)"
            value={supply?.reentryHours ?? null}
            low={0}
            high={10000}
            optional
            onCommit={(reentryHours) => change({ reentryHours })}
          />
          <CountField
            label="Before harvest (days)"
            value={supply?.preHarvestDays ?? null}
            low={0}
            high={1000}
            optional
            onCommit={(preHarvestDays) => change({ preHarvestDays })}
          />
          <CommitText
            className="half"
            label="Protective equipment"
            value={supply?.protection ?? ''}
            onCommit={(protection) => change({ protection })}
          />
          <ProductAnalysis supply={supply} main={nutrient} change={change} />
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
                <th className="number">Per {site.design.unit}</th>
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
                    {controls.has(row.level.key) && <span className="quiet"> control, treated first</span>}
                  </td>
                  {figureCell(row.nutrientRate)}
                  {figureCell(row.productRate)}
                  <td className="number">
                    {figureButton(row.perPlot, `per-plot-${row.level.code}`)}
                    {row.volumePerPlot && row.perPlot.value > 0 && <div className="small">{figureButton(row.volumePerPlot)}</div>}
                  </td>
                  {row.perBlock ? figureCell(row.perBlock) : <td className="number">–</td>}
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
          <GoneLine gone={gone} placed={placed} unit={site.design.unit} />
          <p className="small quiet" data-testid="working" style={{ minHeight: 40, margin: '6px 0 0' }}>
            {shownWorking
              ? workingChain(shownWorking, units).map((line) => (
                  <span key={line} style={{ display: 'block' }}>
                    {line}
                  </span>
                ))
              : 'Pick a figure to see its working.'}
          </p>
          {outcome.amounts.differsAlsoIn.length > 0 && (
            <>
              <h3 className="small" style={{ margin: '14px 0 4px' }}>
                What else comes with it over the season
              </h3>
              <table className="ruled" data-testid="others">
                <thead>
                  <tr>
                    <th>Treatment</th>
                    {outcome.amounts.differsAlsoIn.map((each) => (
                      <th key={each} className="number">
                        {each}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {outcome.amounts.levels.map((row) => (
                    <tr key={row.level.key}>
                      <td>
                        <span className="swatch" style={{ background: swatchFill(colours.get(row.level.key)) }} />
                        {row.level.code}
                      </td>
                      {row.others.map((each) => (
                        <td key={each.nutrient} className="number">
                          {figureButton(each.rate)}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
              <p className="caution small">{differsInWords(nutrient, outcome.amounts.differsAlsoIn)}</p>
            </>
          )}
          {outcome.amounts.overMaximum.map((text) => (
            <p key={text} className="caution" role="alert">
              {text}
            </p>
          ))}
          {outcome.amounts.overMaximum.length > 0 && (
            <CommitText
              label="Why this is right here all the same (stands on the sheet and in the report)"
              value={supply?.overMaximumReason ?? ''}
              onCommit={(overMaximumReason) => change({ overMaximumReason })}
            />
          )}
          {refusal ? (
            <p className="caution">{refusal}</p>
          ) : (
            <Button component={Link} to={`/trials/${trial.id}/sheet?site=${site.key}`} mt={8} variant="outline">
              Mixing sheet to print
            </Button>
          )}
        </section>
      ) : (
        <section className="section">
          <p className="sentence">{outcome.problem}</p>
        </section>
      )}
      <Worksheets key={site.key} units={placed} />
      <section className="section" aria-labelledby="cautions">
        <h2 className="section-title" id="cautions">
          Before anyone weighs or spreads
        </h2>
        {applicationCautions(supply ?? emptySupply('–')).map((text) => (
          <p key={text} className="caution small">
            {text}
          </p>
        ))}
      </section>
    </>
  )
}

/** Of what is lost or discarded: that nothing is weighed for it any more. */
function GoneLine({ gone, placed, unit }: { gone: ReadonlySet<string>; placed: readonly Unit[]; unit: string }) {
  const lost = placed.filter((each) => each.kind === unit && gone.has(each.id))
  return lost.length === 0 ? null : (
    <p className="small quiet" style={{ margin: '6px 0 0' }}>
      {counted(lost.length, unit)} lost or discarded ({lost.map((each) => each.code).join(', ')}): nothing is weighed for{' '}
      {lost.length === 1 ? 'it' : 'them'}.
    </p>
  )
}
