import { analyseLayout } from '@canter/core/analysis'
import { formatNumber, formatP } from '@canter/core/quantity'
import { readTableArguments } from './table-arguments.ts'

/** `canter check`: what is odd in a table, before it is believed. */
export function checkTableCommand(args: readonly string[]): string {
  const { table, options } = readTableArguments(args)
  const analysis = analyseLayout({ ...table, options })
  const lines = [`${table.units.length} units, ${table.values.size} values of ${table.trait.name}, ${analysis.missing} missing.`]
  const counts = new Map<string, number>()
  for (const means of Object.values(analysis.means).slice(-1)) for (const mean of means) counts.set(mean.level, mean.n)
  const [least, most] = [Math.min(...counts.values()), Math.max(...counts.values())]
  if (least !== most) lines.push(`Replication is uneven: from ${least} to ${most} values for a treatment.`)
  const { shapiroWilk, outlier } = analysis.checks
  if (outlier && outlier.p < 0.1)
    lines.push(
      `${outlier.unit} lies far from what its treatment and block explain (t ${formatNumber(outlier.t, 3)}, p ${formatP(outlier.p)}).`,
    )
  if (shapiroWilk && shapiroWilk.p < 0.05)
    lines.push(
      `Residuals do not look normal (Shapiro–Wilk p ${formatP(shapiroWilk.p)}): look at the scale of the trait, and at single plots.`,
    )
  lines.push(...analysis.cautions)
  if (lines.length === 1) lines.push('Nothing stands out.')
  return `${lines.join('\n')}\n`
}
