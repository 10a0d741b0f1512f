import { counted, plural } from '../quantity/index.ts'
import type { BookObservations, FateCounts, UnitFate } from '../numbers/index.ts'
import { fateInWords, fateKind, isExtra, type FateNames, type Layout, type Trial, type Unit } from '../trial/index.ts'
import type { Caution } from './result.ts'
import { listed } from './words.ts'

/** How one treated unit ended, with what it was marked with: what counts of fates are made of. */
export interface Ended {
  readonly unit: string
  /** Level by factor, the whole treatment under `treatment`, the site under `site`. */
  readonly marks: Readonly<Record<string, string>>
  readonly end: 'measured' | 'lost' | 'discarded' | 'left out' | 'missing'
}

/** Counts of those that have all these marks. */
export function countEnds(ends: readonly Ended[], marks: Readonly<Record<string, string>> = {}): FateCounts & { readonly missing: number } {
  const own = ends.filter((each) => Object.entries(marks).every(([key, value]) => each.marks[key] === value))
  const of = (end: Ended['end']): number => own.filter((each) => each.end === end).length
  return {
    started: own.length,
    lost: of('lost'),
    discarded: of('discarded'),
    measured: of('measured'),
    leftOut: of('left out'),
    missing: of('missing'),
  }
}

/** “24 plots started: 21 measured, 2 lost, 1 discarded”; null when all were measured. */
export function endsInWords(counts: ReturnType<typeof countEnds>, unit: string): string | null {
  const { started, measured, lost, discarded, leftOut, missing } = counts
  if (measured === started) return null
  const parts = [
    [measured, 'measured'],
    [lost, 'lost'],
    [discarded, 'discarded'],
    [leftOut, 'left out'],
    [missing, 'without a value'],
  ] as const
  return `${counted(started, unit)} started: ${parts
    .filter(([n, what]) => n > 0 || what === 'measured')
    .map(([n, what]) => `${n} ${what}`)
    .join(', ')}`
}

/** Of more fates than this of one kind only their number is told. */
const MOST_TOLD = 5

/** What is told of what happened, and what was done about it; the gravest first. */
export function happenedCautions(
  trial: Pick<Trial, 'treatments'>,
  layouts: readonly Layout[],
  { fates, afterEnd }: Pick<BookObservations, 'fates' | 'afterEnd'>,
  unit: string,
): Caution[] {
  const names = namesIn(trial, layouts)
  const units = new Set(layouts.flatMap((layout) => layout.units.map((each) => each.id)))
  const there = fates.filter((each) => units.has(each.unit))
  const of = (compared: UnitFate['compared']): UnitFate['fate'][] => [
    ...new Map(there.filter((each) => each.compared === compared).map(({ fate }) => [fate.id, fate])).values(),
  ]
  const told = (found: readonly UnitFate['fate'][], done: (many: boolean) => string): Caution[] => {
    if (found.length === 0) return []
    const sentences =
      found.length > MOST_TOLD
        ? [...new Set(found.map((each) => each.kind))].map((kind) => {
            const n = found.filter((each) => each.kind === kind).length
            return `${fateKind(kind).name}: ${counted(n, names.unit(found[0]!.unit)?.kind ?? unit)}.`
          })
        : found.map((fate) => `${fateInWords(fate, names)}.`)
    return [{ kind: 'what happened', text: `${sentences.join(' ')} ${done(found.length > 1)}` }]
  }
  return [
    ...told(
      of('apart'),
      (many) => `${many ? 'They stand for none of the treatments and are' : 'It stands for none of the treatments and is'} left out.`,
    ),
    ...told(of('kept'), (many) => {
      const partly = of('kept').every((fate) => fate.kind === 'partly lost')
      const they = many ? 'They are' : 'It is'
      return partly
        ? `${many ? 'Their yields are' : 'Its yield is'} that of the area that remains.`
        : `${they} compared all the same; the answer without ${many ? 'them' : 'it'} stands beside.`
    }),
    ...told(of('gone'), () => `Values of before stand; nothing is counted after.`),
    ...(afterEnd > 0
      ? [
          {
            kind: 'what happened' as const,
            text: `${counted(afterEnd, 'value')} ${afterEnd === 1 ? 'was' : 'were'} taken after ${afterEnd === 1 ? `the ${unit} was` : `the ${plural(unit)} were`} lost or discarded, and ${afterEnd === 1 ? 'is' : 'are'} set aside: one of the two days must be wrong.`,
          },
        ]
      : []),
  ]
}

/** “plots 103 and 204”. */
export function unitsCalled(units: readonly Pick<Unit, 'kind' | 'code'>[]): string {
  const kind = units[0]?.kind ?? 'plot'
  const codes = units.map((each) => each.code)
  const most = 6
  return `${plural(kind, units.length)} ${listed(codes.length > most ? [...codes.slice(0, most - 1), `${codes.length - most + 1} more`] : codes)}`
}

function namesIn({ treatments }: Pick<Trial, 'treatments'>, layouts: readonly Layout[]): FateNames {
  const index = new Map(layouts.flatMap((layout) => layout.units.map((unit) => [unit.id, unit])))
  return { factors: treatments.factors, unit: (id) => index.get(id) }
}

/**
 * A layout as it is: units that were moved lie in what they were moved to. What the plan dealt them
 * stays; what they stand beside from then on is what they are judged with.
 */
export function asMoved(layout: Layout, fates: readonly UnitFate[]): Layout {
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  const moves = new Map(
    fates.flatMap(({ fate }) => (fate.kind === 'moved' && fate.to !== null && index.has(fate.unit) ? [[fate.unit, fate.to] as const] : [])),
  )
  if (moves.size === 0) return layout
  const units = layout.units.map((unit): Unit => {
    const to = index.get(moves.get(unit.id) ?? '')
    const from = to && unit.in.find((id) => index.get(id)?.kind === to.kind)
    return to && from ? { ...unit, in: unit.in.map((id) => (id === from ? to.id : id)), at: null } : unit
  })
  return { ...layout, units }
}

/** Of units that no plan has: that they are read, and compared with none. */
export function extraCautions(layouts: readonly Layout[]): Caution[] {
  const extra = layouts.flatMap(({ units }) => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    return units.filter((unit) => unit.walk !== null && isExtra(unit, index))
  })
  return extra.length === 0
    ? []
    : [
        {
          kind: 'what happened',
          text: `${unitsCalled(extra).replace(/^./, (first) => first.toUpperCase())} ${extra.length === 1 ? 'stands' : 'stand'} beside the trial without a plan: read, and compared with none, since nobody dealt ${extra.length === 1 ? 'it' : 'them'} out.`,
        },
      ]
}
