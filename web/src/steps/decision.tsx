import { sentencesOf } from '@canter/core/analysis'
import { costedProducts, decisionSentences, notStated, rankingSentence } from '@canter/core/decision'
import { fileFormats } from '@canter/core/exchange'
import { nutrientFactor } from '@canter/core/amounts'
import { formatQuantity, shownUnit, type UnitSystem } from '@canter/core/quantity'
import { api, formOf, SUPPLY, visitsOf, type Prices } from '@canter/core/trial'
import { Button, Group, Select, Slider } from '@mantine/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { useAnalysis, useDecision, useRankings } from '../data/analysis.ts'
import { pathOf } from '../data/client.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { WhatBecame } from '../chart/both-ways.tsx'
import { Sentences } from '../chart/sentences.tsx'
import { RankingTable } from '../chart/ranking-table.tsx'
import { ReturnTable } from '../chart/return-table.tsx'
import { CommitText } from '../forms/commit-text.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'

/** Claims of the yield that stand under the money answer. */
const BASIS = 2

/** Does it pay, against what, how surely, and at which prices no longer. Nothing is said of money that nobody stated. */
export function DecisionStep() {
  const open = useOpenTrial()
  const { trial, layouts, progress } = open
  const { save } = useSaving()
  const { units: system } = usePerson()
  const [tried, setTried] = useState<Partial<Prices>>({})
  const standing = trial.prices
  const prices = { ...standing, ...tried }
  const { data: outcome } = useDecision(open, null, prices)
  const { data: rankings } = useRankings(open, prices)
  const { yieldTrait } = trial.traits
  const harvested = yieldTrait === null ? undefined : visitsOf(trial.traits, yieldTrait).at(-1)
  const { data: basis } = useAnalysis(
    open,
    yieldTrait !== null && harvested !== undefined && layouts.length > 0 ? { trait: yieldTrait, visit: harvested, site: null } : null,
  )
  const across =
    outcome?.ok && rankings ? rankingSentence(outcome.decision, rankings, trial.treatments, trial.question.season, system) : null
  const change = (patch: Partial<Prices>) => {
    setTried({})
    return save('prices', patch)
  }
  const all = [...trial.traits.observed, ...trial.traits.derived]
  const quality = all.find((trait) => trait.key === trial.traits.qualityTrait)
  const harvest = all.find((trait) => trait.key === trial.traits.yieldTrait)
  const rated = nutrientFactor(trial.treatments) !== undefined
  const money = { currency: prices.currency }
  const missing = notStated(trial, prices)
  const others = costedProducts(trial).filter(({ key }) => key !== SUPPLY)
  const label = trial.amounts.supply?.price
  return (
    <>
      <section className="section" aria-labelledby="pays">
        <h2 className="section-title" id="pays">
          Does it pay?
        </h2>
        {missing !== null ? (
          <>
            <p className="sentence lead">{missing}</p>
            {standing.pricePerTonne === null && (
              <p className="quiet">
                With a price and what each treatment costs, this says for example: “At these prices 120 kg N/ha returned most: €110/ha more
                than no nitrogen after its cost (€40 to €180 with 95 % confidence; the odds that it pays are more than 99 in 100).”
              </p>
            )}
          </>
        ) : layouts.length === 0 || progress.readings === 0 ? (
          <p className="sentence">The money answer comes once plots are measured.</p>
        ) : !outcome ? (
          <p className="quiet">Working it out.</p>
        ) : outcome.ok ? (
          <div data-testid="decision-sentences">
            {withSecond(decisionSentences(outcome.decision, trial.treatments, prices.currency, system), across).map((text, i) => (
              <p key={text} className={i === 0 ? 'sentence lead' : 'sentence'}>
                {text}
              </p>
            ))}
          </div>
        ) : (
          <p className="sentence">{outcome.problem}</p>
        )}
      </section>
      {missing === null && outcome?.ok && (
        <ReturnTable decision={outcome.decision} treatments={trial.treatments} currency={prices.currency} system={system} />
      )}
      {missing === null && outcome?.ok && rankings && rankings.length > 1 && (
        <RankingTable decision={outcome.decision} sites={rankings} trial={trial} currency={prices.currency} system={system} />
      )}
      <section className="section" aria-labelledby="prices">
        <h2 className="section-title" id="prices">
          Prices and costs
        </h2>
        <div className="fields">
          <CommitText
            label="Currency"
            value={prices.currency}
            maxLength={4}
            onCommit={(currency) => change({ currency })}
            check={(text) => (text === '' ? 'Name it.' : null)}
          />
          <QuantityField
            label={harvest ? `Price of ${harvest.name.toLowerCase()}` : 'Price of the yield'}
            value={prices.pricePerTonne}
            unit="money/t"
            low={0}
            optional
            placeholder="not stated"
            {...money}
            onCommit={(pricePerTonne) => change({ pricePerTonne })}
          />
          {quality && (
            <>
              <QuantityField
                label={`at ${quality.name.toLowerCase()} of`}
                value={prices.baseQuality}
                unit="%"
                low={0}
                high={100}
                optional
                placeholder="not stated"
                onCommit={(baseQuality) => change({ baseQuality })}
              />
              <QuantityField
                label="more or less for each point"
                value={prices.percentPerPoint}
                unit="%"
                low={0}
                high={100}
                optional
                placeholder="not stated"
                onCommit={(percentPerPoint) => change({ percentPerPoint })}
              />
            </>
          )}
          {rated && (
            <>
              <QuantityField
                label="Price of the product"
                value={prices.productPrice}
                unit="money/kg"
                low={0}
                optional
                placeholder={label ? `${formatQuantity(label.amount, `money/${label.per}`, system, money)}, as on its label` : 'not stated'}
                {...money}
                onCommit={(productPrice) => change({ productPrice })}
              />
            </>
          )}
          {others.map(({ key, product }) => {
            const per = product.price?.per ?? (formOf(product)?.poured ? 'L' : 'kg')
            return (
              <QuantityField
                key={key}
                label={`Price of ${product.product}`}
                value={product.price?.amount ?? null}
                unit={`money/${per}`}
                low={0}
                optional
                placeholder="not stated"
                {...money}
                onCommit={(amount) =>
                  save('amounts', ({ amounts }) => ({
                    products: (amounts.products ?? []).map((each) =>
                      each.key === key ? { ...each, price: amount === null ? null : { amount, per } } : each,
                    ),
                  }))
                }
              />
            )
          })}
          {(rated || others.length > 0) && (
            <QuantityField
              label="Each pass"
              value={prices.applicationCost}
              unit="money/ha"
              low={0}
              optional
              placeholder="not stated"
              {...money}
              onCommit={(applicationCost) => change({ applicationCost })}
            />
          )}
          {!rated &&
            trial.treatments.list.map((treatment) => (
              <QuantityField
                key={treatment.key}
                label={others.length > 0 ? `${treatment.code} costs besides` : `${treatment.code} costs`}
                value={prices.otherCost[treatment.key] ?? null}
                unit="money/ha"
                low={0}
                optional
                placeholder={treatment.role === 'untreated control' || others.length > 0 ? 'nothing' : 'not stated'}
                {...money}
                onCommit={(value) => {
                  setTried({})
                  return save('prices', ({ prices: { otherCost } }) => {
                    const { [treatment.key]: _, ...others } = otherCost
                    return { otherCost: value === null ? others : { ...others, [treatment.key]: value } }
                  })
                }}
              />
            ))}
          <Select
            className="half"
            label="Held against"
            placeholder="not stated"
            data={trial.treatments.list.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` }))}
            value={prices.reference ?? (outcome?.ok ? outcome.decision.reference.key : null)}
            allowDeselect={false}
            onChange={(reference) => reference && void change({ reference })}
          />
        </div>
        {others.length > 0 && (
          <p className="small quiet">
            Products are counted at the rates they go on at, under Amounts; what all get alike costs every treatment the same and is left
            out.
          </p>
        )}
        {missing === null && (
          <>
            <div className="fields" style={{ marginTop: 14, gridTemplateColumns: '1fr 1fr' }}>
              <PriceSlider
                label="If the yield price were"
                value={prices.pricePerTonne}
                middle={standing.pricePerTonne}
                unit="money/t"
                system={system}
                currency={prices.currency}
                onChange={(pricePerTonne) => setTried({ ...tried, pricePerTonne })}
              />
              {rated && (
                <PriceSlider
                  label="If the product price were"
                  value={prices.productPrice}
                  middle={standing.productPrice}
                  unit="money/kg"
                  system={system}
                  currency={prices.currency}
                  onChange={(productPrice) => setTried({ ...tried, productPrice })}
                />
              )}
            </div>
            <p className="small quiet">
              Sliders only try prices from half to double; what is typed above stands.{' '}
              {Object.keys(tried).length > 0 && (
                <button type="button" className="link-button" onClick={() => setTried({})}>
                  Back to the prices that stand
                </button>
              )}
            </p>
          </>
        )}
      </section>
      <section className="section" aria-labelledby="out">
        <h2 className="section-title" id="out">
          Take it along
        </h2>
        <Group>
          <Button component={Link} to={`/trials/${trial.id}/report`}>
            Report
          </Button>
          {fileFormats.map((format) => (
            <Button
              key={format.key}
              component="a"
              href={pathOf(api.file.path, { trial: trial.id, format: format.key })}
              variant="outline"
              title={format.about}
              disabled={format.needsLayout && layouts.length === 0}
              download
            >
              {format.name}
            </Button>
          ))}
        </Group>
      </section>
      {basis?.ok && (
        <section className="section" aria-labelledby="basis" data-testid="basis">
          <h2 className="section-title" id="basis">
            What this rests on
          </h2>
          <Sentences leading={false} sentences={sentencesOf(basis.both.without, system).slice(0, BASIS)} />
          <WhatBecame ends={basis.both.ends} unit={basis.both.without.unit} />
        </section>
      )}
    </>
  )
}

/** The order from site to site comes next to the answer over all. */
function withSecond([first, ...rest]: readonly string[], second: string | null): string[] {
  return [first, second, ...rest].filter((each) => each !== null && each !== undefined)
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
  value: number | null
  middle: number | null
  unit: 'money/t' | 'money/kg'
  system: UnitSystem
  currency: string
  onChange: (value: number) => void
}) {
  if (middle === null || value === null || middle <= 0) return null
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
