import type { Unit } from '../trial/index.ts'
import type { Classification } from '../statistics/index.ts'
import { plural } from '../quantity/index.ts'
import type { LayoutFrame } from './layout.ts'
import type { TreatmentPart } from './request.ts'
import { listed } from './words.ts'

/** look: describe only; compare: replicated but not randomised; trial: randomised and replicated. */
export type EvidenceClass = 'look' | 'compare' | 'trial'

export interface Evidence {
  readonly kind: EvidenceClass
  readonly why: string
}

const ORDER: readonly EvidenceClass[] = ['look', 'compare', 'trial']

export function weakest(found: readonly Evidence[]): Evidence {
  return found.reduce((a, b) => (ORDER.indexOf(b.kind) < ORDER.indexOf(a.kind) ? b : a))
}

/** What stands behind one level, or one combination of levels, of a term. */
interface Cell {
  readonly levels: readonly string[]
  /** By factor: the units of the kind it was applied to. */
  readonly units: readonly ReadonlySet<string>[]
  /** Sites it stood at, where there are several; else empty. */
  readonly sites: ReadonlySet<number>
  /** By factor: codes of units that really got another level of it than chance had given them. */
  readonly swapped: readonly (readonly string[])[]
}

/**
 * Evidence class of each comparison of a term, from how the units of the factors in which the
 * two differ were replicated and randomised. Units really given something else than planned
 * lower it: their treatment was not dealt out by chance. `cells` has a level for each mean.
 */
export function evidenceTable(
  frame: LayoutFrame,
  term: readonly string[],
  cells: Classification,
): (a: number | readonly number[], b: number | readonly number[]) => Evidence {
  const assignments = term.map((factor) => frame.request.structure.factors.find((each) => each.factor === factor)!)
  const parts = term.map((name) => frame.factors.find((factor) => factor.name === name)!)
  const gathered = cells.levels.map((_, c) => gather(frame, assignments, parts, cells, c))
  const merge = (of: number | readonly number[]): Cell =>
    typeof of === 'number' ? gathered[of]! : union(of.map((each) => gathered[each]!))
  const known = new Map<string, Evidence>()
  return (a, b) => {
    const [first, second] = [merge(a), merge(b)]
    const differ = assignments.filter((_, f) => first.levels[f] !== second.levels[f])
    const found = (differ.length > 0 ? differ : assignments).map((assignment) => {
      const f = assignments.indexOf(assignment)
      return ofFactor(frame, { ...assignment, how: howDealt(frame, assignment, first.levels[f]!, second.levels[f]!) }, first, second, f)
    })
    const worst = weakest(found)
    const key = `${worst.kind} ${worst.why}`
    if (!known.has(key)) known.set(key, worst)
    return known.get(key)!
  }
}

function gather(
  frame: LayoutFrame,
  assignments: LayoutFrame['request']['structure']['factors'],
  parts: readonly Classification[],
  cells: Classification,
  c: number,
): Cell {
  const units = assignments.map(() => new Set<string>())
  const swapped = assignments.map(() => new Set<string>())
  const sites = new Set<number>()
  let levels: string[] = []
  for (let i = 0; i < cells.codes.length; i++) {
    if (cells.codes[i] !== c) continue
    if (frame.sites) sites.add(frame.sites.codes[i]!)
    levels = parts.map((part) => part.levels[part.codes[i]!]!)
    assignments.forEach((assignment, f) => {
      units[f]!.add(frame.holder(i, assignment.appliedTo)?.id ?? '')
      const wrong = misapplied(frame, i, assignment.factor)
      if (wrong) swapped[f]!.add(`${wrong.kind} ${wrong.code}`)
    })
  }
  return { levels, units, sites, swapped: swapped.map((each) => [...each]) }
}

/** The unit that an observation lies in, or is, which was really given another level of a factor. */
export function misapplied(frame: Pick<LayoutFrame, 'request' | 'observed' | 'holder'>, i: number, factor: string): Unit | undefined {
  const assignment = frame.request.structure.factors.find((each) => each.factor === factor)
  const holder = assignment && frame.holder(i, assignment.appliedTo)
  return holder?.changes[factor] === 'misapplied' ? holder : undefined
}

/** Several levels together, as in a contrast: each factor's level is the set of them. */
function union(cells: readonly Cell[]): Cell {
  const factors = cells[0]!.levels.length
  return {
    levels: Array.from({ length: factors }, (_, f) => [...new Set(cells.map((cell) => cell.levels[f]))].sort().join('+')),
    sites: new Set(cells.flatMap((cell) => [...cell.sites])),
    units: Array.from({ length: factors }, (_, f) => new Set(cells.flatMap((cell) => [...cell.units[f]!]))),
    swapped: Array.from({ length: factors }, (_, f) => [...new Set(cells.flatMap((cell) => cell.swapped[f]!))]),
  }
}

type Assignment = LayoutFrame['request']['structure']['factors'][number]

export const BY_STRENGTH: readonly Assignment['how'][] = ['not randomised', 'systematic', 'constrained', 'randomised']

/** How that in which two whole treatments differ was dealt out: part of it by chance, part perhaps not. */
function howDealt({ request }: LayoutFrame, { factor, how }: Assignment, a: string, b: string): Assignment['how'] {
  const parts = request.factors.find((each) => each.key === factor)?.parts ?? []
  const levelsOf = (part: TreatmentPart, wholes: string): string =>
    [...new Set(wholes.split('+').map((whole) => part.of[whole] ?? ''))].sort().join('+')
  const differ = parts.filter((part) => levelsOf(part, a) !== levelsOf(part, b)).map((part) => part.how ?? how)
  return BY_STRENGTH.find((each) => differ.includes(each)) ?? how
}

function ofFactor({ random }: LayoutFrame, { appliedTo, how }: Assignment, a: Cell, b: Cell, f: number): Evidence {
  const [first, second] = [a.units[f]!.size, b.units[f]!.size]
  const least = Math.min(first, second)
  if (least < 2)
    return { kind: 'look', why: least === 0 ? 'one of the two was not measured' : `one of the two stood on a single ${appliedTo}` }
  if (how === 'systematic' || how === 'not randomised') return { kind: 'compare', why: 'repeated, but not randomised' }
  const swapped = [...new Set([...a.swapped[f]!, ...b.swapped[f]!])]
  if (swapped.length > 0)
    return {
      kind: 'compare',
      why: `${listed(swapped)} got something else than chance had given ${swapped.length > 1 ? 'them' : 'it'}`,
    }
  const dealt = `randomised${how === 'constrained' ? ' under constraints' : ''}`
  const counts = first === second ? `${first}` : `${first} and ${second}`
  const sites = Math.min(a.sites.size, b.sites.size)
  if (sites < 2) return { kind: 'trial', why: `${dealt}, ${counts} ${plural(appliedTo)} each` }
  // Of sites that are a sample the sites are the replicates, whatever stands at each.
  return random.has('site')
    ? { kind: 'trial', why: `${dealt} at ${sites} sites, which are the replicates (${counts} ${plural(appliedTo)} each)` }
    : { kind: 'trial', why: `${dealt}, ${counts} ${plural(appliedTo)} each over ${sites} sites` }
}
