import { readFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import {
  cvInWords,
  analyseTrait,
  classAnswers,
  countEnds,
  endsInWords,
  plannedAnswers,
  schoolsOfTrait,
  shownAnswers,
  termInWords,
  WHOLE,
  type Analysis,
  type BothWays,
  type School,
} from '@canter/core/analysis'
import { asWentOut } from '@canter/core/amounts'
import { unpackTrial } from '@canter/core/exchange'
import { TrialBook } from '@canter/core/numbers'
import { formatByError, formatNumber, formatP, plural } from '@canter/core/quantity'
import { asOf, visitsOf, type Trial } from '@canter/core/trial'
import { RESULT_VERSION } from './analyse-table.ts'
import { columns } from './columns.ts'
import { spokenLines } from './spoken-lines.ts'
import { mixedLines, schoolLines } from './mixed-lines.ts'
import { UsageError } from './usage-error.ts'

export function analyseCommand(args: readonly string[]): string {
  const asked = readArguments(args)
  const { file } = asked
  let bytes: Uint8Array
  try {
    bytes = readFileSync(file)
  } catch (error) {
    throw new Error(`${file} cannot be read (${(error as { code?: string }).code ?? 'unknown reason'}).`)
  }
  const { trial: planned, layouts, records } = unpackTrial(bytes)
  const trial = asked.wentOut ? asWentOut(planned, asked.site === undefined ? layouts.map((layout) => layout.siteKey) : [asked.site]) : planned // prettier-ignore
  if (asked.wentOut && trial === planned) throw new UsageError('Nothing is on record of what went out: leave --as-went-out away.')
  if (layouts.length === 0) throw new Error(`“${trial.question.title}” is not laid out yet: there are no plots to analyse.`)
  const all = [...trial.traits.observed, ...trial.traits.derived]
  const trait = all.find((each) => each.key === (asked.trait ?? trial.traits.response))
  if (!trait) throw new UsageError(`There is no trait “${asked.trait}”. This trial has: ${all.map((each) => each.key).join(', ')}.`)
  const visits = visitsOf(trial.traits, trait.key)
  const visit = asked.visit ?? visits.at(-1)
  if (visit === undefined || !visits.includes(visit))
    throw new UsageError(`${trait.name} is not taken at “${asked.visit ?? ''}”. Its visits: ${visits.join(', ')}.`)
  const chosen = asked.site === undefined ? layouts : layouts.filter((layout) => layout.siteKey === asked.site)
  if (chosen.length === 0)
    throw new UsageError(`There is no layout of a site “${asked.site}”. Laid out: ${layouts.map((layout) => layout.siteKey).join(', ')}.`)
  const book = new TrialBook(trial, layouts, records)
  const observations = book.observations(trait.key, visit)
  const both = analyseTrait(trial, chosen, observations, trait.key)
  const schools = schoolsOfTrait(trial, chosen, observations, trait.key, { answer: both.without })
  if (asked.json)
    return `${JSON.stringify({ canterResult: RESULT_VERSION, trial: trial.question.title, visit, ...both.without, schools, withNothingLeftOut: both.all === both.without ? null : both.all, otherWays: both.others.map(({ about, changes, words }) => ({ about, changes, words })), ends: countEnds(both.ends) }, null, 2)}\n`
  const { treatments } = asOf({ treatments: trial.treatments, layouts }, observations.day)
  return report({ ...trial, treatments }, both, schools)
}

interface Asked {
  readonly file: string
  readonly trait: string | undefined
  readonly visit: string | undefined
  readonly site: string | undefined
  readonly json: boolean
  /** By the rates that went out, not those planned. */
  readonly wentOut: boolean
}

function readArguments(args: readonly string[]): Asked {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        trait: { type: 'string' },
        visit: { type: 'string' },
        site: { type: 'string' },
        json: { type: 'boolean', default: false },
        'as-went-out': { type: 'boolean', default: false },
      },
    })
    if (positionals.length !== 1) throw new UsageError('Name one package: canter analyse PACKAGE.zip')
    return {
      file: positionals[0]!,
      trait: values.trait,
      visit: values.visit,
      site: values.site,
      json: values.json,
      wentOut: values['as-went-out'],
    }
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(error instanceof Error ? error.message : String(error))
  }
}

/** Tests of a mixed model with what each is judged by. */
function testLines(analysis: Analysis, named: (term: string) => string): string[] {
  return columns(
    ['source', 'df', 'against df', 'F', 'p'],
    analysis.tests.map((row) => [named(row.term), String(row.df), formatNumber(row.errorDf, 4), formatNumber(row.f, 4), formatP(row.p)]),
  )
}

