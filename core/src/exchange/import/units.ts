import { placeUnits } from '../../ground/index.ts'
import { newTrialDraft } from '../../numbers/index.ts'
import { counted, plural } from '../../quantity/index.ts'
import type { Layout, Site, Structure, Unit, UnitKind } from '../../trial/index.ts'
import { holdersOf, nestingOf, runsIn, type Answers } from './nesting.ts'
import { placedAsSaid, placing, ranksOf } from './places.ts'
import { dealt, distinctPlots, groupsOf, type Marks, type PlacedRow, type Plot } from './plots.ts'
import { questionsOf } from './questions.ts'
import type { Asked, ImportSaid, OddRow } from './said.ts'
import { slug, type Varied } from './varied.ts'

export interface Built {
  readonly layouts: readonly Layout[]
  readonly sites: Site[]
  readonly problems: readonly string[]
  readonly odd: readonly OddRow[]
  readonly asked: readonly Asked[]
  readonly structureWords: readonly string[]
  /** The unit a row is of; undefined where it was left out. */
  readonly unitOf: (line: number) => string | undefined
  /** Of several rows of one unit, which it is. */
  readonly sampleOf: (line: number) => number
  readonly samples: number
}

/** Sites with their units and structure, as far as rows tell them, and what they leave to be asked. */
export function layoutFrom(rows: readonly PlacedRow[], varied: Varied, said: ImportSaid, newId: () => string): Built {
  const odd: OddRow[] = []
  const plots = distinctPlots(rows, odd)
  const bySite = new Map<string, Plot[]>()
  for (const plot of plots) bySite.set(plot.site, [...(bySite.get(plot.site) ?? []), plot])
  const asked = questionsOf(bySite, varied, said)
  const answers = {
    runs: new Set(said.runs ?? asked.find((each) => each.key === 'runs')?.names ?? []),
    both: said.both ?? asked.find((each) => each.key === 'both')?.proposed === 'yes',
    how: said.how ?? (asked.some((each) => each.key === 'how' && each.proposed === 'systematic') ? 'systematic' : 'not randomised'),
  }
  const keys = new Set<string>()
  const made = [...bySite].map(([name, own], i) => {
    let key = slug(name) || `site-${i + 1}`
    for (let n = 2; keys.has(key); n++) key = `${(slug(name) || 'site').slice(0, 36)}-${n}`
    keys.add(key)
    return siteFrom(key, name || 'Site 1', own, varied, said, answers, newId, odd)
  })
  const lines = new Map(made.flatMap((each) => [...each.lines]))
  const samples = new Map(plots.flatMap((plot) => [...plot.lines]))
  return {
    layouts: made.map((each) => each.layout),
    sites: made.map((each) => each.site),
    problems: made.flatMap((each) => each.problems),
    odd,
    asked,
    structureWords: [...new Set(made.flatMap((each) => each.words))],
    unitOf: (line) => lines.get(line),
    sampleOf: (line) => samples.get(line) ?? 1,
    samples: Math.max(1, ...samples.values()),
  }
}

