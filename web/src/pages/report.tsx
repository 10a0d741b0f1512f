import { classAnswers, sentencesOf, shownAnswers, traitOf, wholeTerm } from '@canter/core/analysis'
import { costedProducts, decisionSentences, notStated, priceOf } from '@canter/core/decision'
import { designOf } from '@canter/core/design'
import { siteExtent } from '@canter/core/ground'
import { counted, formatConfidence, formatNumber, formatQuantity, plural, shown, shownUnit } from '@canter/core/quantity'
import { comparisonMethod } from '@canter/core/statistics'
import { asOf, fateInWords, SUPPLY, treatmentsDealt, visitsOf, type Layout, type Site } from '@canter/core/trial'
import dayjs from 'dayjs'
import { useMemo } from 'react'
import { useParams } from 'react-router'
import { AnovaTable, ChecksTable, MeansTable } from '../chart/analysis-tables.tsx'
import { BothWaysLines, WhatBecame } from '../chart/both-ways.tsx'
import { MeansChart, marksOf } from '../chart/means-chart.tsx'
import { ReturnTable } from '../chart/return-table.tsx'
import { Sentences } from '../chart/sentences.tsx'
import { useAnalysis, useDecision, useSchools } from '../data/analysis.ts'
import { useSlice } from '../data/book.ts'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { base, measure } from '../plan/colouring/index.ts'
import { treatmentColours } from '@canter/core/ground'
import { groundMarks } from '../plan/ground-marks.tsx'
import { looksOf, Plan } from '../plan/plan.tsx'
import { PrintPage } from './print-page.tsx'
import { AmountsInReport } from './report-amounts.tsx'
import classes from './print-page.module.css'

export function ReportPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  return (
    <PrintPage name="Report" back={`/trials/${id}/decision`} error={error}>
      {open && <Report open={open} />}
    </PrintPage>
  )
}

