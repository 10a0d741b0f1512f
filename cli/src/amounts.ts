import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import { parseArgs } from 'node:util'
import {
  calculationCautions,
  calculationOf,
  calculations,
  differsInWords,
  doseAmounts,
  passesOf,
  reckon,
  sheetStops,
  treatmentTotals,
  workedSheet,
  type Calculation,
  type Reckoned,
  type Remaining,
} from '@canter/core/amounts'
import { FileError, readAmountsRequest, unpackTrial } from '@canter/core/exchange'
import { outline } from '@canter/core/ground'
import { remaining, TrialBook } from '@canter/core/numbers'
import { figure, given, shownUnit, workingChain, type UnitSystem, type Worked } from '@canter/core/quantity'
import type { Site, Trial, Unit } from '@canter/core/trial'
import { columns } from './columns.ts'
import { readText } from './table-arguments.ts'
import { UsageError } from './usage-error.ts'

const AMOUNTS_VERSION = 1

/** One thing worked out, with what it is called where it comes from. */
interface Worksheet {
  readonly title: string
  readonly calculation: Calculation
  readonly reckoned: Reckoned
}

/** `canter amounts FILE` and `canter amounts --list` */
export function amountsCommand(args: readonly string[]): string {
  const { file, list, site, json, units } = parse(args)
  if (list) return listed(calculations)
  if (file === undefined) throw new UsageError('Name a request, or an exported trial package; --list tells which calculations there are.')
  return file.endsWith('.json') ? ofRequest(file, json, units) : ofPackage(file, site, json, units)
}

function ofRequest(path: string, json: boolean, asked: UnitSystem | null): string {
  const file = basename(path)
  const request = readAmountsRequest(file, readText(path))
  const sheets = request.items.map(({ calculation: key, title, given }, i): Worksheet => {
    const calculation = calculationOf(key)
    if (!calculation)
      throw new FileError(file, `items.${i}.calculation: there is no calculation “${key}”. Known: ${calculations.map((each) => each.key).join(', ')}.`) // prettier-ignore
    const reckoned = reckon(calculation, given, (unit) => shownUnit(unit, request.units))
    if (!reckoned.ok)
      throw new FileError(file, reckoned.problems.map((each) => `items.${i}.given${each.input ? `.${each.input}` : ''}: ${each.problem}`).join(' ')) // prettier-ignore
    return { title: title ?? calculation.name, calculation, reckoned }
  })
  return json ? asJson(sheets) : `${sheets.flatMap((each) => sheetLines(each, asked ?? request.units)).join('\n').trim()}\n` // prettier-ignore
}

function ofPackage(path: string, wanted: string | undefined, json: boolean, asked: UnitSystem | null): string {
  let bytes: Uint8Array
  try {
    bytes = readFileSync(path)
  } catch (error) {
    throw new Error(`${path} cannot be read (${(error as { code?: string }).code ?? 'unknown reason'}).`)
  }
  const { trial, layouts, records } = unpackTrial(bytes)
  const book = new TrialBook(trial, layouts, records)
  const sites = wanted === undefined ? trial.sites : trial.sites.filter((each) => each.key === wanted)
  if (sites.length === 0)
    throw new UsageError(`There is no site “${wanted}”. This trial has: ${trial.sites.map((each) => each.key).join(', ')}.`)
  const kept = (trial.amounts.sheets ?? []).filter((each) => wanted === undefined || each.site === null || each.site === wanted)
  const sheets = kept.flatMap((each): Worksheet[] => {
    const worked = workedSheet(each)
    return worked ? [{ title: each.title, ...worked }] : []
  })
  if (json) return asJson(sheets)
  const system = asked ?? 'metric'
  const lines = [trial.question.title, '']
  for (const site of sites) {
    const units = layouts.find((layout) => layout.siteKey === site.key)?.units ?? outline(trial, site.key)
    lines.push(
      ...siteLines(
        trial,
        site,
        units,
        remaining(units, (id) => book.allFates(id)),
        system,
      ),
    )
  }
  lines.push(...sheets.flatMap((each) => sheetLines(each, system)))
  if (lines.length === 2) lines.push('Nothing is put on that could be worked out, and no worksheet is kept with it.')
  return `${lines.join('\n').trim()}\n`
}

