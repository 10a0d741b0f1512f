import { marksOn, type Layout, type Structure, type Unit, type UnitKind } from '../trial/index.ts'

/** The draw a factor of a laid-out site was dealt out by, as `random.ts` numbers them; null where nothing was drawn from a known seed. */
function drawOf(structure: Structure, factor: Structure['factors'][number]): number | null {
  if (factor.how !== 'randomised' && factor.how !== 'constrained') return null
  if (structure.seed === null) return factor.draw ?? null
  // A factor drawn later, on units that stood already, has a draw of its own.
  return factor.draw ?? structure.draw ?? 1
}

/**
 * Kinds of unit of which the first draw dealt out two things at a time: it put these in the same order in
 * blocks 1 and 2 whatever the seed, so that half of the plans or more could never come up. With three or more
 * in a run all plans came up, none much oftener than another (docs/design.md). Empty for newer draws,
 * and where there is one such group only.
 */
export function drawnInTwos({ structure, units }: Layout): UnitKind[] {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const kinds = new Set(structure.factors.filter((factor) => drawOf(structure, factor) === 1).map((factor) => factor.appliedTo))
  return [...kinds].filter((kind) => {
    const dealt = structure.factors.filter((factor) => factor.appliedTo === kind && drawOf(structure, factor) === 1)
    const within = dealt[0]!.within
    const runs = new Map<string, string[]>()
    for (const unit of units) {
      if (unit.kind !== kind) continue
      const marks = marksOn(unit, index, 'planned')
      const run = within === null ? '' : holderOf(unit, within, index)
      if (run !== null) runs.set(run, [...(runs.get(run) ?? []), dealt.map(({ factor }) => marks[factor] ?? '').join(' ')])
    }
    return [...runs.values()].filter(isOfTwo).length > 1
  })
}

/** Two things that stand once each, and beside them nothing or one thing at fixed places (check strips). */
function isOfTwo(run: readonly string[]): boolean {
  const once = run.filter((each) => run.indexOf(each) === run.lastIndexOf(each))
  return once.length === 2 && new Set(run).size <= 3
}

function holderOf(unit: Unit, kind: UnitKind, index: ReadonlyMap<string, Unit>): string | null {
  for (const id of unit.in) {
    const holder = index.get(id)
    if (!holder) continue
    if (holder.kind === kind) return holder.id
    const above = holderOf(holder, kind, index)
    if (above !== null) return above
  }
  return null
}
