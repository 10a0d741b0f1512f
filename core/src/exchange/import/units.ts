import { placeUnits } from '../../ground/index.ts'
import { newTrialDraft } from '../../numbers/index.ts'
import { counted, plural } from '../../quantity/index.ts'
import { UnitKind, type Layout, type Site, type Structure, type Unit } from '../../trial/index.ts'
import type { Asked, ImportSaid, OddRow } from './said.ts'
import { slug, type Varied } from './varied.ts'

type Marks = Readonly<Record<string, string>>

/** A plot of the table: where it stands and what it is marked with. */
export interface PlacedRow {
  readonly line: number
  readonly site: string
  readonly visit: string
  readonly kind: string
  readonly code: string
  readonly block: string
  readonly main: string
  readonly bench: string
  readonly liesIn: string
  readonly row: number | null
  readonly column: number | null
  readonly x: number | null
  readonly y: number | null
  readonly width: number | null
  readonly length: number | null
  readonly turn: number | null
  readonly walk: number | null
  readonly marks: Marks
  /** As planned, where the table tells it apart. */
  readonly planned: Marks | null
}

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

/** A plot with the lines it stands on, each with the number of the sample it holds. */
interface Plot extends PlacedRow {
  readonly lines: ReadonlyMap<number, number>
}

/** Several rows of one number are visits or samples of one plot, where they were treated alike. */
function distinctPlots(rows: readonly PlacedRow[], odd: OddRow[]): Plot[] {
  const found = new Map<string, Plot>()
  const counts = new Map<string, number>()
  for (const row of rows) {
    const key = row.code === '' ? `line ${row.line}` : `${row.site}|${row.code}`
    const known = found.get(key)
    if (!known) {
      found.set(key, { ...row, lines: new Map([[row.line, 1]]) })
      counts.set(`${key}|${row.visit}`, 1)
      continue
    }
    if (JSON.stringify(known.marks) !== JSON.stringify(row.marks) || known.block !== row.block) {
      odd.push({ line: row.line, text: `${row.code} stands on line ${known.line} already, with another ${known.block === row.block ? 'treatment' : 'block'}.`, effect: 'left out' }) // prettier-ignore
      continue
    }
    const sample = (counts.get(`${key}|${row.visit}`) ?? 0) + 1
    counts.set(`${key}|${row.visit}`, sample)
    if (sample === 2)
      odd.push({
        line: row.line,
        text: `${row.code} stands on line ${known.line} already: its rows are samples of one plot.`,
        effect: 'read as',
      })
    ;(known.lines as Map<number, number>).set(row.line, sample)
  }
  return [...found.values()]
}

/** Plots of a block as one finds them: by number where all have one, else as they are listed. */
function inOrder(plots: readonly Plot[]): readonly Plot[] {
  const numbers = plots.map((plot) => Number(plot.code))
  return plots.every((plot) => plot.code !== '') && numbers.every(Number.isFinite)
    ? [...plots].sort((a, b) => Number(a.code) - Number(b.code))
    : plots
}

function groupsOf(plots: readonly Plot[], by: (plot: Plot) => string): Plot[][] {
  const groups = new Map<string, Plot[]>()
  for (const plot of plots) groups.set(by(plot), [...(groups.get(by(plot)) ?? []), plot])
  return [...groups.values()]
}

const dealt = (plot: Plot): Marks => plot.planned ?? plot.marks