/** For colleagues: question, layout, what every plot got, the answer, the money, and what was left out. */
function Report({ open }: { open: OpenTrial }) {
  const { trial, layouts } = open
  const { units: system, name } = usePerson()
  const { question, traits, amounts, prices } = trial
  const response = traitOf(trial, traits.response)
  const visit = visitsOf(traits, response.key).at(-1) ?? open.visit.key
  const asked = { trait: response.key, visit, site: null }
  const { data: answer, error: failed } = useAnalysis(open, asked)
  const { treatments } = asOf({ treatments: trial.treatments, layouts: [] }, answer?.settled.day ?? null)
  const { data: outcome } = useDecision(open, null, prices)
  const priced = notStated(trial, prices) === null
  const both = answer?.ok ? answer.both : null
  const analysis = both?.without ?? null
  const { data: schools } = useSchools(open, analysis?.kind === 'tested' ? asked : null)
  const said = useSlice(trial.id, `report ${visit}`, (from) => from.report(trial.id, visit))
  const term = analysis && wholeTerm(analysis.terms, treatments)
  const method = term?.control ? 'dunnett' : 'tukey'
  const shownMethod = term?.comparisons[method] ? method : 'lsd'
  const changed = layouts.flatMap((layout) => layout.units.filter((unit) => Object.keys(unit.changes).length > 0))
  const leftOut = said?.notes.filter(({ note }) => note.kind === 'left out') ?? []
  const fates = said?.fates ?? []
  const names = {
    factors: trial.treatments.factors,
    unit: (id: string) => layouts.flatMap(({ units }) => units).find((unit) => unit.id === id),
  }
  const flags = said?.notes.filter(({ note }) => note.kind === 'flag') ?? []
  const visitName = traits.visits.length > 1 ? traits.visits.find((each) => each.key === visit)?.name : null
  const adjusted = analysis !== null && analysis.tests.some((test) => !(test.term in analysis.terms))
  return (
    <article
      data-testid="report"
      data-ready={answer !== undefined && said !== undefined && (analysis?.kind !== 'tested' || schools !== undefined)}
    >
      <h1>{question.title}</h1>
      <p className="quiet">
        {question.crop} · {question.season} · {trial.sites.map((site) => site.name).join(', ')}
        {question.hostedBy ? ` · ground lent by ${question.hostedBy}` : ''}
        {question.paidBy ? ` · paid by ${question.paidBy}` : ''}
      </p>
      {analysis && (
        <Sentences
          sentences={[
            ...sentencesOf(analysis, system),
            ...classAnswers(analysis, treatments, system),
            ...(answer?.ok ? shownAnswers(answer.both.shown, analysis, treatments, system) : []),
          ]}
        />
      )}
      {answer && !answer.ok && <p className="sentence">{answer.problem}</p>}
      {!answer && layouts.length > 0 && (
        <p className="caution" role="status">
          {failed ? `The analysis failed: ${failed.message}` : 'Working out the answer: print when it stands here.'}
        </p>
      )}
      {priced &&
        outcome?.ok &&
        decisionSentences(outcome.decision, treatments, prices.currency, system).map((text) => (
          <p key={text} className="sentence">
            {text}
          </p>
        ))}
      {analysis && term && (
        <MeansChart analysis={analysis} term={term} treatments={treatments} system={system} method={shownMethod} height={230} printed />
      )}
      {analysis && (
        <p className="small quiet">
          Filled: means{analysis.kind === 'tested' ? ` with ${formatConfidence(analysis.significance)} % intervals` : ''}; rings: single{' '}
          {plural(analysis.unit)}
          {term?.control ? '; dashed: the control' : ''}.{' '}
          {analysis.kind === 'tested' && comparisonMethod(shownMethod) ? marksOf(shownMethod) : ''}
        </p>
      )}
      <h2>The question</h2>
      <p>
        {question.askedBy && <>Asked by {question.askedBy}. </>}
        {question.why}
        {question.expected && (
          <>
            {' '}
            <em>Expected beforehand:</em> {question.expected}
          </>
        )}
      </p>
      <h2>The ground</h2>
      {trial.sites.map((site) => (
        <SiteGround key={site.key} open={open} site={site} layout={layouts.find((layout) => layout.siteKey === site.key) ?? null} />
      ))}
      {analysis && <p className="small">{analysis.model.words}</p>}
      {amounts.common.length > 0 && (
        <>
          <strong>Every plot got:</strong>
          <ul style={{ margin: '2px 0', paddingLeft: 18 }}>
            {amounts.common.map((each) => (
              <li key={each.what}>{[each.what, each.amount, each.when].filter(Boolean).join(', ')}</li>
            ))}
          </ul>
        </>
      )}
      <AmountsInReport open={open} />
      {analysis && term && (
        <>
          <h2>
            {response.name}
            {visitName ? `, ${visitName}` : ''}
          </h2>
          <MeansTable
            analysis={analysis}
            term={term}
            treatments={treatments}
            method={shownMethod}
            system={system}
            ends={both?.ends ?? []}
          />
          <WhatBecame ends={both?.ends ?? []} unit={analysis.unit} />
          {both && <BothWaysLines both={both} system={system} />}
          {analysis.kind === 'tested' && <AnovaTable analysis={analysis} treatments={treatments} system={system} />}
          <ChecksTable analysis={analysis} />
          {analysis.cautions.map(({ text }) => (
            <p key={text} className="caution small">
              {text}
            </p>
          ))}
          {schools && schools.length > 0 && (
            <>
              <h3>Where practitioners differ</h3>
              {schools.map(({ question, taken, because, sentence }) => (
                <p key={question} className="small">
                  Taken here: {taken}, since {because}. {sentence}
                </p>
              ))}
            </>
          )}
        </>
      )}
      {priced && outcome?.ok && (
        <>
          <h2>Does it pay?</h2>
          <ReturnTable decision={outcome.decision} treatments={treatments} currency={prices.currency} system={system} />
          <p className="small">{pricesInWords(open, system)} Costs are taken as known.</p>
        </>
      )}
      <h2>All traits, means of treatments{visitName ? `, ${visitName}` : ''}</h2>
      {said && <TraitMeans open={open} means={said.means} />}
      {(leftOut.length > 0 || flags.length > 0 || changed.length > 0 || fates.length > 0) && (
        <>
          <h2>On record</h2>
          <ul style={{ margin: 0, paddingLeft: 18 }}>
            {leftOut.map(({ kind, code, note }) => (
              <li key={note.id}>
                {kind} {code} left out: {note.text}
              </li>
            ))}
            {flags.map(({ kind, code, note }) => (
              <li key={note.id}>
                {kind} {code}, {note.flag}: {note.text}
              </li>
            ))}
            {fates.map((fate) => (
              <li key={fate.id}>{fateInWords(fate, names)}</li>
            ))}
            {changed.map((unit) => (
              <li key={unit.id}>
                {unit.kind} {unit.code}:{' '}
                {Object.entries(unit.changes)
                  .map(([factor, change]) => `${treatments.factors.find((each) => each.key === factor)?.name ?? 'treatment'} ${change}`)
                  .join(', ')}
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="small quiet" style={{ marginTop: 18 }}>
        Report by {name} with Canter.{adjusted ? ' Means are adjusted for what the units lie in.' : ''} Intervals at{' '}
        {formatConfidence(question.significance)} %. The whole trial, with every value and its history, is in the data package.
      </p>
    </article>
  )
}

/** One site: how it was laid out, in words and as its plan. */
function SiteGround({ open, site, layout }: { open: OpenTrial; site: Site; layout: Layout | null }) {
  const { trial, progress } = open
  const { units: system } = usePerson()
  const { ground, design } = site
  const own = designOf(design.key)
  const planted = progress.planted.find((each) => each.siteKey === site.key)
  const metres = (value: number): string => formatQuantity(value, 'm', system)
  const colours = treatmentColours(trial.treatments)
  const at = useMemo(() => open.at(site.key), [open, site.key])
  const walked = layout?.units.filter((unit) => unit.kind === design.unit).length ?? 0
  return (
    <div className={classes.two}>
      <div>
        <p style={{ marginTop: 0 }}>
          <strong>{site.name}.</strong> {own?.name ?? 'Laid out'}:{' '}
          {counted(treatmentsDealt(trial.treatments, site).list.length, 'treatment')}
          {layout ? ` on ${counted(walked, design.unit)}` : ''}, each {metres(ground.plotWidth)} × {metres(ground.plotLength)}, harvested{' '}
          {metres(ground.harvestWidth)} × {metres(ground.harvestLength)}. {layout && own?.dealt}{' '}
          {layout?.structure.seed != null && <>Seed {layout.structure.seed}.</>}
        </p>
        {site.soil && <p>{site.soil}</p>}
        {planted && (
          <p>
            Planted on {dayjs(planted.on).format('D MMMM YYYY')}. {planted.text}
          </p>
        )}
      </div>
      {layout && (
        <div className={classes.map}>
          <Plan
            units={layout.units}
            extent={siteExtent(layout.units, ground)}
            marks={groundMarks(layout.units, ground)}
            measure={system === 'us' ? { name: 'ft', metres: 0.3048 } : { name: 'm', metres: 1 }}
            looks={looksOf((unit) =>
              base(
                { open: at, views: new Map(), trait: traitOf(trial, trial.traits.response), analysis: null, colours, system, pass: null, left: new Map() }, // prettier-ignore
                unit,
              ),
            )}
            selected={null}
            onSelect={() => undefined}
            label={`Plan of ${site.name}`}
          />
        </div>
      )}
    </div>
  )
}

function pricesInWords({ trial }: OpenTrial, system: 'metric' | 'us'): string {
  const { prices, traits } = trial
  const money = (value: number, unit: string): string => formatQuantity(value, unit, system, { currency: prices.currency })
  const parts = [`Yield at ${money(prices.pricePerTonne!, 'money/t')}`]
  if (traits.qualityTrait && prices.percentPerPoint !== null && prices.baseQuality !== null)
    parts.push(`by ${prices.percentPerPoint} % more or less for each point from ${prices.baseQuality} %`)
  for (const { key, product } of costedProducts(trial)) {
    const price = priceOf(key, product, prices)
    if (price) parts.push(`${key === SUPPLY ? 'product' : product.product} at ${money(price.amount, `money/${price.per}`)}`)
  }
  if (prices.applicationCost !== null) parts.push(`each pass ${money(prices.applicationCost, 'money/ha')}`)
  return `${parts.join(', ')}.`
}

/** Plain means of every trait by treatment, units left out not counted. */
function TraitMeans({
  open: { trial },
  means,
}: {
  open: OpenTrial
  means: readonly { trait: string; means: ReadonlyMap<string, { mean: number; n: number; started: number }> }[]
}) {
  const { units: system } = usePerson()
  const all = means.map((each) => ({ ...each, of: traitOf(trial, each.trait) })).filter((each) => each.means.size > 0)
  return (
    <table className="ruled">
      <thead>
        <tr>
          <th>Treatment</th>
          {all.map(({ of }) => (
            <th key={of.key} className="number" style={{ whiteSpace: 'normal' }}>
              {[of.name, measure(of) === 'score' ? '' : shownUnit(measure(of), system)].filter(Boolean).join(', ')}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {trial.treatments.list.map((treatment) => (
          <tr key={treatment.key}>
            <td>{treatment.code}</td>
            {all.map(({ of, means: own }) => {
              const found = own.get(treatment.key)
              return (
                <td key={of.key} className="number">
                  {found ? formatNumber(shown(found.mean, measure(of), system).value, 3) : '–'}
                  {found && found.n < found.started && (
                    <span className="quiet small">
                      {' '}
                      {found.n} of {found.started}
                    </span>
                  )}
                </td>
              )
            })}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
