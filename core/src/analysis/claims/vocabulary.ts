import type { LayoutFrame } from '../layout.ts'
import type { AnalysedFactor, Said, TreatmentPart } from '../request.ts'

/** What names and units the claims of an analysis are told with. */
export interface Vocabulary {
  readonly trait: {
    /** Its name in the middle of a sentence. */
    readonly said: string
    readonly better: 'more' | 'less' | 'neither'
    /** The smallest difference worth knowing, in the trait's unit; null where none was set. */
    readonly smallest: number | null
  }
  /** By factor, sites among them. */
  readonly factors: Readonly<Record<string, FactorWords>>
}

export interface FactorWords {
  readonly name: string
  readonly levels: Readonly<Record<string, Said>>
  readonly control: string | null
  /** The control, and further controls or standards. */
  readonly controls: readonly string[]
  /** Levels from the lowest amount up, of three or more; null where they are no amounts. */
  readonly ladder: readonly string[] | null
  /** Amount of each level of a ladder. */
  readonly amounts: Readonly<Record<string, number>>
  /** What a level of it is: a treatment, a place, or a time. */
  readonly of: 'treatment' | 'place' | 'time'
  /** Factors that always changed together with it: their level by its level. */
  readonly carries: readonly { readonly name: string; readonly levels: Readonly<Record<string, Said>>; readonly both: boolean }[]
  /** Of whole treatments: by factor they are combinations of, its level by treatment. */
  readonly parts: Readonly<Record<string, Readonly<Record<string, string>>>>
  /** The measure of its amounts; empty where it has none. */
  readonly measure: string
  /** Names of what always changed together in it, so that none of them can be told from the others. */
  readonly together: readonly string[]
}

/** Factors that follow from another one wherever they stood, and were taken out of the model for it. */
export interface Carried {
  readonly by: string
  readonly factor: AnalysedFactor
  readonly levels: Readonly<Record<string, string>>
  /** Whether the other follows from it too. */
  readonly both: boolean
}

export function vocabularyOf({ request, sites }: LayoutFrame, carried: readonly Carried[]): Vocabulary {
  const { trait, structure, options } = request
  const own = request.factors.flatMap((factor) => [factor, ...(factor.parts ?? [])])
  const words = own.map((factor): [string, FactorWords] => {
    const controls = structure.controls.filter((each) => each.factor === factor.key).map((each) => each.level)
    const control = ('control' in factor ? factor.control : undefined) ?? controls[0] ?? null
    const applied = structure.factors.find((each) => each.factor === factor.key)?.appliedTo
    const time = options.dates?.occasion === factor.key || applied === 'reading' || applied === 'plot-season'
    return [
      factor.key,
      {
        name: factor.name ?? factor.key,
        levels: saidOf(factor),
        control,
        controls: [
          ...new Set([...(control === null ? [] : [control]), ...controls, ...('controls' in factor ? (factor.controls ?? []) : [])]),
        ],
        ...ladderOf(factor),
        of: time ? 'time' : 'treatment',
        parts: Object.fromEntries((('parts' in factor && factor.parts) || []).map((part) => [part.key, part.of])),
        measure: factor.measure ?? '',
        together: togetherIn(factor, carried),
        carries: carried
          .filter((each) => each.by === factor.key)
          .map((each) => ({
            name: each.factor.name ?? each.factor.key,
            both: each.both,
            levels: Object.fromEntries(
              Object.entries(each.levels).map(([level, other]) => [level, saidOf(each.factor)[other] ?? { name: other }]),
            ),
          })),
      },
    ]
  })
  const places: [string, FactorWords][] = sites
    ? [
        [
          'site',
          {
            name: 'site',
            levels: Object.fromEntries(sites.levels.map((level) => [level, { name: level }])),
            control: null,
            controls: [],
            ladder: null,
            amounts: {},
            of: 'place',
            carries: [],
            parts: {},
            measure: '',
            together: [],
          },
        ],
      ]
    : []
  return {
    trait: { said: trait.said ?? trait.name, better: trait.better ?? 'neither', smallest: trait.smallest ?? null },
    factors: Object.fromEntries([...places, ...words]),
  }
}

/** Factors that went along with it in the whole trial, and parts of whole treatments that always changed together. */
function togetherIn(factor: AnalysedFactor | TreatmentPart, carried: readonly Carried[]): string[] {
  const own = carried.filter((each) => each.by === factor.key && each.both).map((each) => each.factor.name ?? each.factor.key)
  if (own.length > 0) return [factor.name ?? factor.key, ...own]
  const parts = ('parts' in factor && factor.parts) || []
  const follows = (a: TreatmentPart, b: TreatmentPart): boolean =>
    new Set(Object.entries(a.of).map(([whole, level]) => `${level}|${b.of[whole]}`)).size === new Set(Object.values(a.of)).size
  const inside = factor.levels.every((level) => parts.every((part) => part.of[level] !== undefined))
  const mixed = parts.filter((a) => parts.some((b) => a !== b && follows(a, b) && follows(b, a)))
  return inside && new Set(parts.flatMap((part) => Object.values(part.of))).size > 1 ? mixed.map((part) => part.name ?? part.key) : []
}

function saidOf({ levels, said = {} }: AnalysedFactor | TreatmentPart): Record<string, Said> {
  return Object.fromEntries(levels.map((level) => [level, said[level] ?? { name: level }]))
}

/** Levels that are amounts: those given, or names that are numbers. */
function ladderOf({ levels, amounts }: AnalysedFactor | TreatmentPart): Pick<FactorWords, 'ladder' | 'amounts'> {
  const numeric = levels.every((level) => level.trim() !== '' && Number.isFinite(Number(level)))
  const known = amounts && levels.every((level) => amounts[level] !== undefined) ? amounts : null
  const of = known ?? (numeric ? Object.fromEntries(levels.map((level) => [level, Number(level)])) : null)
  if (!of || levels.length < 3 || new Set(levels.map((level) => of[level])).size < levels.length) return { ladder: null, amounts: of ?? {} }
  return { ladder: [...levels].sort((a, b) => of[a]! - of[b]!), amounts: of }
}
