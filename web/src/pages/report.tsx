import { nutrientAmounts } from '@canter/core/amounts'
import { sentencesFor } from '@canter/core/analysis'
import { decisionSentences } from '@canter/core/decision'
import { siteExtent } from '@canter/core/ground'
import { plainMeans } from '@canter/core/numbers'
import { formatNumber, formatQuantity, shown } from '@canter/core/quantity'
import { useParams } from 'react-router'
import { Sentences } from '../analysis/sentences.tsx'
import { useAnalysis, useDecision } from '../analysis/use-analysis.ts'
import { usePerson } from '../api/queries.ts'
import { MARKS, MeansChart } from '../chart/means-chart.tsx'
import { looks } from '../plan/looks.ts'
import { Plan } from '../plan/plan.tsx'
import { ReturnTable } from '../steps/decision.tsx'
import { AnovaTable, ChecksTable, MeansTable } from '../steps/results.tsx'
import { PrintPage } from './print-page.tsx'
import classes from './print-page.module.css'
import { useLoadTrial, type OpenTrial } from './trial-context.ts'

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
  const { trial, layout, records, table } = open
  const { units, name } = usePerson()
  const { data: answer } = useAnalysis(trial, layout, records.records, trial.response)
  const { data: outcome } = useDecision(trial, layout, records.records, trial.economics)
  const factor = trial.factors[0]!
  const site = trial.sites[0]!
  const response = [...trial.traits, ...trial.derived].find((trait) => trait.key === trial.response)!
  const analysis = answer?.ok ? answer.both.without : null
  const amounts = nutrientAmounts(trial, layout)
  const leftOut =
    table?.rows.flatMap((row) =>
      row.notes.filter((note) => note.kind === 'left out').map((note) => ({ code: row.unit.code, text: note.text })),
    ) ?? []
  const flags =
    table?.rows.flatMap((row) =>
      row.notes.filter((note) => note.kind === 'flag').map((note) => ({ code: row.unit.code, text: `${note.flag}: ${note.text}` })),
    ) ?? []
  const changed = layout?.units.filter((unit) => unit.change !== 'none') ?? []
  const method = analysis?.terms[factor.key]?.control ? 'dunnett' : 'tukey'
  const { question } = trial
  return (
    <article data-testid="report" data-ready={analysis !== null}>
      <h1>{trial.title}</h1>
      <p className="quiet">
        {trial.crop} · {trial.season} · {site.name}
        {question.hostedBy ? ` · ground lent by ${question.hostedBy}` : ''}
        {question.paidBy ? ` · paid by ${question.paidBy}` : ''}
      </p>
      {analysis && (
        <Sentences
          sentences={sentencesFor({ analysis, factor, better: response.better, smallest: trial.smallestDifference, system: units })}
        />
      )}
      {outcome?.ok &&
        trial.economics &&
        decisionSentences(outcome.decision, factor, trial.economics.currency, units).map((text) => (
          <p key={text} className="sentence">
            {text}
          </p>
        ))}
      {analysis && <MeansChart analysis={analysis} factor={factor} system={units} method={method} height={230} printed />}
      {analysis && (
        <p className="small quiet">
          Diamonds: means{analysis.kind === 'tested' ? ` with ${Math.round(100 * (1 - analysis.significance))} % intervals` : ''}; rings:
          single plots; dashed: the control. {MARKS[method]}
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
      <div className={classes.two}>
        <div>
          <p style={{ marginTop: 0 }}>
            {trial.replicates} {trial.replicates === 1 ? 'block' : 'blocks'} of {factor.levels.length} plots, each{' '}
            {formatQuantity(site.ground.plotWidth, 'm', units)} × {formatQuantity(site.ground.plotLength, 'm', units)}, harvested{' '}
            {formatQuantity(site.ground.harvestWidth, 'm', units)} × {formatQuantity(site.ground.harvestLength, 'm', units)}.{' '}
            {analysis?.model.words} {layout?.structure.seed != null && <>Seed {layout.structure.seed}.</>}
          </p>
          {site.soil && <p>{site.soil}</p>}
          {open.progress.planted && (
            <p>
              Planted on {open.progress.planted.on}. {open.progress.planted.text}
            </p>
          )}
          {trial.common.length > 0 && (
            <>
              <strong>Every plot got:</strong>
              <ul style={{ margin: '2px 0', paddingLeft: 18 }}>
                {trial.common.map((each) => (
                  <li key={each.what}>{[each.what, each.amount, each.when].filter(Boolean).join(', ')}</li>
                ))}
              </ul>
            </>
          )}
        </div>
        {layout && (
          <div className={classes.map}>
            <Plan
              units={layout.units}
              extent={siteExtent(trial.replicates, factor.levels.length, site.ground)}
              look={looks(open, 'treatment', trial.response, null, units).of}
              selected={null}
              onSelect={() => undefined}
              label={`Plan of ${site.name}`}
            />
          </div>
        )}
      </div>
      {amounts.ok && (
        <p className="small">
          {trial.supply!.product}, {trial.supply!.applications} {trial.supply!.applications === 1 ? 'application' : 'applications'}; in the
          season{' '}
          {amounts.amounts.levels.map((row) => `${row.level.code} ${formatQuantity(row.productRate.value, 'kg/ha', units)}`).join(', ')} of
          product.
          {amounts.amounts.overMaximum.length > 0 &&
            ` Over a stated label maximum, because: ${trial.supply!.overMaximumReason || 'no reason given'}.`}
        </p>
      )}
      {analysis && (
        <>
          <h2>{response.name}</h2>
          <MeansTable analysis={analysis} trial={trial} method={method} system={units} />
          {analysis.kind === 'tested' && <AnovaTable analysis={analysis} trial={trial} system={units} />}
          <ChecksTable analysis={analysis} />
          {analysis.cautions.map(({ text }) => (
            <p key={text} className="caution small">
              {text}
            </p>
          ))}
        </>
      )}
      {outcome?.ok && trial.economics && (
        <>
          <h2>Does it pay?</h2>
          <ReturnTable decision={outcome.decision} factor={factor} currency={trial.economics.currency} system={units} />
          <p className="small">
            Yield at {formatQuantity(trial.economics.pricePerTonne, 'money/t', units, { currency: trial.economics.currency })}
            {trial.qualityTrait &&
              `, by ${trial.economics.percentPerPoint} % more or less for each point from ${trial.economics.baseQuality} %`}
            ; product at {formatQuantity(trial.economics.productPrice, 'money/kg', units, { currency: trial.economics.currency })}; each
            pass {formatQuantity(trial.economics.applicationCost, 'money/ha', units, { currency: trial.economics.currency })}. Costs are
            taken as known.
          </p>
        </>
      )}
      <h2>All traits, means of plots</h2>
      {table && <TraitMeans open={open} />}
      {(leftOut.length > 0 || flags.length > 0 || changed.length > 0) && (
        <>
          <h2>On record</h2>
          <ul style={{ margin: 0, paddingLeft: 18 }}>
            {leftOut.map((each) => (
              <li key={`out ${each.code}`}>
                Plot {each.code} left out: {each.text}
              </li>
            ))}
            {flags.map((each) => (
              <li key={`flag ${each.code}${each.text}`}>
                Plot {each.code}, {each.text}
              </li>
            ))}
            {changed.map((unit) => (
              <li key={unit.id}>
                Plot {unit.code}: {unit.change}
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="small quiet" style={{ marginTop: 18 }}>
        Report by {name} with Canter. Means are adjusted for blocks; intervals at {Math.round(100 * (1 - trial.significance))} %. The whole
        trial, with every value and its history, is in the data package.
      </p>
    </article>
  )
}

/** Plain means of every trait by treatment, plots left out not counted. */
function TraitMeans({ open: { trial, table } }: { open: OpenTrial }) {
  const { units } = usePerson()
  const factor = trial.factors[0]!
  const traits = [...trial.traits, ...trial.derived].map((trait) => ({ trait, means: plainMeans(table!.rows, factor.key, trait.key) }))
  return (
    <table className="ruled">
      <thead>
        <tr>
          <th>Treatment</th>
          {traits.map(({ trait }) => (
            <th key={trait.key} className="number" style={{ whiteSpace: 'normal' }}>
              {trait.name}, {shown(1, trait.unit, units).unit || 'score'}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {factor.levels.map((level) => (
          <tr key={level.key}>
            <td>{level.code}</td>
            {traits.map(({ trait, means }) => (
              <td key={trait.key} className="number">
                {means.has(level.key) ? formatNumber(shown(means.get(level.key)!, trait.unit, units).value, 3) : '–'}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