function siteFrom(
  key: string,
  name: string,
  plots: readonly Plot[],
  varied: Varied,
  said: ImportSaid,
  answers: Answers,
  newId: () => string,
  odd: OddRow[],
) {
  const { factors, list } = varied.treatments
  const runs = runsIn(plots, answers.runs)
  const holders = new Map(plots.map((plot) => [plot, holdersOf(plot, runs.get(plot) ?? '', answers)]))
  const planned = plots.filter((plot) => !holders.get(plot)!.has('demonstration'))
  const nesting = nestingOf(planned.map((plot) => holders.get(plot)!))
  const { kind } = said
  const problems: string[] = []
  // The coarsest kind of which every unit has one level of a factor is what it was put on.
  const constant = (factor: string, of: UnitKind): boolean =>
    groupsOf(
      planned.filter((plot) => holders.get(plot)!.has(of)),
      (plot) => holders.get(plot)!.get(of)!,
    ).every((group) => new Set(group.map((plot) => dealt(plot)[factor])).size === 1)
  const sized = (of: UnitKind): boolean => {
    const groups = groupsOf(planned, (plot) => holders.get(plot)!.get(of) ?? '')
    return planned.every((plot) => holders.get(plot)!.has(of)) && groups.length < planned.length
  }
  const putOn = new Map(factors.map((factor) => [factor.key, nesting.kinds.find((of) => sized(of) && constant(factor.key, of)) ?? kind]))
  const within = (of: UnitKind): readonly UnitKind[] =>
    of === kind ? nesting.direct(holders.get(planned[0]!) ?? new Map()) : nesting.within.get(of)!
  const site: Unit = bareUnit(newId(), 'site', name.slice(0, 20))
  const units: Unit[] = [site]
  const ids = new Map<string, string>()
  const unitAt = (of: UnitKind, called: string): string => ids.get(`${of} ${called}`)!
  const marksAt = (of: UnitKind, plot: Plot, which: (plot: Plot) => Marks): Record<string, string> =>
    Object.fromEntries(
      [...putOn].flatMap(([factor, on]) => (on === of && which(plot)[factor] !== undefined ? [[factor, which(plot)[factor]!]] : [])),
    )
  const all = new Map<UnitKind, Map<string, Plot>>()
  for (const plot of plots)
    for (const [of, called] of holders.get(plot)!) {
      const own = all.get(of) ?? new Map<string, Plot>()
      all.set(of, own)
      if (!own.has(called)) own.set(called, plot)
    }
  const order: UnitKind[] = [...nesting.kinds, ...(all.has('demonstration') ? (['demonstration'] as const) : [])]
  const along = placing(plots)
  const blockOrder = new Map<string, number>()
  for (const of of order) {
    for (const [called, plot] of all.get(of)!) {
      const id = newId()
      ids.set(`${of} ${called}`, id)
      const inside = (nesting.within.get(of) ?? []).map((above) => unitAt(above, holders.get(plot)!.get(above)!))
      const holder = inside[0] ?? site.id
      const n = blockOrder.get(holder) ?? 0
      blockOrder.set(holder, n + 1)
      const marks = marksAt(of, plot, dealt)
      units.push({
        ...bareUnit(id, of, called.slice(0, 20)),
        in: inside.length > 0 ? inside : [site.id],
        at: along === 'order' && of !== 'demonstration' && inside.length < 2 ? { in: holder, column: n, row: null } : null,
        planned: marks,
        received: marksAt(of, plot, (each) => each.marks),
        changes: changed(
          marks,
          marksAt(of, plot, (each) => each.marks),
        ),
      })
    }
  }
  const lines = new Map<number, string>()
  const taken = new Set(plots.map((plot) => plot.code))
  const perHolder = new Map<string, number>()
  const ranks = ranksOf(plots, along)
  plots.forEach((plot, i) => {
    const own = holders.get(plot)!
    const direct = own.has('demonstration') ? (['demonstration'] as UnitKind[]) : nesting.direct(own)
    const inside = direct.map((of) => unitAt(of, own.get(of)!))
    const holder = inside.length === 1 ? inside[0]! : site.id
    const n = perHolder.get(holder) ?? 0
    perHolder.set(holder, n + 1)
    const code = plot.code === '' ? freeCode(plot.block, n + 1, i + 1, taken) : plot.code.slice(0, 20)
    taken.add(code)
    if (plot.code === '') odd.push({ line: plot.line, text: `It has no number: it is called ${code}.`, effect: 'read as' })
    const rest = (which: Marks): Record<string, string> =>
      Object.fromEntries(Object.entries(which).filter(([factor]) => (putOn.get(factor) ?? kind) === kind))
    const [was, is] = [rest(dealt(plot)), rest(plot.marks)]
    const id = newId()
    for (const line of plot.lines.keys()) lines.set(line, id)
    units.push({
      ...bareUnit(id, kind, code),
      in: inside.length > 0 ? inside : [site.id],
      at: ranks.get(plot) ? { in: site.id, ...ranks.get(plot)! } : { in: holder, column: n, row: null },
      planned: own.has('demonstration') && plot.planned === null ? was : was,
      received: is,
      changes: changed(was, is),
    })
  })
  const structure: Structure = {
    schema: 1,
    kinds: [
      { kind: 'site', in: [] },
      ...nesting.kinds.map((of) => ({
        kind: of,
        in: nesting.within.get(of)!.length > 0 ? [...nesting.within.get(of)!] : (['site'] as UnitKind[]),
      })),
      ...(all.has('demonstration') ? [{ kind: 'demonstration' as const, in: ['site' as const] }] : []),
      {
        kind,
        in: [
          ...new Set(
            plots.flatMap((plot) =>
              holders.get(plot)!.has('demonstration') ? (['demonstration'] as UnitKind[]) : nesting.direct(holders.get(plot)!),
            ),
          ),
        ],
      },
    ],
    factors: factors.map(({ key: factor }) => {
      const on = putOn.get(factor)!
      const above = within(on)
      return { factor, appliedTo: on, within: above.length === 1 ? above[0]! : null, how: answers.how }
    }),
    controls: controls(varied),
    seed: null,
  }
  const last = structure.kinds.at(-1)!
  if (last.in.length === 0) last.in.push('site')
  const here = groupsOf(planned, (plot) => JSON.stringify(dealt(plot))).length
  const complete = groupsOf(planned, (plot) => plot.block).every((block) => {
    const own = block.map((plot) => JSON.stringify(dealt(plot)))
    return own.length === here && new Set(own).size === own.length
  })
  const sizes = [...new Set(putOn.values())]
  const replicates = Math.max(
    1,
    all.get('block')?.size ?? Math.min(...groupsOf(planned, (plot) => JSON.stringify(dealt(plot))).map((group) => group.length)),
  )
  const base = newTrialDraft(said.season).sites[0]!
  const middle = (of: 'width' | 'length', otherwise: number): number => {
    const own = plots.flatMap((plot) => (plot[of] === null || plot[of] <= 0 ? [] : [plot[of]])).sort((a, b) => a - b)
    return own[own.length >> 1] ?? otherwise
  }
  const [plotWidth, plotLength] = [middle('width', said.plotWidth), middle('length', said.plotLength)]
  const ground = { ...base.ground, plotWidth, plotLength, harvestWidth: plotWidth, harvestLength: plotLength }
  const made: Site = {
    ...base,
    key,
    name: name.slice(0, 80),
    ground,
    without: list.flatMap((each) => (plots.some((plot) => isMarked(plot.marks, each) || isMarked(dealt(plot), each)) ? [] : [each.key])),
    design: {
      ...base.design,
      unit: kind,
      plants: 0,
      replicates: Math.min(50, replicates),
      key: designFor(sizes, kind, {
        blocks: all.has('block'),
        both: all.has('row') && all.has('column'),
        complete,
        how: answers.how,
        squares: groupsOf(planned, (plot) => JSON.stringify(dealt(plot))).length === all.get('row')?.size,
      }),
      placed: Object.fromEntries(
        sizes
          .filter((of) => of !== kind)
          .map((of) => [of, factors.filter((factor) => putOn.get(factor.key) === of).map((factor) => factor.key)]),
      ),
    },
  }
  const laid = placeUnits(units, ground, kind, null)
  return {
    site: made,
    layout: { siteKey: key, structure, units: placedAsSaid(laid, plots, lines, { plotWidth, plotLength }) },
    lines,
    problems,
    words: wordsOf(varied, putOn, within, complete, all, kind, along),
  }
}

