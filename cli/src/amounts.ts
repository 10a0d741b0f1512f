import { basename } from 'node:path'
import { parseArgs } from 'node:util'
import { calculationOf, calculations, reckon, type Calculation } from '@canter/core/amounts'
import { FileError, readAmountsRequest } from '@canter/core/exchange'
import { shownUnit, type UnitSystem } from '@canter/core/quantity'
import { amountsOfTrial } from './amounts-of-trial.ts'
import { AMOUNTS_VERSION, sheetFields, sheetLines, type WorkedSheet } from './amounts-sheets.ts'
import { columns } from './columns.ts'
import { readText } from './table-arguments.ts'
import { UsageError } from './usage-error.ts'

/** `canter amounts FILE` and `canter amounts --list` */
export function amountsCommand(args: readonly string[]): string {
  const { file, list, site, json, units } = parse(args)
  if (list) return listed(calculations)
  if (file === undefined) throw new UsageError('Name a request, or an exported trial package; --list tells which calculations there are.')
  return file.endsWith('.json') ? ofRequest(file, json, units) : amountsOfTrial(file, site, json, units)
}

function ofRequest(path: string, json: boolean, asked: UnitSystem | null): string {
  const file = basename(path)
  const request = readAmountsRequest(file, readText(path))
  const sheets = request.items.map(({ calculation: key, title, given }, i): WorkedSheet => {
    const calculation = calculationOf(key)
    if (!calculation)
      throw new FileError(file, `items.${i}.calculation: there is no calculation “${key}”. Known: ${calculations.map((each) => each.key).join(', ')}.`) // prettier-ignore
    const reckoned = reckon(calculation, given, (unit) => shownUnit(unit, request.units))
    if (!reckoned.ok)
      throw new FileError(file, reckoned.problems.map((each) => `items.${i}.given${each.input ? `.${each.input}` : ''}: ${each.problem}`).join(' ')) // prettier-ignore
    return { title: title ?? calculation.name, calculation, reckoned }
  })
  if (json) return `${JSON.stringify({ canterAmounts: AMOUNTS_VERSION, items: sheets.map(sheetFields) }, null, 2)}\n`
  return `${sheets.flatMap((each) => sheetLines(each, asked ?? request.units)).join('\n').trim()}\n` // prettier-ignore
}

function listed(all: readonly Calculation[]): string {
  const lines = all.flatMap(({ key, name, about, inputs }) => [
    `${key}: ${name}`,
    `  ${about}`,
    ...columns(
      ['', '', ''],
      inputs.map((input) => [
        input.key,
        `${input.name}${input.unit ? `, ${input.unit}` : ''}${input.choices ? `: ${input.choices.join(', ')}` : ''}`,
        input.usual !== undefined
          ? `usually ${input.usual}`
          : input.optional
            ? 'may be left out'
            : input.kind === 'several'
              ? 'several'
              : '',
      ]),
      'left',
    )
      .slice(1)
      .map((line) => `    ${line}`),
    '',
  ])
  return `${lines.join('\n').trim()}\n`
}

function parse(args: readonly string[]) {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { list: { type: 'boolean' }, site: { type: 'string' }, units: { type: 'string' }, json: { type: 'boolean' } },
    })
    if (positionals.length > 1) throw new UsageError('Name one file at a time.')
    return { file: positionals[0], list: values.list ?? false, site: values.site, json: values.json ?? false, units: unitsOf(values.units) } // prettier-ignore
  } catch (error) {
    throw error instanceof UsageError ? error : new UsageError(error instanceof Error ? error.message : String(error))
  }
}

function unitsOf(typed: string | undefined): UnitSystem | null {
  if (typed === undefined || typed === 'us' || typed === 'metric') return typed ?? null
  throw new UsageError('--units is metric or us.')
}
