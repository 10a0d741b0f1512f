import { analyseLayout, type LayoutAnalysis } from '@canter/core/analysis'
import { formatNumber, formatP } from '@canter/core/quantity'
import { columns } from './columns.ts'
import { readTableArguments } from './table-arguments.ts'

/** `canter analyse --data … --plan … --trait …` */
export function analyseTableCommand(args: readonly string[]): string {
  const { table, options, json } = readTableArguments(args)
  const analysis = analyseLayout({ ...table, options })
  return json ? `${JSON.stringify({ canterResult: 1, ...analysis }, null, 2)}\n` : report(analysis)
}

function report(analysis: LayoutAnalysis): string {
  const { trait, options } = analysis
  const lines = [
    ...analysis.sentences,
    ...(analysis.sentences.length > 0 ? [''] : []),
    `${trait.name}${trait.unit ? `, ${trait.unit}` : ''}`,
    `Model: ${analysis.model}`,
    analysis.words,
    `${analysis.observations} observations, ${analysis.missing} missing`,
    '',
  ]
  if (analysis.kind === 'tested') {
    lines.push(
      ...columns(
        ['source', 'against', 'df', 'error df', 'mean square', 'F', 'p'],
        analysis.tests.map((test) => [
          test.term,
          test.stratum,
          String(test.df),
          String(test.errorDf),
          formatNumber(test.ms, 5),
          formatNumber(test.f, 4),
          formatP(test.p),
        ]),
      ),
      '',
      ...columns(
        ['error', 'df', 'mean square', 'CV, %'],
        analysis.errors.map((error) => [error.stratum, String(error.df), formatNumber(error.ms, 5), formatNumber(error.cv, 3)]),
      ),
      '',
    )
  }
  for (const [term, means] of Object.entries(analysis.means)) {
    const letters = analysis.letters[term]
    lines.push(
      ...columns(
        [term, 'n', 'mean', 's.e.', ...(letters ? [`letters (${options.method})`] : [])],
        means.map((mean) => [
          mean.level,
          String(mean.n),
          formatNumber(mean.mean, 4),
          mean.se === null ? '–' : formatNumber(mean.se, 3),
          ...(letters ? [letters[mean.level] ?? ''] : []),
        ]),
      ),
    )
    const seds = (analysis.pairs[term] ?? []).map((pair) => pair.sed)
    if (seds.length > 0) {
      const [least, most] = [Math.min(...seds), Math.max(...seds)]
      lines.push(`SED ${formatNumber(least, 3)}${most - least > 1e-9 * most ? ` to ${formatNumber(most, 3)}` : ''}`)
    }
    lines.push('')
  }
  const { shapiroWilk, outlier } = analysis.checks
  if (shapiroWilk) lines.push(`Residuals: Shapiro–Wilk W ${formatNumber(shapiroWilk.w, 4)}, p ${formatP(shapiroWilk.p)}`)
  if (outlier && outlier.p < 0.1)
    lines.push(
      `The residual of ${outlier.unit} stands out (t ${formatNumber(outlier.t, 3)}, p ${formatP(outlier.p)} for the largest of all). Look for a cause; the value alone is none.`,
    )
  lines.push(...analysis.cautions.map((each) => `Caution: ${each}`))
  return `${lines.join('\n').trimEnd()}\n`
}
