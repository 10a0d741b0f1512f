import { existsSync, writeFileSync } from 'node:fs'
import { basename } from 'node:path'
import { parseArgs } from 'node:util'
import { boundOfTwoReplicates, designOf, designs, planEfficiency } from '@canter/core/design'
import { FileError, laidOutTable, readDesignRequest, requestedTrial } from '@canter/core/exchange'
import { layOut, layoutFigures, layoutProblems } from '@canter/core/ground'
import { newTrialDraft } from '@canter/core/numbers'
import { counted, formatFixed } from '@canter/core/quantity'
import { DRAW } from '@canter/core/trial'
import { readText } from './table-arguments.ts'
import { UsageError } from './usage-error.ts'

/** `canter design --request … --table … --plan …` */
export function designCommand(args: readonly string[]): string {
  const { request: path, seed, draw, table, plan, json } = parse(args)
  if (!path || !table || !plan) throw new UsageError('Name all three: --request request.json --table plots.csv --plan plan.json')
  const chosen = seedOf(seed)
  const by = drawOf(draw, seed)
  const file = basename(path)
  const request = readDesignRequest(file, readText(path))
  const design = designOf(request.design)
  if (!design)
    throw new FileError(file, `design: there is no design “${request.design}”. Known: ${designs.map((each) => each.key).join(', ')}.`)
  const known = new Set(design.settings.map((each) => each.key))
  const strange = Object.keys(request.settings).find((each) => !known.has(each))
  if (strange !== undefined)
    throw new FileError(
      file,
      `settings: “${design.name}” asks nothing called “${strange}”. It asks: ${[...known].join(', ') || 'nothing'}.`,
    )
  const trial = requestedTrial(file, request, newTrialDraft(2000).sites[0]!)
  const { key } = trial.sites[0]!
  const problems = layoutProblems(trial, key)
  if (problems.length > 0) throw new FileError(file, problems.join(' '))
  for (const each of [table, plan]) if (existsSync(each)) throw new UsageError(`${each} is there already: name another file, or move it.`)
  let n = 0
  const layout = layOut(trial, key, chosen, () => `unit-${++n}`, null, null, by)
  const figures = layoutFigures(trial, key)!
  const efficiency = planEfficiency(layout, trial.treatments)
  const written = laidOutTable(layout, trial.treatments)
  writeFileSync(table, written.table)
  writeFileSync(plan, `${JSON.stringify(written.plan, null, 2)}\n`)
  const size = Number(request.settings['blockSize'])
  const bound =
    request.design === 'alpha-lattice' && request.replicates === 2 && trial.treatments.list.length % size === 0
      ? boundOfTwoReplicates(trial.treatments.list.length, size)
      : null
  const told = {
    canterDesign: 1,
    design: design.key,
    seed: layout.structure.seed,
    draw: layout.structure.seed === null ? null : by,
    units: figures.units,
    times: Object.fromEntries(trial.treatments.list.map((each, i) => [each.name, figures.times[i]])),
    errors: figures.errors.map(({ unit, df, factors }) => ({ unit, df, factors: factors.map((each) => nameOf(each)) })),
    efficiency: efficiency?.average ?? null,
    bound,
    concurrence: efficiency?.concurrence ?? null,
  }
  function nameOf(factor: string): string {
    return trial.treatments.factors.find((each) => each.key === factor)!.name
  }
  if (json) return `${JSON.stringify(told, null, 2)}\n`
  return [
    `${design.name}: ${counted(trial.treatments.list.length, 'treatment')} on ${counted(figures.units, request.unit)}.`,
    design.dealt,
    ...design.settings.flatMap((setting) => {
      const question = { treatments: trial.treatments, choice: trial.sites[0]!.design }
      const value = setting.kind === 'choice' ? (question.choice.settings[setting.key] ?? setting.usual(question)) : null
      return value === null ? [] : [`${setting.name}: ${setting.options!(question).find((each) => each.value === value)?.name ?? value}.`]
    }),
    layout.structure.seed === null
      ? 'Nothing is left to chance, so there is no seed.'
      : `Seed ${chosen}${by === DRAW ? '' : ` by draw ${by}`}: the same seed makes the same plan again.`,
    ...figures.errors.map(({ unit, df }) => `${counted(df, 'degree')} of freedom to judge chance by, between ${unit}s.`),
    ...(efficiency && efficiency.average < 1 - 1e-9
      ? [
          `Average efficiency factor ${formatFixed(efficiency.average, 4)}${bound === null ? '' : `; no plan exceeds ${formatFixed(bound, 4)}`}.`,
        ]
      : []),
    ...(efficiency?.concurrence ? [`Two treatments meet in ${efficiency.concurrence.join(' to ')} blocks.`] : []),
    `Written: ${table}, ${plan}. Add a column for what you measure, then: canter analyse --data ${table} --plan ${plan} --trait COLUMN`,
    '',
  ].join('\n')
}

function parse(args: readonly string[]) {
  const string = { type: 'string' } as const
  try {
    return parseArgs({
      args: [...args],
      options: { request: string, seed: string, draw: string, table: string, plan: string, json: { type: 'boolean' } },
    }).values
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error))
  }
}

/** The newest, or that of an older plan, whose seed is then known. */
function drawOf(text: string | undefined, seed: string | undefined): number {
  if (text === undefined) return DRAW
  const draw = Number(text)
  if (!Number.isInteger(draw) || draw < 1 || draw > DRAW) throw new UsageError(`--draw is a whole number from 1 to ${DRAW}.`)
  if (seed === undefined) throw new UsageError('--draw makes an older plan again: give its --seed too.')
  return draw
}

/** As given, else drawn. */
function seedOf(text: string | undefined): number {
  if (text === undefined) return crypto.getRandomValues(new Uint32Array(1))[0]! % 1_000_000
  const seed = Number(text)
  if (!Number.isInteger(seed) || seed < 0 || seed > 2_147_483_647) throw new UsageError('--seed is a whole number from 0 to 2147483647.')
  return seed
}
