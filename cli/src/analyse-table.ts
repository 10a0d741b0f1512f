import {
  analyse,
  AnalysisError,
  areaRequest,
  checkReadings,
  otherSchools,
  type Analysis,
  type School,
  type TermResult,
} from '@canter/core/analysis'
import { asWritten } from '@canter/core/exchange'
import { formatByError, formatNumber, formatP } from '@canter/core/quantity'
import { plural } from '@canter/core/quantity'
import { columns } from './columns.ts'
import { spokenLines } from './spoken-lines.ts'
import { mixedLines, predictionLines, schoolLines, stabilityLines } from './mixed-lines.ts'
import { readTableArguments } from './table-arguments.ts'

/** Version of the result file, docs/result-file.md. */
export const RESULT_VERSION = 2

/** `canter analyse --data … --plan … --trait …` */
export function analyseTableCommand(args: readonly string[]): string {
  const { request, json } = readTableArguments(args)
  const analysis = analyse(request)
  const { notTested } = analysis
  // Nothing was asked of such a file that could be described either.
  if (notTested?.reason === 'one level' || notTested?.reason === 'constant') throw new AnalysisError(notTested.text)
  const schools = otherSchools(request, analysis)
  const under = areaRequest(request)
  const area = under && analyse(under)
  return asWritten(
    json ? `${JSON.stringify({ canterResult: RESULT_VERSION, ...analysis, schools, area }, null, 2)}\n` : report(analysis, schools, area),
  )
}

function report(analysis: Analysis, schools: readonly School[], area: Analysis | null): string {
  const { trait, missing, leftOut, unit } = analysis
  const lines = [
    ...spokenLines(analysis.sentences),
    '',
    `${trait.name}${trait.unit ? `, ${trait.unit}` : ''}`,
    `Model: ${analysis.model.symbols}`,
    analysis.model.words,
    `${analysis.observations} ${plural(unit)}, ${missing} missing${leftOut > 0 ? `, ${leftOut} left out` : ''}`,
    ...(analysis.scale ? [`Scale: ${analysis.scale.name}. ${analysis.scale.bias}`] : []),
    '',
    ...(analysis.kind === 'tested' ? tests(analysis) : []),
    ...mixedLines(analysis),
    ...predictionLines(analysis),
    ...Object.values(analysis.terms).flatMap((term) => termLines(term)),
    ...contrastLines(analysis),
    ...covariateLines(analysis),
    ...stabilityLines(analysis),
    ...checkLines(analysis),
    ...analysis.cautions.map((each) => `Caution (${each.kind}): ${each.text}`),
    '',
    ...schoolLines(schools),
    ...(area ? ['', 'Area under the curve:', ...spokenLines(area.sentences), '', ...tests(area)] : []),
  ]
  return `${lines
    .join('\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim()}\n`
}

function tests(analysis: Analysis): string[] {
  return [
    ...columns(
      ['source', 'against', 'df', 'error df', 'mean square', 'F', 'p'],
      analysis.tests.map((test) => [
        test.term,
        test.stratum,
        String(test.df),
        Number.isInteger(test.errorDf) ? String(test.errorDf) : formatNumber(test.errorDf, 4),
        Number.isFinite(test.ms) ? formatNumber(test.ms, 5) : '',
        formatNumber(test.f, 4),
        formatP(test.p),
      ]),
    ),
    '',
    ...columns(
      ['error', 'df', 'mean square', 'CV, %'],
      analysis.errors.flatMap((error) => [
        [error.stratum, String(error.df), formatNumber(error.ms, 5), formatNumber(error.cv, 3)],
        ...(error.groups ?? []).map(({ level, ms, cv }) => [`at ${level}`, '', formatNumber(ms, 5), formatNumber(cv, 3)]),
      ]),
    ),
    '',
  ]
}