/** What goes on at a site, pass by pass, and what its treatments get in all. */
function siteLines(trial: Trial, site: Site, units: readonly Unit[], left: Remaining, system: UnitSystem): string[] {
  const { rows, problems } = doseAmounts(trial.treatments, trial.amounts, site, units, left)
  if (rows.length === 0 && problems.length === 0) return []
  const lines = [site.name, ...problems.map(({ problem }) => problem)]
  for (const pass of passesOf(rows, site, units, left)) {
    const { dose, product, alike, part } = pass
    lines.push(`${product.product}${dose.parts.length > 1 ? `, pass ${part + 1}${alike > 1 ? ` to ${part + alike}, alike` : ''}` : ''}${pass.on ? `, ${pass.on}` : ''}`) // prettier-ignore
    const told = (of: Worked | null): string => (of ? figure(of, system, 4) : 'nothing')
    lines.push(...columns(['treatment', 'the season', `a ${site.design.unit}`, 'carrier', 'in all', `${site.design.unit}s`], pass.turns.map((turn) => [turn.name, turn.row ? told(turn.row.rate) : '', told(turn.each), turn.carrier ? told(turn.carrier) : '–', told(turn.all), String(turn.units.length)]))) // prettier-ignore
    for (const { dose: own, stops } of sheetStops(pass.rows, trial, site).by)
      lines.push(...stops.map((each) => `Stop: ${each}${own.reason ? ` Reason on record: ${own.reason}` : ''}`))
  }
  const { totals, nutrients, differsAlsoIn, flags } = treatmentTotals(trial.treatments, trial.amounts, site)
  if (nutrients.length > 0)
    lines.push('In all', ...columns(['treatment', ...nutrients], totals.map((each) => [each.treatment.code, ...nutrients.map((nutrient) => figure(each.nutrients.get(nutrient) ?? given('', 0, 'kg/ha'), system, 4))]))) // prettier-ignore
  if (differsAlsoIn.length > 0) lines.push(differsInWords('what is asked about', differsAlsoIn))
  return [...lines, ...flags, '']
}

function sheetLines({ title, calculation, reckoned }: Worksheet, system: UnitSystem): string[] {
  if (!reckoned.ok) return [title, ...reckoned.problems.map((each) => `  Not worked out: ${each.problem}`), '']
  const figures = Object.values(reckoned.figures)
  return [
    title,
    ...columns(
      ['', ''],
      figures.map((each) => [each.label, figure(each, system, 4)]),
    )
      .slice(1)
      .map((line) => `  ${line}`),
    '  Working:',
    ...[...new Set(figures.flatMap((each) => workingChain(each, system)))]
      .filter((line) => line.includes(' = '))
      .map((line) => `    ${line}`),
    ...[...reckoned.doubts, ...calculationCautions(calculation)].map((each) => `  Caution: ${each}`),
    '',
  ]
}

function asJson(sheets: readonly Worksheet[]): string {
  const plain = ({ label, value, unit }: Worked) => ({ label, value, unit })
  const items = sheets.map(({ title, calculation, reckoned }) => ({
    title,
    calculation: calculation.key,
    ...(reckoned.ok
      ? {
          figures: Object.fromEntries(Object.entries(reckoned.figures).map(([key, each]) => [key, plain(each)])),
          doubts: reckoned.doubts,
          cautions: calculationCautions(calculation),
        }
      : { problems: reckoned.problems }),
  }))
  return `${JSON.stringify({ canterAmounts: AMOUNTS_VERSION, items }, null, 2)}\n`
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