function report(trial: Trial, { without: analysis, all, others, ends, shown }: BothWays, schools: readonly School[]): string {
  const { treatments, question } = trial
  const named = (term: string): string => termInWords(treatments, term)
  const planned = plannedAnswers(analysis, treatments, 'metric')
  const lines = [
    `${question.title}: ${analysis.trait.name}, ${analysis.trait.unit}`,
    '',
    ...spokenLines(analysis.sentences),
    ...planned.flatMap((each) => (each.atSites ? [`  ${each.comparison.name}. ${each.atSites}`] : [])),
    ...(all === analysis || analysis.leftOut === 0
      ? []
      : [`With every ${analysis.unit} kept in:`, ...spokenLines(all.sentences.slice(0, 1)).map((line) => `  ${line}`)]),
    ...others.map(({ about, words }) => `${about}, ${words}.`),
    ...[endsInWords(countEnds(ends), analysis.unit)].flatMap((words) => (words === null ? [] : [`${words}.`])),
    ...classAnswers(analysis, treatments, 'metric').map((each) => `[${each.evidence}] ${each.text}`),
    ...shownAnswers(shown, analysis, treatments, 'metric').map((each) => `[${each.evidence}] ${each.text}`),
    '',
    analysis.model.words,
    `Model: ${analysis.model.symbols}`,
    '',
  ]
  if (analysis.mixed) lines.push(...testLines(analysis, named), '', ...mixedLines(analysis))
  else if (analysis.kind === 'tested') {
    lines.push(
      ...columns(
        ['source', 'df', 'sum of squares', 'mean square', 'F', 'p'],
        [
          ...analysis.tests.map((row) => [
            `${row.partOf ? '  ' : ''}${named(row.term)}`,
            String(row.df),
            formatNumber(row.ss, 5),
            formatNumber(row.ms, 5),
            formatNumber(row.f, 4),
            formatP(row.p),
          ]),
          ...analysis.errors.map((error) => [
            analysis.errors.length === 1 ? 'residual' : `residual of ${plural(error.stratum)}`,
            String(error.df),
            formatNumber(error.ss, 5),
            formatNumber(error.ms, 5),
            '',
            '',
          ]),
        ],
      ),
      '',
    )
  }
  if (planned.length > 0) {
    lines.push(
      ...columns(
        ['planned comparison', 'estimate', 's.e.', 'df', 't', 'p'],
        planned.map(({ comparison, row }) => [
          comparison.name,
          formatNumber(row.estimate, 4),
          formatNumber(row.se, 3),
          formatNumber(row.df, 3),
          formatNumber(row.t, 3),
          formatP(row.p),
        ]),
      ),
      '',
    )
  }
  for (const term of Object.values(analysis.terms)) {
    lines.push(
      ...columns(
        [named(term.term), plural(analysis.unit), 'mean', 's.e.', ...(term.letters['tukey'] ? ['letters (Tukey)'] : [])],
        term.means.map((row) => [
          levelCode(trial, term.factors, row.level),
          String(row.n),
          formatByError(row.mean, row.se),
          formatNumber(row.se, 3),
          ...(term.letters['tukey'] ? [term.letters['tukey'][row.level] ?? ''] : []),
        ]),
      ),
      ...(analysis.kind === 'tested'
        ? [`SED ${formatNumber(term.sed.mean, 3)}   LSD ${formatNumber(term.lsd.mean, 3)} at ${analysis.significance}`]
        : []),
      '',
    )
  }
  if (analysis.kind === 'tested') lines.push(`CV ${analysis.errors.map((error) => cvInWords(error)).join(', ')}`)
  if (analysis.cautions.length > 0) lines.push('', ...analysis.cautions.map((each) => `Caution: ${each.text}`))
  if (schools.length > 0) lines.push('', ...schoolLines(schools))
  return `${lines.join('\n').trim()}\n`
}

/** Codes of a mean's levels, sites by their name. */
function levelCode({ treatments }: Trial, factors: readonly string[], level: string): string {
  const parts = level.split(':')
  return factors
    .map(
      (key, i) =>
        (key === WHOLE ? treatments.list : treatments.factors.find((factor) => factor.key === key)?.levels)?.find(
          (each) => each.key === parts[i],
        )?.code ?? parts[i],
    )
    .join(' ')
}