function questionsOf(bySite: ReadonlyMap<string, readonly Plot[]>, { treatments }: Varied, { kind }: ImportSaid): Asked[] {
  const all = [...bySite.values()]
  const asked: Asked[] = []
  const grouped = all.every((plots) =>
    plots.every((plot) => plot.main !== '' || plot.liesIn.split(';').length > 1 || /main plot|strip|row|column/.test(plot.liesIn)),
  )
  const blocks = all.flatMap((plots) => groupsOf(plots, (plot) => plot.block))
  const blocked = all.every((plots) => plots.every((plot) => plot.block !== '')) && blocks.length > 1
  if (treatments.factors.length > 1 && blocked && !grouped) {
    const inRuns = treatments.factors.filter((factor) =>
      blocks.every((block) => {
        const levels = inOrder(block).map((plot) => dealt(plot)[factor.key])
        const runs = levels.filter((level, i) => i === 0 || level !== levels[i - 1])
        return runs.length === new Set(levels).size && runs.length > 1 && runs.length < levels.length
      }),
    )
    if (inRuns.length === 1)
      asked.push({
        key: 'runs',
        names: [inRuns[0]!.key],
        proposed: 'yes',
        text: `In each block all ${plural(kind)} of one ${inRuns[0]!.name} stand side by side: was it put on such runs as a whole (main plots)?`,
      })
  }
  const rows = all.flat()
  if (!blocked && !grouped && rows.every((plot) => plot.row !== null && plot.column !== null)) {
    const once = (by: (plot: Plot) => string): boolean =>
      all.every((plots) =>
        groupsOf(plots, by).every(
          (group) => group.length > 1 && new Set(group.map((plot) => JSON.stringify(dealt(plot)))).size === group.length,
        ),
      )
    const latin = once((plot) => String(plot.row)) && once((plot) => String(plot.column))
    asked.push({
      key: 'both',
      names: [],
      proposed: latin ? 'yes' : 'no',
      text: latin
        ? 'No treatment stands twice in a row or in a column: are rows and columns blocks both ways, and not only places?'
        : 'Are rows and columns blocks both ways, and not only places?',
    })
  }
  const sequences = new Set(blocks.map((block) => JSON.stringify(inOrder(block).map(dealt))))
  // The same order in each block is seen; that chance dealt it out nobody can see.
  const fixed = blocked && blocks.length > 1 && sequences.size === 1
  asked.push({
    key: 'how',
    names: [],
    proposed: fixed ? 'systematic' : '',
    text: fixed
      ? 'Every block has the same order. How were the treatments dealt out?'
      : 'The table cannot tell: how were the treatments dealt out?',
  })
  return asked
}

interface Answers {
  readonly runs: ReadonlySet<string>
  readonly both: boolean
  readonly how: Structure['factors'][number]['how']
}

/** The unit of a kind that a plot lies in, by its name. */
type Holders = ReadonlyMap<UnitKind, string>

function holdersOf(plot: Plot, run: string, { both }: Answers): Holders {
  const found = new Map<UnitKind, string>()
  for (const part of plot.liesIn
    .split(';')
    .map((each) => each.trim())
    .filter(Boolean)) {
    // prettier-ignore
    const kind = UnitKind.options.filter((each) => part.startsWith(`${each} `)).sort((a, b) => b.length - a.length)[0]
    if (kind && kind !== 'site') found.set(kind, part.slice(kind.length + 1))
  }
  if (plot.block !== '' && !found.has('demonstration')) found.set('block', plot.block)
  if (plot.bench !== '') found.set('bench', plot.bench)
  if (plot.main !== '') found.set('main plot', plot.main)
  if (run !== '') found.set('main plot', run)
  if (both && plot.row !== null && plot.column !== null) {
    found.set('row', `row ${plot.row}`)
    found.set('column', `column ${plot.column}`)
  }
  return found
}

/** Runs of one level side by side, by plot: the name of each. */
function runsIn(plots: readonly Plot[], factors: ReadonlySet<string>): Map<Plot, string> {
  const found = new Map<Plot, string>()
  if (factors.size === 0) return found
  for (const block of groupsOf(plots, (plot) => plot.block)) {
    let [n, last] = [0, '']
    for (const plot of inOrder(block)) {
      const level = [...factors].map((factor) => dealt(plot)[factor] ?? '').join('|')
      if (level !== last) n++
      last = level
      found.set(plot, `${plot.block}${String.fromCharCode(64 + Math.min(26, n))}${n > 26 ? n : ''}`)
    }
  }
  return found
}

interface Nesting {
  /** Kinds from the coarsest to the finest, without site and plot. */
  readonly kinds: readonly UnitKind[]
  /** The kinds each lies in directly. */
  readonly within: ReadonlyMap<UnitKind, readonly UnitKind[]>
  /** The finest holders of a plot: others follow from them. */
  readonly direct: (holders: Holders) => UnitKind[]
}

