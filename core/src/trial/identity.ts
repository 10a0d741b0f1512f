import type { Level } from './factor.ts'
import type { Layout, Unit } from './structure.ts'
import { isInside, withList, type Treatments } from './treatment.ts'

/** A level that turned out to be another than it was taken for. */
export interface Found {
  readonly factor: string
  readonly level: Level
  /** The level it is the same as, if any. */
  readonly same: Level | undefined
}

/** What was found out of the levels of a trial, the earliest first. */
export function identities({ factors }: Pick<Treatments, 'factors'>): Found[] {
  return factors
    .flatMap((factor) =>
      factor.levels.flatMap((level): Found[] =>
        level.identity ? [{ factor: factor.key, level, same: factor.levels.find((each) => each.key === level.identity!.same) }] : [],
      ),
    )
    .sort((a, b) => (a.level.identity!.on < b.level.identity!.on ? -1 : 1))
}

interface Dealt {
  readonly treatments: Treatments
  readonly layouts: readonly Layout[]
}

/**
 * Treatments and layouts with levels that turned out to be one taken as one. What was dealt out, and what
 * was written, stays in the trial as it was: this is how it is read.
 */
export function asIdentified(dealt: Dealt): Dealt {
  const same = new Map(
    identities(dealt.treatments).flatMap(({ factor, level, same: as }) => (as ? [[`${factor} ${level.key}`, as.key] as const] : [])),
  )
  if (same.size === 0) return dealt
  const marks = (of: Readonly<Record<string, string>>): Record<string, string> =>
    Object.fromEntries(Object.entries(of).map(([factor, level]) => [factor, same.get(`${factor} ${level}`) ?? level]))
  const { factors, list, comparisons } = dealt.treatments
  const kept = factors.map((factor) => ({ ...factor, levels: factor.levels.filter((level) => !same.has(`${factor.key} ${level.key}`)) }))
  // Of treatments that come to be one, the one that was called so all along stays.
  const ordered = [...list].sort(
    (a, b) => Number(told(marks(a.levels)) !== told(a.levels)) - Number(told(marks(b.levels)) !== told(b.levels)),
  )
  const first = new Map<string, string>()
  for (const each of ordered)
    if (isInside(each, factors) && !first.has(told(marks(each.levels)))) first.set(told(marks(each.levels)), each.key)
  const standsFor = new Map(
    list.map((each) => [each.key, (isInside(each, factors) ? first.get(told(marks(each.levels))) : undefined) ?? each.key]),
  )
  const left = list.flatMap((each) => (standsFor.get(each.key) === each.key ? [{ ...each, levels: marks(each.levels) }] : []))
  const sides = (keys: readonly string[]): string[] => [...new Set(keys.map((key) => standsFor.get(key) ?? key))]
  const compared = comparisons.map((each) =>
    each.of.kind === 'sides' ? { ...each, of: { ...each.of, plus: sides(each.of.plus), minus: sides(each.of.minus) } } : each,
  )
  const layouts = dealt.layouts.map((layout): Layout => ({
    ...layout,
    structure: {
      ...layout.structure,
      controls: layout.structure.controls.map((each) => ({ ...each, level: same.get(`${each.factor} ${each.level}`) ?? each.level })),
    },
    units: layout.units.map((unit): Unit => ({ ...unit, planned: marks(unit.planned), received: marks(unit.received) })),
  }))
  return { treatments: withList({ ...dealt.treatments, factors: kept, comparisons: compared }, left), layouts }
}

function told(levels: Readonly<Record<string, string>>): string {
  return JSON.stringify(Object.entries(levels).sort(([a], [b]) => (a < b ? -1 : 1)))
}
