import { decisionSentences, oddsInWords, type Decision } from '@canter/core/decision'
import { formatNumber, formatQuantity, shown, shownUnit, workingLine, type UnitSystem } from '@canter/core/quantity'
import type { Economics, Factor } from '@canter/core/trial'
import { Button, Group, Select, Slider } from '@mantine/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { useDecision } from '../analysis/use-analysis.ts'
import { usePerson } from '../api/queries.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'
import { useOpenTrial } from '../pages/trial-context.ts'
import { useSaving } from '../pages/use-save.tsx'
import { swatchFill, treatmentColours } from '../plan/colours.ts'

const FIRST: Economics = {
  currency: '€',
  pricePerTonne: 40,
  baseQuality: 16,
  percentPerPoint: 9,
  productPrice: 0.35,
  applicationCost: 10,
  reference: null,
}

/** Does it pay, against what, how surely, and at which prices no longer. */
export function DecisionStep() {
  const { trial, layout, records } = useOpenTrial()
  const { save } = useSaving()
  const { units } = usePerson()
  const [tried, setTried] = useState<Partial<Economics>>({})
  const factor = trial.factors[0]!
  const standing = trial.economics ?? FIRST
  const economics = { ...standing, ...tried }
  const { data: outcome } = useDecision(trial, layout, records.records, economics)
  const change = (patch: Partial<Economics>): void => {
    setTried({})
    save({ economics: { ...standing, ...patch } })
  }
  const quality = trial.traits.find((trait) => trait.key === trial.qualityTrait)
  const money = { currency: economics.currency }
  return (
    <>
      <section className="section" aria-labelledby="pays">
        <h2 className="section-title" id="pays">
          Does it pay?
        </h2>
        {!layout || !outcome ? (
          <p className="sentence">The money answer comes once plots are measured.</p>
        ) : outcome.ok ? (
          <div data-testid="decision-sentences">
            {decisionSentences(outcome.decision, factor, economics.currency, units).map((text, i) => (
              <p key={text} className={i === 0 ? 'sentence lead' : 'sentence'}>
                {text}
              </p>
            ))}
          </div>
        ) : (
          <p className="sentence">{outcome.problem}</p>
        )}
      </section>
      {outcome?.ok && layout && <ReturnTable decision={outcome.decision} factor={factor} currency={economics.currency} system={units} />}
      <section className="section" aria-labelledby="prices">
        <h2 className="section-title" id="prices">
          Prices and costs
        </h2>
        <div className="fields">
          <CommitText
            label="Currency"
            value={economics.currency}
            maxLength={4}
            onCommit={(currency) => change({ currency })}
            check={(text) => (text === '' ? 'Name it.' : null)}
          />
          <QuantityField
            label="Price of the yield"
            value={economics.pricePerTonne}
            unit="money/t"
            low={0}
            {...money}
            onCommit={(value) => value !== null && change({ pricePerTonne: value })}
          />
          {quality && (
            <>
              <QuantityField
                label={`at ${quality.name.toLowerCase()} of`}
                value={economics.baseQuality}
                unit="%"
                low={0}
                high={100}
                onCommit={(value) => value !== null && change({ baseQuality: value })}
              />
              <QuantityField
                label="more or less for each point"
                value={economics.percentPerPoint}
                unit="%"
                low={0}
                high={100}
                onCommit={(value) => value !== null && change({ percentPerPoint: value })}
              />
            </>
          )}
          <QuantityField
            label="Price of the product"
            value={economics.productPrice}
            unit="money/kg"
            low={0}
            {...money}
            onCommit={(value) => value !== null && change({ productPrice: value })}
          />
          <QuantityField
            label="Each pass"
            value={economics.applicationCost}
            unit="money/ha"
            low={0}
            {...money}
            onCommit={(value) => value !== null && change({ applicationCost: value })}
          />
          <Select
            className="half"
            label="Held against"
            data={factor.levels.map((level) => ({ value: level.key, label: `${level.code}: ${level.name}` }))}
            value={economics.reference ?? factor.levels.find((level) => level.control)?.key ?? factor.levels[0]!.key}
            allowDeselect={false}
            onChange={(reference) => reference && change({ reference })}
          />
        </div>
        <div className="fields" style={{ marginTop: 14, gridTemplateColumns: '1fr 1fr' }}>
          <PriceSlider
            label="If the yield price were"
            value={economics.pricePerTonne}
            middle={standing.pricePerTonne}
            unit="money/t"
            system={units}
            currency={economics.currency}
            onChange={(pricePerTonne) => setTried({ ...tried, pricePerTonne })}
          />
          <PriceSlider
            label="If the product price were"
            value={economics.productPrice}
            middle={standing.productPrice}
            unit="money/kg"
            system={units}
            currency={economics.currency}
            onChange={(productPrice) => setTried({ ...tried, productPrice })}
          />
        </div>
        <p className="small quiet">
          Sliders only try prices from half to double; what is typed above stands.{' '}
          {Object.keys(tried).length > 0 && (
            <button type="button" className="link-button" onClick={() => setTried({})}>
              Back to the prices that stand
            </button>
          )}
        </p>
      </section>
      <section className="section" aria-labelledby="out">
        <h2 className="section-title" id="out">
          Take it along
        </h2>
        <Group>
          <Button component={Link} to={`/trials/${trial.id}/report`}>
            Report
          </Button>
          <Button component="a" href={`/api/trials/${trial.id}/package`} variant="outline" download>
            Whole trial (zip)
          </Button>
          <Button component="a" href={`/api/trials/${trial.id}/plots.csv`} variant="outline" disabled={!layout} download>
            Plots (CSV)
          </Button>
        </Group>
      </section>
    </>
  )
}

