import type { Structure, Unit, UnitKind } from '../trial/index.ts'
import type { Classification } from '../statistics/index.ts'

/** One experimental unit with the response it gave. */
export interface Observation {
  readonly unit: Unit
  readonly value: number
}

/** The linear model the layout asks for, with the reasons. */
export interface LayoutModel {
  readonly classes: readonly Classification[]
  readonly terms: readonly string[][]
  readonly treatment: string
  /** Kinds of unit the treatment was dealt out inside, as terms. */
  readonly blocking: readonly UnitKind[]
  /** How treatments were dealt out, and what is taken out before they are compared. */
  readonly words: string
  readonly symbols: string
}

export class LayoutError extends Error {}

/**
 * The model follows from what was randomised in what: every kind of unit that holds the
 * experimental units, and has more than one member, takes its differences out; then the
 * treatment as received. The name of the design is never asked for.
 */
export function layoutModel(
  structure: Structure,
  units: readonly Unit[],
  observations: readonly Observation[],
  levels: readonly { key: string }[],
  name: string,
): LayoutModel {
  const assignment = structure.factors[0]
  if (!assignment || structure.factors.length !== 1)
    throw new LayoutError('This version analyses one factor; the layout has ' + structure.factors.length + '.')
  const treatment = assignment.factor
  const received = levels.map((level) => level.key).filter((key) => observations.some((each) => each.unit.received[treatment] === key))
  const classes: Classification[] = []
  const blocking: UnitKind[] = []
  for (const kind of kindsAbove(structure, assignment.appliedTo)) {
    const holders = observations.map((each) => ancestor(each.unit, kind, units))
    const distinct = [...new Set(holders)]
    // A kind with one member, or as many as there are plots, has no differences to take out.
    if (distinct.length < 2 || distinct.length === observations.length || holders.includes(undefined)) continue
    blocking.push(kind)
    classes.push({ name: kind, levels: distinct as string[], codes: Int32Array.from(holders, (each) => distinct.indexOf(each)) })
  }
  classes.push({
    name: treatment,
    levels: received,
    codes: Int32Array.from(observations, (each) => received.indexOf(each.unit.received[treatment]!)),
  })
  return {
    classes,
    terms: classes.map((each) => [each.name]),
    treatment,
    blocking,
    words: words(assignment.how, assignment.appliedTo, assignment.within, blocking),
    symbols: `y = mean ${[...blocking, name].map((each) => `+ ${each}`).join(' ')} + residual`,
  }
}

/** All kinds a kind lies in, widest first. */
export function kindsAbove(structure: Structure, kind: UnitKind): UnitKind[] {
  const found: UnitKind[] = []
  const visit = (each: UnitKind): void => {
    for (const above of structure.kinds.find((entry) => entry.kind === each)?.in ?? []) {
      visit(above)
      if (!found.includes(above)) found.push(above)
    }
  }
  visit(kind)
  return found
}

const indexes = new WeakMap<readonly Unit[], Map<string, Unit>>()

function ancestor(unit: Unit, kind: UnitKind, units: readonly Unit[]): string | undefined {
  let index = indexes.get(units)
  if (!index) indexes.set(units, (index = new Map(units.map((each) => [each.id, each]))))
  for (const id of unit.in) {
    const above = index.get(id)
    if (!above) continue
    if (above.kind === kind) return above.id
    const found = ancestor(above, kind, units)
    if (found) return found
  }
  return undefined
}

function words(how: string, appliedTo: UnitKind, within: UnitKind | null, blocking: readonly UnitKind[]): string {
  const dealt =
    how === 'randomised'
      ? `Treatments were randomised to ${appliedTo}s${within ? ` within each ${within}` : ''}.`
      : `Treatments were not randomised to ${appliedTo}s (${how}).`
  const taken = blocking.length > 0 ? ` Differences between ${blocking.map((kind) => `${kind}s`).join(' and ')} are taken out first.` : ''
  return `${dealt}${taken}`
}
