import { analyse, findings } from '@canter/core/analysis'
import { asWritten } from '@canter/core/exchange'
import { plural } from '@canter/core/quantity'
import { readTableArguments } from './table-arguments.ts'

/** `canter check`: what is odd in a table, before it is believed. */
export function checkTableCommand(args: readonly string[]): string {
  const { request, json } = readTableArguments(args)
  const analysis = analyse(request)
  const found = [...(analysis.notTested ? [analysis.notTested.text] : []), ...findings(request, analysis)]
  const { observations, missing, trait } = analysis
  if (json)
    return asWritten(
      `${JSON.stringify({ canterCheck: 1, trait, observations, missing, findings: found, checks: analysis.checks }, null, 2)}\n`,
    )
  const head = `${observations} ${plural(analysis.unit)} with a value of ${trait.name}, ${missing} without.`
  return asWritten(`${[head, ...(found.length > 0 ? found.map((each) => `- ${each}`) : ['Nothing stands out.'])].join('\n')}\n`)
}