function termLines(term: TermResult): string[] {
  const lettered = Object.entries(term.letters)
  const back = term.means.some((mean) => mean.back)
  const { min, max } = term.sed
  return [
    ...columns(
      [term.term, 'n', 'mean', 's.e.', ...(back ? ['brought back', 'interval'] : []), ...lettered.map(([method]) => `letters (${method})`)],
      term.means.map((mean) => [
        mean.level,
        String(mean.n),
        formatByError(mean.mean, mean.se),
        formatNumber(mean.se, 3),
        ...(back && mean.back
          ? [formatNumber(mean.back.mean, 4), `${formatNumber(mean.back.lower, 3)} to ${formatNumber(mean.back.upper, 3)}`]
          : []),
        ...lettered.map(([, letters]) => letters?.[mean.level] ?? ''),
      ]),
    ),
    ...(Number.isFinite(min) ? [`SED ${formatNumber(min, 3)}${max - min > 1e-9 * max ? ` to ${formatNumber(max, 3)}` : ''}`] : []),
    ...againstLines(term),
    ...equivalenceLines(term),
    ...term.simpleEffects.map(
      (row) =>
        `${row.factor} at ${row.within} ${row.level}: F ${formatNumber(row.f, 3)} on ${row.df} and ${formatNumber(row.errorDf, 3)} df, p ${formatP(row.p)}`,
    ),
    '',
  ]
}

function againstLines({ comparisons, control }: TermResult): string[] {
  const rows = comparisons.dunnett
  if (!rows || rows.length === 0) return []
  return columns(
    [`less ${control} (dunnett)`, 'difference', 'lower', 'upper', 'p', 'evidence'],
    rows.map((row) => [
      row.a,
      formatNumber(row.difference, 3),
      formatNumber(row.lower, 3),
      formatNumber(row.upper, 3),
      formatP(row.p),
      row.evidence.kind,
    ]),
  )
}

function equivalenceLines({ comparisons }: TermResult): string[] {
  const rows = (Object.values(comparisons)[0] ?? []).filter((row) => row.equivalence)
  if (rows.length === 0) return []
  return columns(
    [`within ± ${formatNumber(rows[0]!.equivalence!.margin, 3)}`, 'difference', 'p', 'shown'],
    rows.map((row) => [
      `${row.a} less ${row.b}`,
      formatNumber(row.difference, 3),
      formatP(row.equivalence!.p),
      row.equivalence!.equivalent ? 'yes' : 'no',
    ]),
  )
}

function contrastLines({ contrasts }: Analysis): string[] {
  if (contrasts.length === 0) return []
  return [
    ...columns(
      ['contrast', 'estimate', 's.e.', 'df', 't', 'p', 'evidence'],
      contrasts.map((row) => [
        row.name,
        formatNumber(row.estimate, 4),
        formatNumber(row.se, 3),
        formatNumber(row.df, 3),
        formatNumber(row.t, 3),
        formatP(row.p),
        row.evidence.kind,
      ]),
    ),
    '',
  ]
}

function covariateLines({ covariates }: Analysis): string[] {
  return covariates.flatMap((row) => [
    ...row.slopes.map(
      (slope) =>
        `Slope on ${row.name}${slope.level === null ? '' : ` of ${slope.level}`}: ${formatNumber(slope.slope, 3)} (s.e. ${formatNumber(slope.se, 2)}, p ${formatP(slope.p)})`,
    ),
    `Means adjusted to ${row.name} ${formatNumber(row.at, 4)}; equal slopes: p ${formatP(row.equalSlopes.p)}; ${row.name} by treatment: p ${formatP(row.byTreatment.p)}`,
    '',
  ])
}

function checkLines(analysis: Analysis): string[] {
  const readings = checkReadings(analysis)
  if (readings.length === 0) return []
  return columns(
    ['what the residuals say', 'answer', 'test'],
    readings.map(({ question, answer, figure }) => [question, answer, figure]),
    'left',
  ).concat('')
}