function bareUnit(id: string, kind: UnitKind, code: string): Unit {
  return { id, kind, code, in: [], at: null, planned: {}, received: {}, changes: {}, place: null, walk: null }
}

function changed(planned: Marks, received: Marks): Unit['changes'] {
  const keys = new Set([...Object.keys(planned), ...Object.keys(received)])
  return Object.fromEntries([...keys].filter((key) => planned[key] !== received[key]).map((key) => [key, 'misapplied' as const]))
}

function freeCode(block: string, position: number, running: number, taken: ReadonlySet<string>): string {
  const wanted = /^\d+$/.test(block) ? `${block}${String(position).padStart(2, '0')}` : String(running)
  let code = wanted
  for (let n = 2; taken.has(code); n++) code = `${wanted}.${n}`
  return code
}

function controls({ treatments }: Varied): Structure['controls'] {
  const control = treatments.list.find((each) => each.role === 'untreated control')
  return treatments.factors.flatMap((factor) =>
    control?.levels[factor.key] === undefined ? [] : [{ factor: factor.key, level: control.levels[factor.key]! }],
  )
}

/** The design that such a layout is like, for its name and for laying out anew; the analysis reads the structure only. */
function designFor(
  sizes: readonly UnitKind[],
  kind: UnitKind,
  of: { blocks: boolean; both: boolean; complete: boolean; squares: boolean; how: Answers['how'] },
): string {
  if (sizes.some((each) => each === 'row' || each === 'column')) return 'strip-plot'
  if (sizes.length > 2) return 'split-split-plot'
  if (sizes.length > 1 || sizes[0] !== kind) return 'split-plot'
  if (of.both) return of.squares ? 'latin-square' : 'row-column'
  if (of.how === 'systematic' && !of.blocks) return 'systematic'
  if (!of.blocks) return 'completely-randomised'
  return of.complete ? 'randomised-block' : 'incomplete-blocks'
}