/** What lies in what: a kind lies in another where each of its units lies in one of it, and there are fewer of that. */
function nestingOf(all: readonly Holders[]): Nesting {
  const names = new Map<UnitKind, Set<string>>()
  for (const holders of all) for (const [kind, name] of holders) names.set(kind, (names.get(kind) ?? new Set()).add(name))
  const kinds = [...names.keys()].sort((a, b) => names.get(a)!.size - names.get(b)!.size)
  const lies = (a: UnitKind, b: UnitKind): boolean => {
    if (a === b || names.get(a)!.size <= names.get(b)!.size) return false
    const above = new Map<string, string>()
    let met = false
    for (const holders of all) {
      const [own, other] = [holders.get(a), holders.get(b)]
      if (own === undefined || other === undefined) continue
      met = true
      if (above.has(own) && above.get(own) !== other) return false
      above.set(own, other)
    }
    return met
  }
  const every = new Map(kinds.map((kind) => [kind, kinds.filter((other) => lies(kind, other))]))
  const nearest = (found: readonly UnitKind[]): UnitKind[] =>
    found.filter((kind) => !found.some((other) => every.get(other)!.includes(kind)))
  return {
    kinds,
    within: new Map(kinds.map((kind) => [kind, nearest(every.get(kind)!)])),
    direct: (holders) => nearest([...holders.keys()]),
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

/** What tells where plots lie: their measures, their rows and columns, or only the order in their blocks. */
function placing(plots: readonly Plot[]): 'metres' | 'grid' | 'order' {
  const distinct = (of: (plot: Plot) => string): boolean => new Set(plots.map(of)).size === plots.length
  if (plots.every((plot) => plot.x !== null && plot.y !== null) && distinct((plot) => `${plot.x} ${plot.y}`)) return 'metres'
  if (
    plots.every((plot) => Number.isInteger(plot.row) && Number.isInteger(plot.column)) &&
    distinct((plot) => `${plot.row} ${plot.column}`)
  )
    return 'grid'
  return 'order'
}

/** Row and column of each plot in the grid of the site, from 0. */
function ranksOf(plots: readonly Plot[], along: ReturnType<typeof placing>): Map<Plot, { column: number; row: number }> {
  if (along === 'order') return new Map()
  const of = (plot: Plot, way: 'column' | 'row'): number =>
    along === 'grid' ? plot[way]! : Math.round(20 * (way === 'column' ? plot.x! : plot.y!))
  const lines = (way: 'column' | 'row'): number[] => [...new Set(plots.map((plot) => of(plot, way)))].sort((a, b) => a - b)
  const [columns, rows] = [lines('column'), lines('row')]
  const from = { column: columns[0]!, row: rows[0]! }
  const cellOf = (plot: Plot): { column: number; row: number } =>
    along === 'grid'
      ? { column: of(plot, 'column') - from.column, row: of(plot, 'row') - from.row }
      : { column: columns.indexOf(of(plot, 'column')), row: rows.indexOf(of(plot, 'row')) }
  const found = new Map(plots.map((plot) => [plot, cellOf(plot)] as const))
  // Gaps of a thousand rows, or two plots in one cell, are no grid.
  const cells = new Set([...found.values()].map(({ column, row }) => `${column} ${row}`))
  const wide = [...found.values()].some(({ column, row }) => column > 2000 || row > 2000)
  return cells.size < plots.length || wide ? new Map<Plot, { column: number; row: number }>() : found
}

/** Measures and turns of the walk that the table holds stand as they are there. */
function placedAsSaid(
  units: readonly Unit[],
  plots: readonly Plot[],
  lines: ReadonlyMap<number, string>,
  size: { plotWidth: number; plotLength: number },
): Unit[] {
  const plotOf = new Map(plots.map((plot) => [lines.get(plot.line)!, plot]))
  const walked = plots.every((plot) => plot.walk !== null) ? [...plots].sort((a, b) => a.walk! - b.walk!) : null
  const turn = new Map(walked?.map((plot, i) => [lines.get(plot.line)!, i + 1]))
  const metres = placing(plots) === 'metres'
  const placed = units.map((unit): Unit => {
    const plot = plotOf.get(unit.id)
    if (!plot) return unit
    const place = metres
      ? {
          x: plot.x!,
          y: plot.y!,
          width: plot.width ?? size.plotWidth,
          length: plot.length ?? size.plotLength,
          ...(plot.turn ? { turn: plot.turn } : {}),
        }
      : unit.place
    return { ...unit, place, walk: turn.get(unit.id) ?? unit.walk }
  })
  return metres ? aroundMembers(placed) : placed
}

/** Groups lie where their plots do. */
function aroundMembers(units: readonly Unit[]): Unit[] {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const inside = (unit: Unit, id: string): boolean =>
    unit.in.some((above) => above === id || (index.has(above) && inside(index.get(above)!, id)))
  const plots = units.filter((unit) => unit.walk !== null)
  return units.map((unit): Unit => {
    if (unit.walk !== null || unit.kind === 'site') return unit
    const places = plots.filter((plot) => inside(plot, unit.id)).map((plot) => plot.place!)
    if (places.length === 0) return unit
    const [x, y] = [Math.min(...places.map((each) => each.x)), Math.min(...places.map((each) => each.y))]
    const [right, back] = [Math.max(...places.map((each) => each.x + each.width)), Math.max(...places.map((each) => each.y + each.length))]
    return { ...unit, place: { x, y, width: right - x, length: back - y } }
  })
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
