import { isInside, type ComparisonOf, type Factor, type PlannedComparison, type Treatment, type Treatments } from '../trial/index.ts'

/** Comparisons that belong together, offered with one act, and what they answer. */
export interface ComparisonProposal {
  /** In words: “peat against liquid, at each starter”. */
  readonly name: string
  readonly why: string
  readonly comparisons: readonly Pick<PlannedComparison, 'name' | 'of'>[]
}

/** A pair of levels is offered for factors of at most so many levels: more pairs are no plan. */
const MOST_LEVELS = 4

/** The comparisons that the treatments themselves suggest, most general first. What is planned already is not among them. */
export function proposeComparisons(treatments: Treatments): ComparisonProposal[] {
  const planned = new Set(treatments.comparisons.map((each) => JSON.stringify(each.of)))
  const names = new Set(treatments.comparisons.map((each) => each.name))
  return [...against(treatments), ...outside(treatments), ...trends(treatments), ...pairs(treatments)]
    .map((each) => ({
      ...each,
      comparisons: each.comparisons.filter(({ name, of }) => !planned.has(JSON.stringify(of)) && !names.has(name)),
    }))
    .filter((each) => each.comparisons.length > 0)
}

const keysOf = (list: readonly Treatment[]): string[] => list.map((each) => each.key)

function sides(plus: readonly Treatment[], minus: readonly Treatment[]): ComparisonOf {
  return { kind: 'sides', plus: keysOf(plus), minus: keysOf(minus) }
}

/** Each check against everything that could be chosen instead. */
function against({ list }: Treatments): ComparisonProposal[] {
  const options = list.filter((each) => each.role === 'none')
  return list
    .filter((each) => each.role !== 'none' && options.length > 1)
    .map((check) => {
      const untreated = check.role === 'untreated control'
      const others = untreated ? list.filter((each) => each !== check && each.role !== 'yardstick') : options
      const name = `${check.name} against ${untreated ? 'all others' : 'what is tried'}`
      return {
        name,
        why: untreated ? 'does anything at all act?' : `is what is tried better than the ${check.role}?`,
        comparisons: [{ name: name.slice(0, 200), of: sides([check], others) }],
      }
    })
}

/** What stands outside the combinations against the mean of them, where it is no check already set against all. */
function outside({ factors, list }: Treatments): ComparisonProposal[] {
  const inside = list.filter((each) => isInside(each, factors))
  return list
    .filter((each) => each.role === 'none' && !isInside(each, factors) && inside.length > 1)
    .map((each) => {
      const name = `${each.name} against the mean of the combinations`
      return { name, why: 'does what stands outside do as well?', comparisons: [{ name: name.slice(0, 200), of: sides([each], inside) }] }
    })
}

function trends({ factors }: Treatments): ComparisonProposal[] {
  return factors.flatMap((factor) => {
    const amounts = new Set(factor.levels.flatMap((level) => level.amount ?? []))
    if (amounts.size < 3 || amounts.size < factor.levels.length) return []
    const called = factor.name.toLowerCase()
    return [
      {
        name: `how the response rises with ${called}, and whether it flattens`,
        why: 'a straight rise says that more may still pay; a bend, where it stops',
        comparisons: [
          { name: `Rise with ${called}`, of: { kind: 'trend' as const, factor: factor.key, degree: 1 as const } },
          { name: `Bend with ${called}`, of: { kind: 'trend' as const, factor: factor.key, degree: 2 as const } },
        ],
      },
    ]
  })
}

/** Two kinds of one factor, at each level of each other one. */
function pairs({ factors, list }: Treatments): ComparisonProposal[] {
  const inside = list.filter((each) => isInside(each, factors))
  return factors
    .filter((factor) => factor.measure === '' && factor.levels.length >= 2 && factor.levels.length <= MOST_LEVELS)
    .flatMap((factor) =>
      factor.levels.flatMap((a, i) =>
        factor.levels.slice(i + 1).flatMap((b) =>
          factors
            .filter((other) => other !== factor && other.levels.length > 1)
            .map((other) => ({
              name: `${a.name} against ${b.name}, at each ${other.name.toLowerCase()}`,
              why: `does it hold at every level of ${other.name.toLowerCase()}?`,
              comparisons: other.levels.flatMap((at) => within(factor, a, b, other, at, inside)),
            })),
        ),
      ),
    )
}

type Level = Factor['levels'][number]

function within(factor: Factor, a: Level, b: Level, other: Factor, at: Level, inside: readonly Treatment[]) {
  const having = (level: Level): Treatment[] =>
    inside.filter((each) => each.levels[factor.key] === level.key && each.levels[other.key] === at.key)
  const [plus, minus] = [having(a), having(b)]
  if (plus.length === 0 || minus.length === 0) return []
  return [{ name: `${a.name} against ${b.name}, at ${at.name}`.slice(0, 200), of: sides(plus, minus) }]
}