function wordsOf(
  { treatments }: Varied,
  putOn: ReadonlyMap<string, UnitKind>,
  within: (of: UnitKind) => readonly UnitKind[],
  complete: boolean,
  all: ReadonlyMap<UnitKind, ReadonlyMap<string, unknown>>,
  kind: UnitKind,
  along: ReturnType<typeof placing>,
): string[] {
  const blocks = all.get('block')?.size ?? 0
  const places = {
    metres: 'Places are those of the table, in metres.',
    grid: 'Places follow rows and columns.',
    order: `Places are not told: ${plural(kind)} lie in the order of the table${blocks > 0 ? ', block by block' : ''}.`,
  }[along]
  return [
    ...treatments.factors.map((factor) => {
      const on = putOn.get(factor.key)!
      const above = within(on).filter((each) => each !== 'site')
      const inside = above.length === 0 ? '' : ` within each ${above.join(' and ')}`
      const named = `${factor.name}, ${counted(factor.levels.length, 'level')} (${codesIn(factor.levels.map((level) => level.code))}),`
      return on === kind ? `${named} varies from ${kind} to ${kind}${inside}.` : `${named} was put on whole ${plural(on)}${inside}.`
    }),
    ...(blocks > 0
      ? [
          `${counted(blocks, 'block')}: ${complete ? 'each holds every treatment once' : 'they hold a part of the treatments, or some more than once'}.`,
        ]
      : [`There are no blocks: every ${kind} could have had any treatment.`]),
    places,
  ]
}

function codesIn(codes: readonly string[]): string {
  return codes.length > 8 ? `${codes.slice(0, 7).join(', ')} and ${codes.length - 7} more` : codes.join(', ')
}

/** Whether marks are those of a treatment. */
function isMarked(marks: Marks, { key, levels }: Varied['treatments']['list'][number]): boolean {
  return marks['outside'] === undefined
    ? Object.entries(levels).every(([factor, level]) => marks[factor] === level)
    : marks['outside'] === key
}
