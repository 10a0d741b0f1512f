import { readFileSync } from 'node:fs'
import { differsInWords, doseAmounts, passesOf, sheetStops, treatmentTotals, workedSheet, type Pass } from '@canter/core/amounts'
import { unpackTrial } from '@canter/core/exchange'
import { outline } from '@canter/core/ground'
import { remaining, TrialBook } from '@canter/core/numbers'
import { figure, given, type UnitSystem, type Worked } from '@canter/core/quantity'
import type { Site, Trial } from '@canter/core/trial'
import { AMOUNTS_VERSION, plain, sheetFields, sheetLines, type WorkedSheet } from './amounts-sheets.ts'
import { columns } from './columns.ts'
import { UsageError } from './usage-error.ts'

/** What goes on at one site, worked out. */
interface AtSite {
  readonly site: Site
  readonly problems: readonly string[]
  readonly passes: readonly Pass[]
}

/** All that goes on in an exported trial, pass by pass, and the worksheets kept with it. */
export function amountsOfTrial(path: string, wanted: string | undefined, json: boolean, asked: UnitSystem | null): string {
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
  const sheets = kept.flatMap((each): WorkedSheet[] => {
    const worked = workedSheet(each)
    return worked ? [{ title: each.title, ...worked }] : []
  })
  const worked = sites.map((site): AtSite => {
    const units = layouts.find((layout) => layout.siteKey === site.key)?.units ?? outline(trial, site.key)
    const left = remaining(units, (id) => book.allFates(id))
    const { rows, problems } = doseAmounts(trial.treatments, trial.amounts, site, units, left)
    return { site, problems: problems.map(({ problem }) => problem), passes: passesOf(rows, site, units, left) }
  })
  if (json)
    return `${JSON.stringify({ canterAmounts: AMOUNTS_VERSION, items: sheets.map(sheetFields), sites: worked.map((each) => siteFields(trial, each)) }, null, 2)}\n` // prettier-ignore
  const system = asked ?? 'metric'
  const lines = [trial.question.title, '', ...worked.flatMap((each) => siteLines(trial, each, system))]
  lines.push(...sheets.flatMap((each) => sheetLines(each, system)))
  if (lines.length === 2) lines.push('Nothing is put on that could be worked out, and no worksheet is kept with it.')
  return `${lines.join('\n').trim()}\n`
}

/** What goes on at a site, pass by pass, and what its treatments get in all. */
function siteLines(trial: Trial, { site, problems, passes }: AtSite, system: UnitSystem): string[] {
  if (passes.length === 0 && problems.length === 0) return []
  const { unit } = site.design
  const lines = [site.name, ...problems]
  for (const pass of passes) {
    const { dose, product, alike, part } = pass
    lines.push(`${product.product}${dose.parts.length > 1 ? `, pass ${part + 1}${alike > 1 ? ` to ${part + alike}, alike` : ''}` : ''}${pass.on ? `, ${pass.on}` : ''}`) // prettier-ignore
    const told = (of: Worked | null): string => (of ? figure(of, system, 4) : 'nothing')
    lines.push(...columns(['treatment', 'the season', `a ${unit}`, 'carrier', 'in all', `${unit}s`], pass.turns.map((turn) => [turn.name, turn.row ? told(turn.row.rate) : '', told(turn.each), turn.carrier ? told(turn.carrier) : '–', told(turn.all), String(turn.units.length)]))) // prettier-ignore
    for (const less of pass.turns.flatMap((turn) => turn.lesser))
      if (less.each ?? less.carrier) lines.push(`${unit} ${less.unit.code}, of which ${figure(given('', 100 * less.left, '%'), system, 3)} remains: ${told(less.each ?? less.carrier)}`) // prettier-ignore
    for (const { dose: own, stops, open } of sheetStops(pass.rows, trial, site).by)
      lines.push(...stops.map((each) => `Stop: ${each}${open.includes(each) ? '' : ` Reason on record: ${own.reason}`}`))
  }
  const { totals, nutrients, differsAlsoIn, flags } = treatmentTotals(trial.treatments, trial.amounts, site)
  if (nutrients.length > 0)
    lines.push('In all', ...columns(['treatment', ...nutrients], totals.map((each) => [each.treatment.code, ...nutrients.map((nutrient) => figure(each.nutrients.get(nutrient) ?? given('', 0, 'kg/ha'), system, 4))]))) // prettier-ignore
  if (differsAlsoIn.length > 0) lines.push(differsInWords('what is asked about', differsAlsoIn))
  return [...lines, ...flags, '']
}

/** The same as fields, in the measures it was worked out in. */
function siteFields(trial: Trial, { site, problems, passes }: AtSite) {
  const { totals, nutrients, differsAlsoIn, flags } = treatmentTotals(trial.treatments, trial.amounts, site)
  const or = (of: Worked | null) => of && plain(of)
  return {
    site: site.key,
    unit: site.design.unit,
    problems,
    passes: passes.map((pass) => {
      const { stops, reasons, by } = sheetStops(pass.rows, trial, site)
      return {
        pass: pass.key,
        product: pass.product.product,
        part: pass.part + 1,
        alike: pass.alike,
        when: pass.when,
        on: pass.on,
        all: plain(pass.all),
        carrier: or(pass.carrier),
        stops,
        reasons,
        unanswered: by.flatMap(({ open }) => open),
        turns: pass.turns.map((turn) => ({
          treatment: turn.row?.recipient.named?.code ?? null,
          name: turn.name,
          season: or(turn.row?.rate ?? null),
          each: or(turn.each),
          carrier: or(turn.carrier),
          all: or(turn.all),
          units: turn.units.map((unit) => unit.code),
          less: turn.lesser.map((own) => ({ unit: own.unit.code, left: own.left, each: or(own.each), carrier: or(own.carrier) })),
        })),
      }
    }),
    totals: totals.map(({ treatment, nutrients: got, water }) => ({
      treatment: treatment.code,
      nutrients: Object.fromEntries(nutrients.map((nutrient) => [nutrient, or(got.get(nutrient) ?? null)])),
      water: or(water),
    })),
    differsAlsoIn,
    flags,
  }
}
