import {
  cvInWords,
  capital,
  checkReadings,
  differenceKinds,
  spread,
  termInWords,
  type Analysis,
  type DifferenceKind,
  type Ended,
  type PlannedAnswer,
  type Spread,
  type TermResult,
} from '@canter/core/analysis'
import { comparisonMethod } from '@canter/core/statistics'
import { formatByError, formatNumber, formatP, formatQuantity, plural, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { Treatments } from '@canter/core/trial'
import { swatchFill } from '@canter/core/ground'
import { measuredOf } from './both-ways.tsx'
import { levelLooks } from './levels.ts'

interface TableProps {
  readonly analysis: Analysis
  readonly treatments: Treatments
  readonly system: UnitSystem
}

/** Means of a term by a method: letters, or differences from the control with their evidence. */
export function MeansTable({
  analysis,
  term,
  treatments,
  method,
  system,
  ends = [],
}: TableProps & { term: TermResult; method: string; ends?: readonly Ended[] }) {
  const looks = levelLooks(term, treatments)
  const unit = shownUnit(analysis.trait.unit, system)
  const out = (value: number, digits = 3): string => formatNumber(shown(value, analysis.trait.unit, system).value, digits)
  const tested = analysis.kind === 'tested'
  const against = comparisonMethod(method).pairs === 'control'
  const letters = against ? null : term.letters[method]
  const rows = new Map((against ? (term.comparisons[method] ?? []) : []).map((row) => [row.a, row]))
  const compared = tested && against && rows.size > 0
  return (
    <table className="ruled" data-testid="means">
      <thead>
        <tr>
          <th>
            {term.factors
              .map((key) => treatments.factors.find((factor) => factor.key === key)?.name ?? key.charAt(0).toUpperCase() + key.slice(1))
              .join(' × ')}
          </th>
          <th className="number">{plural(analysis.unit).replace(/^./, (first) => first.toUpperCase())}</th>
          <th className="number">Mean{unit && unit !== 'score' ? `, ${unit}` : ''}</th>
          {tested && <th className="number">s.e.</th>}
          {term.control && <th className="number">% of control</th>}
          {letters && <th>Letters</th>}
          {compared && <th className="number">More than control</th>}
          {compared && <th className="number">Interval</th>}
          {compared && <th className="number">p</th>}
          {compared && <th>Evidence</th>}
        </tr>
      </thead>
      <tbody>
        {term.means.map((row) => {
          const look = looks.get(row.level)
          const comparison = rows.get(row.level)
          return (
            <tr key={row.level}>
              <td style={{ whiteSpace: 'nowrap' }}>
                <span className="swatch" style={{ background: swatchFill(look?.colour) }} />
                {look?.code}
                {row.level === term.control ? <span className="quiet"> control</span> : null}
              </td>
              <td className="number">{measuredOf(ends, term, row.level, row.n)}</td>
              <td className="number">
                {formatByError(shown(row.mean, analysis.trait.unit, system).value, shown(row.se, analysis.trait.unit, system).value)}
              </td>
              {tested && <td className="number">{out(row.se)}</td>}
              {term.control && <td className="number">{formatNumber(row.percentOfControl, 3)}</td>}
              {letters && <td>{letters[row.level]}</td>}
              {compared && <td className="number">{comparison ? out(comparison.difference) : '–'}</td>}
              {compared && <td className="number">{comparison ? `${out(comparison.lower)} to ${out(comparison.upper)}` : ''}</td>}
              {compared && <td className="number">{comparison ? formatP(comparison.p) : ''}</td>}
              {compared && (
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
              SED {spreadText(term.sed, out)} · LSD {spreadText(term.lsd, out)}
              {term.comparisons['tukey'] && (
                <> · Tukey’s least difference {spreadText(spread(term.comparisons['tukey'].map((row) => row.threshold)), out)}</>
              )}{' '}
              {unit} · CV{' '}
              {analysis.errors
                .map((error) => `${cvInWords(error)}${analysis.errors.length > 1 ? ` (${plural(error.stratum)})` : ''}`)
                .join(', ')}
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  )
}

function spreadText(of: Spread, out: (value: number) => string): string {
  const even = of.max - of.min < 1e-9 * Math.abs(of.max)
  return even ? out(of.mean) : `${out(of.mean)} (${out(of.min)} to ${out(of.max)})`
}

/** F of a test and its p. */
function Test({ of: { f, p } }: { of: { readonly f: number; readonly p: number } }) {
  return (
    <>
      <td className="number">{formatNumber(f, 3)}</td>
      <td className="number">{formatP(p)}</td>
    </>
  )
}

export function AnovaTable({ analysis, treatments, system }: TableProps) {
  if (analysis.mixed) return <MixedTable analysis={analysis} treatments={treatments} />
  const square = shown(1, analysis.trait.unit, system).value ** 2
  const several = analysis.errors.length > 1
  return (
    <table className="ruled" data-testid="anova">
      <thead>
        <tr>
          <th>Source</th>
          {several && <th>Against</th>}
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
            <td style={row.partOf ? { paddingLeft: 16 } : undefined}>{capital(termInWords(treatments, row.term))}</td>
            {several && <td className="quiet">{plural(row.stratum)}</td>}
            <td className="number">{row.df}</td>
            <td className="number">{formatNumber(row.ss * square, 4)}</td>
            <td className="number">{formatNumber(row.ms * square, 4)}</td>
            <Test of={row} />
          </tr>
        ))}
        {analysis.errors.map((error) => (
          <tr key={error.stratum}>
            <td>{several ? `Residual of ${plural(error.stratum)}` : 'Residual'}</td>
            {several && <td />}
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

/** Tests of a mixed model with the degrees of freedom each is judged by. */
function MixedTable({ analysis, treatments }: Pick<TableProps, 'analysis' | 'treatments'>) {
  return (
    <table className="ruled" data-testid="anova">
      <thead>
        <tr>
          <th>Source</th>
          <th className="number">df</th>
          <th className="number">Against df</th>
          <th className="number">F</th>
          <th className="number">p</th>
        </tr>
      </thead>
      <tbody>
        {analysis.tests.map((row) => (
          <tr key={row.term}>
            <td>{capital(termInWords(treatments, row.term))}</td>
            <td className="number">{row.df}</td>
            <td className="number">{formatNumber(row.errorDf, 3)}</td>
            <Test of={row} />
          </tr>
        ))}
      </tbody>
      <caption className="visually-hidden">Tests of {analysis.trait.name} by a mixed model</caption>
    </table>
  )
}

/** The figures of the planned comparisons. */
export function ContrastTable({
  answers,
  analysis,
  system,
}: Pick<TableProps, 'analysis' | 'system'> & { answers: readonly PlannedAnswer[] }) {
  const factor = analysis.scale ? 1 : shown(1, analysis.trait.unit, system).value
  const out = (value: number): string => formatNumber(value * factor, 3)
  const unit = analysis.scale ? `${analysis.scale.name} scale` : shownUnit(analysis.trait.unit, system)
  return (
    <table className="ruled" data-testid="contrasts">
      <thead>
        <tr>
          <th>Comparison</th>
          <th className="number">Estimate{unit && unit !== 'score' ? `, ${unit}` : ''}</th>
          <th className="number">s.e.</th>
          <th className="number">df</th>
          <th className="number">t</th>
          <th className="number">p</th>
        </tr>
      </thead>
      <tbody>
        {answers.flatMap(({ comparison, row, sites, per }) => [
          <tr key={comparison.key}>
            <td>
              {comparison.name}
              {per.said && <span className="quiet"> (per {per.said})</span>}
            </td>
            <td className="number">{out(row.estimate * per.times)}</td>
            <td className="number">{out(row.se * per.times)}</td>
            <td className="number">{formatNumber(row.df, 3)}</td>
            <td className="number">{formatNumber(row.t, 3)}</td>
            <td className="number">{formatP(row.p)}</td>
          </tr>,
          ...sites.map((site) => (
            <tr key={`${comparison.key} ${site.site}`} className="quiet">
              <td style={{ paddingLeft: 16 }}>at {site.site}</td>
              <td className="number">{out(site.estimate * per.times)}</td>
              <td className="number">{out(site.se * per.times)}</td>
              <td className="number">{formatNumber(site.df, 3)}</td>
              <td className="number">{formatNumber(site.t, 3)}</td>
              <td className="number">{formatP(site.p)}</td>
            </tr>
          )),
        ])}
      </tbody>
    </table>
  )
}

/** Of two factors together: whether the one matters at each level of the other, and the error of each kind of difference. */
export function JointTables({ analysis, term, treatments, system }: TableProps & { term: TermResult }) {
  const kinds = differenceKinds(analysis, term)
  const simple = term.simpleEffects
  const factor = analysis.scale ? 1 : shown(1, analysis.trait.unit, system).value
  const unit = analysis.scale ? '' : shownUnit(analysis.trait.unit, system)
  const called = (key: string): string => termInWords(treatments, key).toLowerCase()
  const level = (of: string, key: string): string =>
    treatments.factors.find((each) => each.key === of)?.levels.find((each) => each.key === key)?.name ?? key
  const range = ([least, most]: readonly [number, number]): string => {
    const [low, high] = [formatNumber(least * factor, 3), formatNumber(most * factor, 3)]
    return low === high ? low : `${low} to ${high}`
  }
  return (
    <>
      {simple.length > 0 && (
        <table className="ruled" data-testid="simple-effects">
          <thead>
            <tr>
              <th>Does it matter at each level of the other?</th>
              <th className="number">df</th>
              <th className="number">F</th>
              <th className="number">p</th>
            </tr>
          </thead>
          <tbody>
            {simple.map((row) => (
              <tr key={`${row.factor} ${row.level}`}>
                <td>
                  {called(row.factor)} at {level(row.within, row.level)}
                </td>
                <td className="number">
                  {row.df}, {formatNumber(row.errorDf, 3)}
                </td>
                <td className="number">{formatNumber(row.f, 3)}</td>
                <td className="number">{formatP(row.p)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {kinds.length > 0 && (
        <table className="ruled" data-testid="difference-kinds">
          <thead>
            <tr>
              <th>Differences between</th>
              <th className="number">SED{unit && unit !== 'score' ? `, ${unit}` : ''}</th>
              <th className="number">df</th>
              <th className="number">LSD</th>
            </tr>
          </thead>
          <tbody>
            {kinds.map((kind) => (
              <tr key={`${kind.of} ${kind.at}`}>
                <td>{kindInWords(kind, called)}</td>
                <td className="number">{range(kind.sed)}</td>
                <td className="number">{formatNumber(kind.df, 3)}</td>
                <td className="number">{formatNumber(kind.lsd * factor, 3)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}

function kindInWords({ of, at }: DifferenceKind, called: (key: string) => string): string {
  if (of === null) return 'two treatments unlike in both'
  return at === null ? `two levels of ${called(of)}, on average` : `two levels of ${called(of)}, at one level of ${called(at)}`
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
