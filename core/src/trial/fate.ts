import { formatPlain, plural, withUnit } from '../quantity/index.ts'
import type { Factor } from './factor.ts'
import type { Unit } from './structure.ts'
import { spanInWords, type Span } from './span.ts'

export type FateField = 'share' | 'factor' | 'amount' | 'to' | 'place' | 'parts'

/** What a record says of a fate. */
export interface FateSaid {
  readonly unit: string
  readonly kind: FateKind['key']
  readonly on: Span
  readonly share: number | null
  readonly factor: string | null
  readonly amount: number | null
  readonly to: string | null
  readonly place: string
  readonly parts: number | null
  readonly reason: string
}

/** Something that can happen to a unit after it was laid out. */
export interface FateKind {
  readonly key: 'lost' | 'partly lost' | 'replanted' | 'discarded' | 'moved' | 'divided' | 'other amount' | 'given twice' | 'partly treated'
  /** As an act in a list. */
  readonly name: string
  /** What it is for and what follows, for whoever picks it. */
  readonly about: string
  /** What must be said of it besides the day and the reason. */
  readonly asks: readonly FateField[]
  /** What may be said. */
  readonly may?: readonly FateField[]
  /** What the share is of, where it asks for one. */
  readonly shareOf?: string
  /**
   * What becomes of its values from that day: gone, there are none any more; apart, it stands for none
   * of the treatments and is left out; kept, it is compared, with the answer without it beside.
   */
  readonly compared: 'gone' | 'apart' | 'kept'
  /** How it goes on after “Plot 103 …”. */
  readonly words: (fate: FateSaid, known: FateNames) => string
}

/** What the parts of a fate are called. */
export interface FateNames {
  readonly factors: readonly Factor[]
  readonly unit: (id: string) => Pick<Unit, 'kind' | 'code'> | undefined
}

const percent = (share: number): string => `${formatPlain(100 * share, 2)} %`

function factorCalled(fate: FateSaid, { factors }: FateNames): string {
  return factors.find((each) => each.key === fate.factor)?.name.toLowerCase() ?? 'the treatment'
}

/** All that can happen to a unit; adding one is a line here. */
export const fateKinds: readonly FateKind[] = [
  {
    key: 'partly lost',
    name: 'Partly lost',
    about: 'A part of what is harvested is gone: the yield is worked out from the area that remains.',
    asks: ['share'],
    shareOf: 'of the harvested area remains',
    compared: 'kept',
    words: (fate) => `was partly lost: ${percent(fate.share ?? 1)} of the harvested area remains`,
  },
  {
    key: 'lost',
    name: 'Lost',
    about: 'Nothing is read on it any more; values of before stand.',
    asks: [],
    compared: 'gone',
    words: () => 'was lost',
  },
  {
    key: 'replanted',
    name: 'Replanted',
    about: 'It is younger than the others from then on: compared all the same, with the answer without it beside.',
    asks: [],
    compared: 'kept',
    words: () => 'was replanted',
  },
  {
    key: 'discarded',
    name: 'Discarded',
    about: 'Taken out on purpose: nothing is read on it any more, and it is counted apart from the lost.',
    asks: [],
    compared: 'gone',
    words: () => 'was discarded',
  },
  {
    key: 'moved',
    name: 'Moved',
    about: 'It stands elsewhere, or in another container, and keeps its number and all that was read on it.',
    asks: [],
    may: ['to', 'place'],
    compared: 'kept',
    words: (fate, { unit }) => {
      const to = fate.to === null ? undefined : unit(fate.to)
      return `was moved${to ? ` to ${to.kind} ${to.code}` : ''}${fate.place ? `${to ? ',' : ' to'} ${fate.place}` : ''}`
    },
  },
  {
    key: 'divided',
    name: 'Divided',
    about: 'Its parts are read one by one from then on, and stay one replicate: they come of one unit.',
    asks: ['parts'],
    compared: 'kept',
    words: (fate) => `was divided into ${fate.parts} ${plural('part', fate.parts ?? 2)}`,
  },
  {
    key: 'other amount',
    name: 'Given another amount',
    about: 'Another rate than any treatment has went on: it stands for none of them and is left out, with the answer as planned beside.',
    asks: ['factor', 'amount'],
    compared: 'apart',
    words: (fate, names) => {
      const measure = names.factors.find((each) => each.key === fate.factor)?.measure ?? ''
      return `got ${withUnit(formatPlain(fate.amount ?? 0, 5), measure)} of ${factorCalled(fate, names)}`
    },
  },
  {
    key: 'given twice',
    name: 'Given twice',
    about: 'It got its treatment two times over: left out, unless another treatment is just that.',
    asks: ['factor'],
    compared: 'apart',
    words: (fate, names) => `got its ${factorCalled(fate, names)} twice`,
  },
  {
    key: 'partly treated',
    name: 'Treated in part',
    about: 'The pass covered only a part of it: kept as that part, and left out of the comparison of wholes.',
    asks: ['factor', 'share'],
    may: ['place'],
    shareOf: 'of it was covered',
    compared: 'apart',
    words: (fate, names) =>
      `got its ${factorCalled(fate, names)} on ${percent(fate.share ?? 1)} of it${fate.place ? ` (${fate.place})` : ''}`,
  },
]

export function fateKind(key: FateKind['key']): FateKind {
  return fateKinds.find((each) => each.key === key)!
}

/** The level of a factor that is just what a unit really got, where it was another amount or twice its own; undefined: none is. */
export function levelOfAmount(
  factor: Factor,
  kind: FateKind['key'],
  own: string | undefined,
  amount: number | null,
): Factor['levels'][number] | undefined {
  const had = factor.levels.find((each) => each.key === own)?.amount ?? null
  const got = kind === 'given twice' ? (had === null ? null : 2 * had) : kind === 'other amount' ? amount : null
  return got === null ? undefined : factor.levels.find((each) => each.amount !== null && Math.abs(each.amount - got) <= 1e-9 * got)
}

/** “Plot 103 was replanted on 3 May 2026 (frost)”. */
export function fateInWords(fate: FateSaid, names: FateNames): string {
  const unit = names.unit(fate.unit)
  const named = unit ? `${unit.kind.charAt(0).toUpperCase()}${unit.kind.slice(1)} ${unit.code}` : 'A unit'
  return `${named} ${fateKind(fate.kind).words(fate, names)} ${spanInWords(fate.on)} (${fate.reason})`
}