export function ReturnTable({
  decision,
  factor,
  currency,
  system,
}: {
  decision: Decision
  factor: Factor
  currency: string
  system: UnitSystem
}) {
  const money = (value: number): string => formatNumber(shown(value, 'money/ha', system).value, 3)
  const tonnes = (value: number): string => formatNumber(shown(value, 't/ha', system).value, 3)
  const [perArea, yieldUnit] = [`${currency}${shownUnit('money/ha', system).slice('money'.length)}`, shownUnit('t/ha', system)]
  const colours = treatmentColours(factor)
  const worked = decision.levels.find((each) => each.breakEven && each.breakEven.value > 0)?.breakEven
  const tested = decision.tested
  return (
    <>
      <table className="ruled" data-testid="returns">
        <thead>
          <tr>
            <th>Treatment</th>
            <th className="number">
              Gross
              <br />
              {perArea}
            </th>
            <th className="number">
              Cost
              <br />
              {perArea}
            </th>
            <th className="number">
              Net
              <br />
              {perArea}
            </th>
            <th className="number">
              Gain on {decision.reference.code}
              <br />
              {perArea}
            </th>
            {tested && (
              <th className="number">
                {Math.round(100 * (1 - decision.significance))} % interval
                <br />
                {perArea}
              </th>
            )}
            {tested && (
              <th className="number">
                Odds that
                <br />
                it pays
              </th>
            )}
            <th className="number">
              Yield that
              <br />
              pays it, {yieldUnit}
            </th>
            <th className="number">
              Yield
              <br />
              gained, {yieldUnit}
            </th>
          </tr>
        </thead>
        <tbody>
          {decision.levels.map((row) => (
            <tr key={row.level.key} data-chosen={row === decision.best}>
              <td>
                <span className="swatch" style={{ background: swatchFill(colours.get(row.level.key)) }} />
                {row.level.code}
              </td>
              <td className="number">{money(row.gross)}</td>
              <td className="number">{money(row.cost.value)}</td>
              <td className="number">{money(row.net)}</td>
              <td className="number">{row.breakEven ? money(row.gain.difference) : '–'}</td>
              {tested && <td className="number">{row.breakEven ? `${money(row.gain.lower)} to ${money(row.gain.upper)}` : ''}</td>}
              {tested && (
                <td className="number">
                  {row.breakEven ? oddsInWords(row.gain.odds).replace('more than', '>').replace('less than', '<') : ''}
                </td>
              )}
              <td className="number">{row.breakEven ? tonnes(row.breakEven.value) : ''}</td>
              <td className="number">{row.breakEven ? tonnes(row.extraYield) : ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {worked && (
        <p className="small quiet">
          Yield that pays the extra cost, for example: {workingLine(worked, system).replaceAll('€', currency)}. Gross returns are worked out
          plot by plot at each plot’s own quality.
        </p>
      )}
    </>
  )
}

function PriceSlider({
  label,
  value,
  middle,
  unit,
  system,
  currency,
  onChange,
}: {
  label: string
  value: number
  middle: number
  unit: 'money/t' | 'money/kg'
  system: UnitSystem
  currency: string
  onChange: (value: number) => void
}) {
  if (middle <= 0) return null
  return (
    <div>
      <div className="small">
        {label} <strong>{formatQuantity(value, unit, system, { digits: 3, currency })}</strong>
        <span className="visually-hidden"> {shownUnit(unit, system)}</span>
      </div>
      <Slider
        thumbLabel={label}
        min={middle / 2}
        max={middle * 2}
        step={middle / 100}
        value={value}
        onChange={onChange}
        label={null}
        marks={[{ value: middle }]}
        size="sm"
      />
    </div>
  )
}
