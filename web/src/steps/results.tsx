import {
  checkReadings,
  COMPARISON_METHODS,
  sentencesFor,
  spread,
  type Analysis,
  type BothWays,
  type Spread,
  type TermResult,
} from '@canter/core/analysis'
import { formatNumber, formatP, formatQuantity, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { ComparisonMethod } from '@canter/core/statistics'
import { plural, type Trial } from '@canter/core/trial'
import { SegmentedControl, Select } from '@mantine/core'
import { useSearchParams } from 'react-router'
import { useAnalysis } from '../analysis/use-analysis.ts'
import { Sentences } from '../analysis/sentences.tsx'
import { usePerson } from '../api/queries.ts'
import { MeansChart } from '../chart/means-chart.tsx'
import { useOpenTrial } from '../pages/trial-context.ts'
import { swatchFill, treatmentColours } from '../plan/colours.ts'
import classes from './results.module.css'

/** Words first, then the numbers, then the tables. */
export function ResultsStep() {
  const { trial, layout, records } = useOpenTrial()
  const { units } = usePerson()
  const [search, setSearch] = useSearchParams()
  const traits = [...trial.traits, ...trial.derived]
  const trait = traits.find((each) => each.key === search.get('trait')) ?? traits.find((each) => each.key === trial.response)!
  const { data: answer, error } = useAnalysis(trial, layout, records.records, trait.key)
  const set = (key: string, value: string): void =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before)
        next.set(key, value)
        return next
      },
      { replace: true },
    )
  if (!layout) return <p className="sentence lead">Results come once the trial is laid out and measured.</p>
  if (error) return <p className="caution">The analysis failed: {error.message}</p>
  if (!answer) return <p className="quiet">Working it out…</p>
  const picker = (
    <Select
      size="xs"
      aria-label="Trait"
      data={traits.map((each) => ({
        value: each.key,
        label: `${each.name}${each.key === trial.response ? ' (the response that matters)' : ''}`,
      }))}
      value={trait.key}
      allowDeselect={false}
      onChange={(value) => value && set('trait', value)}
      w={430}
    />
  )
  if (!answer.ok) {
    return (
      <>
        {picker}
        <p className="sentence lead">{answer.problem}</p>
      </>
    )
  }
  const { without: analysis } = answer.both
  const factor = trial.factors[0]!
  const term = analysis.terms[factor.key]!
  const method = methodOf(search.get('method'), term)
  return (
    <div className={classes.page}>
      {picker}
      <div data-testid="sentences">
        <Sentences
          sentences={sentencesFor({
            analysis,
            factor,
            better: trait.better,
            smallest: trait.key === trial.response ? trial.smallestDifference : null,
            system: units,
          })}
        />
      </div>
      <OtherWay both={answer.both} trial={trial} system={units} better={trait.better} />
      <MeansChart analysis={analysis} factor={factor} system={units} method={method} height={230} />
      {analysis.kind === 'tested' && (
        <div className={classes.method}>
          <SegmentedControl
            size="xs"
            aria-label="How means are compared"
            value={method}
            onChange={(value) => set('method', value)}
            data={(Object.keys(COMPARISON_METHODS) as ComparisonMethod[])
              .filter((each) => each !== 'dunnett' || term.control !== null)
              .map((each) => ({ value: each, label: `${COMPARISON_METHODS[each].name} (${COMPARISON_METHODS[each].school})` }))}
          />
          <p className="small quiet" style={{ margin: '4px 0 0' }}>
            {COMPARISON_METHODS[method].controls} Level: {analysis.significance}.
          </p>
        </div>
      )}
      <MeansTable analysis={analysis} trial={trial} method={method} system={units} />
      {analysis.kind === 'tested' && <AnovaTable analysis={analysis} trial={trial} system={units} />}
      {analysis.cautions.map(({ text }) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
      <ChecksTable analysis={analysis} />
      <p className="small quiet">
        {analysis.model.words} Model: <em>{analysis.model.symbols}</em>
      </p>
    </div>
  )
}

function methodOf(asked: string | null, { control }: TermResult): ComparisonMethod {
  if (asked === 'lsd' || asked === 'tukey') return asked
  return control === null ? 'tukey' : 'dunnett'
}

/** With plots left out, the answer both ways. */
function OtherWay({
  both,
  trial,
  system,
  better,
}: {
  both: BothWays
  trial: Trial
  system: UnitSystem
  better: 'more' | 'less' | 'neither'
}) {
  if (both.all === both.without || both.without.leftOut === 0) return null
  const [first] = sentencesFor({ analysis: both.all, factor: trial.factors[0]!, better, smallest: null, system })
  return first ? (
    <p className="small" style={{ margin: '0 0 6px' }} data-testid="other-way">
      <strong>With every plot kept in:</strong> {first.text}
    </p>
  ) : null
}

export function MeansTable({
  analysis,
  trial,
  method,
  system,
}: {
  analysis: Analysis
  trial: Trial
  method: ComparisonMethod
  system: UnitSystem
}) {
  const factor = trial.factors[0]!
  const term = analysis.terms[factor.key]!
  const colours = treatmentColours(factor)
  const unit = shownUnit(analysis.trait.unit, system)
  const out = (value: number, digits = 3): string => formatNumber(shown(value, analysis.trait.unit, system).value, digits)
  const tested = analysis.kind === 'tested'
  const letters = method === 'dunnett' ? null : term.letters[method]
  const against = new Map((term.comparisons.dunnett ?? []).map((row) => [row.a, row]))
  const dunnett = tested && method === 'dunnett'
  return (
    <table className="ruled" data-testid="means">
      <thead>
        <tr>
          <th>Treatment</th>
          <th className="number">Plots</th>
          <th className="number">Mean, {unit || 'score'}</th>
          {tested && <th className="number">s.e.</th>}
          {term.control && <th className="number">% of control</th>}
          {letters && <th>Letters</th>}
          {dunnett && <th className="number">More than control</th>}
          {dunnett && <th className="number">Interval</th>}
          {dunnett && <th className="number">p</th>}
          {dunnett && <th>Evidence</th>}
        </tr>
      </thead>
      <tbody>
        {term.means.map((row) => {
          const level = factor.levels.find((each) => each.key === row.level)
          const comparison = against.get(row.level)
          return (
            <tr key={row.level}>
              <td style={{ whiteSpace: 'nowrap' }}>
                <span className="swatch" style={{ background: swatchFill(colours.get(row.level)) }} />
                {level?.code}
                {level?.control ? <span className="quiet"> control</span> : null}
              </td>
              <td className="number">{row.n}</td>
              <td className="number">{out(row.mean)}</td>
              {tested && <td className="number">{out(row.se)}</td>}
              {term.control && <td className="number">{formatNumber(row.percentOfControl, 3)}</td>}
              {letters && <td>{letters[row.level]}</td>}
              {dunnett && <td className="number">{comparison ? out(comparison.difference) : '–'}</td>}
              {dunnett && <td className="number">{comparison ? `${out(comparison.lower)} to ${out(comparison.upper)}` : ''}</td>}
              {dunnett && <td className="number">{comparison ? formatP(comparison.p) : ''}</td>}
              {dunnett && (
                <td>
                  {comparison && (
                    <span className="badge" data-kind={comparison.evidence.kind} title={comparison.evidence.why}>
                      {comparison.evidence.kind}
                    </span>
                  )}
                </td>
              )}
            </tr>
          )
        })}
      </tbody>
      {tested && (
        <tfoot>
          <tr>
            <td colSpan={10} className="small quiet" data-testid="precision">
              SED {spreadText(term.sed, out)} · LSD {spreadText(term.lsd, out)} · Tukey’s least difference{' '}
              {spreadText(spread((term.comparisons.tukey ?? []).map((row) => row.threshold)), out)} {unit} · CV{' '}
              {formatNumber(analysis.errors[0]!.cv, 3)} %
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  )
}

function spreadText(spread: Spread, out: (value: number) => string): string {
  const even = spread.max - spread.min < 1e-9 * Math.abs(spread.max)
  return even ? out(spread.mean) : `${out(spread.mean)} (${out(spread.min)} to ${out(spread.max)})`
}

export function AnovaTable({ analysis, trial, system }: { analysis: Analysis; trial: Trial; system: UnitSystem }) {
  const factor = trial.factors[0]!
  const square = shown(1, analysis.trait.unit, system).value ** 2
  return (
    <table className="ruled" data-testid="anova">
      <thead>
        <tr>
          <th>Source</th>
          <th className="number">df</th>
          <th className="number">Sum of squares</th>
          <th className="number">Mean square</th>
          <th className="number">F</th>
          <th className="number">p</th>
        </tr>
      </thead>
      <tbody>
        {analysis.tests.map((row) => (
          <tr key={row.term}>
            <td>{row.term === factor.key ? factor.name : row.term}</td>
            <td className="number">{row.df}</td>
            <td className="number">{formatNumber(row.ss * square, 4)}</td>
            <td className="number">{formatNumber(row.ms * square, 4)}</td>
            <td className="number">{formatNumber(row.f, 3)}</td>
            <td className="number">{formatP(row.p)}</td>
          </tr>
        ))}
        {analysis.errors.map((error) => (
          <tr key={error.stratum}>
            <td>{analysis.errors.length === 1 ? 'residual' : `residual of ${plural(error.stratum)}`}</td>
            <td className="number">{error.df}</td>
            <td className="number">{formatNumber(error.ss * square, 4)}</td>
            <td className="number">{formatNumber(error.ms * square, 4)}</td>
            <td />
            <td />
          </tr>
        ))}
      </tbody>
      <caption className="visually-hidden">
        Analysis of variance of {analysis.trait.name}, grand mean {formatQuantity(analysis.grandMean, analysis.trait.unit, system)}
      </caption>
    </table>
  )
}

/** What the residuals say of the model, in answers first. */
export function ChecksTable({ analysis }: { analysis: Analysis }) {
  const readings = checkReadings(analysis)
  if (readings.length === 0) return null
  return (
    <table className="ruled" data-testid="checks">
      <thead>
        <tr>
          <th>What the residuals say</th>
          <th>Answer</th>
          <th>Test</th>
        </tr>
      </thead>
      <tbody>
        {readings.map(({ question, answer, figure, odd }) => (
          <tr key={question}>
            <td>{question}</td>
            <td>{odd ? <strong>{answer}</strong> : answer}</td>
            <td className="small quiet">{figure}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
