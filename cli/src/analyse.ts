import { readFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { analyseTrait, sentencesFor, type Analysis } from '@canter/core/analysis'
import { unpackTrial } from '@canter/core/exchange'
import { plotTable } from '@canter/core/numbers'
import { formatNumber, formatP } from '@canter/core/quantity'
import { plural, type Trial } from '@canter/core/trial'
import { RESULT_VERSION } from './analyse-table.ts'
import { columns } from './columns.ts'
import { UsageError } from './usage-error.ts'

export function analyseCommand(args: readonly string[]): string {
  const { file, trait: asked, json } = readArguments(args)
  let bytes: Uint8Array
  try {
    bytes = readFileSync(file)
  } catch (error) {
    throw new Error(`${file} cannot be read (${(error as { code?: string }).code ?? 'unknown reason'}).`)
  }
  const { trial, layout, records } = unpackTrial(bytes)
  if (!layout) throw new Error(`“${trial.title}” is not laid out yet: there are no plots to analyse.`)
  const traits = [...trial.traits, ...trial.derived]
  const trait = traits.find((each) => each.key === (asked ?? trial.response))
  if (!trait) throw new UsageError(`There is no trait “${asked}”. This trial has: ${traits.map((each) => each.key).join(', ')}.`)
  const both = analyseTrait(trial, layout, plotTable(trial, layout, records), trait.key)
  if (json)
    return `${JSON.stringify({ canterResult: RESULT_VERSION, trial: trial.title, ...both.without, withNothingLeftOut: both.all === both.without ? null : both.all }, null, 2)}\n`
  return report(trial, both.without, trait.better)
}

function readArguments(args: readonly string[]): { file: string; trait: string | undefined; json: boolean } {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { trait: { type: 'string' }, json: { type: 'boolean', default: false } },
    })
    if (positionals.length !== 1) throw new UsageError('Name one package: canter analyse PACKAGE.zip')
    return { file: positionals[0]!, trait: values.trait, json: values.json }
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(error instanceof Error ? error.message : String(error))
  }
}

function report(trial: Trial, analysis: Analysis, better: 'more' | 'less' | 'neither'): string {
  const factor = trial.factors[0]!
  const term = analysis.terms[factor.key]!
  const code = (key: string): string => factor.levels.find((level) => level.key === key)?.code ?? key
  const lines = [
    `${trial.title}: ${analysis.trait.name}, ${analysis.trait.unit}`,
    '',
    ...sentencesFor({
      analysis,
      factor,
      better,
      smallest: analysis.trait.key === trial.response ? trial.smallestDifference : null,
      system: 'metric',
    }).map((each) => `[${each.evidence}] ${each.text}`),
    '',
    analysis.model.words,
    `Model: ${analysis.model.symbols}`,
    '',
  ]
  if (analysis.kind === 'tested') {
    lines.push(
      ...columns(
        ['source', 'df', 'sum of squares', 'mean square', 'F', 'p'],
        [
          ...analysis.tests.map((row) => [
            row.term === factor.key ? factor.name : row.term,
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
  lines.push(
    ...columns(
      ['treatment', 'plots', 'mean', 's.e.', 'letters (Tukey)'],
      term.means.map((row) => [
        code(row.level),
        String(row.n),
        formatNumber(row.mean, 4),
        formatNumber(row.se, 3),
        term.letters.tukey?.[row.level] ?? '',
      ]),
    ),
  )
  if (analysis.kind === 'tested')
    lines.push(
      '',
      `SED ${formatNumber(term.sed.mean, 3)}   LSD ${formatNumber(term.lsd.mean, 3)} at ${analysis.significance}   CV ${formatNumber(analysis.errors[0]!.cv, 3)} %`,
    )
  if (analysis.cautions.length > 0) lines.push('', ...analysis.cautions.map((each) => `Caution: ${each.text}`))
  return `${lines.join('\n')}\n`
}
