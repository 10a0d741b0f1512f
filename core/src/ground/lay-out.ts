import {
  asListed,
  chanceFrom,
  designOf,
  withShown,
  type Chance,
  type Design,
  type DesignFigures,
  type DesignRequest,
  type SearchWatch,
} from '../design/index.ts'
import {
  DRAW,
  shownOf,
  treatmentsAt,
  treatmentsDealt,
  type DesignChoice,
  type Layout,
  type Site,
  type Treatments,
  type TrialDraft,
  type Unit,
  type UnitKind,
} from '../trial/index.ts'
import { placeUnits } from './placement.ts'

type Planned = Pick<TrialDraft, 'treatments' | 'sites'>

export function siteOf(trial: Pick<TrialDraft, 'sites'>, key: string): Site {
  const found = trial.sites.find((site) => site.key === key)
  if (!found) throw new RangeError(`No site “${key}” in this trial`)
  return found
}

/** The kind of unit one goes to when walking. */
export function walkedKind({ design }: Pick<Site, 'design'>): UnitKind {
  return design.walked === 'plant' && design.plants > 0 ? 'plant' : design.unit
}

/** What keeps a site from being laid out, in words; empty when nothing does. */
export function layoutProblems({ treatments, sites }: Planned, key: string): string[] {
  const own = siteOf({ sites }, key)
  const site = own.again === null ? own : { ...siteOf({ sites }, own.again), name: own.name }
  const design = designOf(site.design.key)
  if (!design) return [`There is no design “${site.design.key}” here: choose another.`]
  return [
    ...misplaced(design, treatmentsDealt(treatments, site), site.design),
    ...design.problems({ treatments: treatmentsDealt(treatments, site), choice: site.design }),
  ]
}

/** What is put on larger units that the design does not have, which it would pass over. */
function misplaced({ name, sizes }: Design, { factors }: Treatments, { placed }: DesignChoice): string[] {
  return Object.entries(placed).flatMap(([kind, keys]) => {
    if (keys.length === 0 || sizes.some((size) => size.kind === kind)) return []
    const own = factors.filter((factor) => keys.includes(factor.key)).map((factor) => factor.name)
    const known = sizes.length > 0 ? `: it has ${sizes.map((size) => size.kind).join(' and ')}` : ''
    return [
      `${own.join(' and ') || 'Something'} is put on “${kind}”, which “${name}” does not have${known}. Put it elsewhere or take another design.`,
    ]
  })
}

/** What a site as planned leaves to judge by; null where it cannot be laid out. */
export function layoutFigures(trial: Planned, key: string): DesignFigures | null {
  if (layoutProblems(trial, key).length > 0) return null
  const site = siteOf(trial, key)
  return designOf(site.design.key)!.figures({ treatments: treatmentsDealt(trial.treatments, site), choice: site.design })
}

/**
 * Randomises a site from the seed and puts its units on the ground. Units that `before` has
 * under the same kind and code keep their ids: a plot is the same piece of ground whatever is
 * dealt out to it, and what was said of it stays with it. `draw`: by which draw, where it is not the newest.
 */
export function layOut(
  trial: Planned,
  key: string,
  seed: number,
  newId: () => string,
  before: Layout | null = null,
  watch: SearchWatch | null = null,
  draw: number = DRAW,
): Layout {
  const dealt = deal(trial, key, { seed, draw }, chanceFrom(seed, draw), newId, { watch })
  const laid = draw === 1 || dealt.structure.seed === null ? dealt : { ...dealt, structure: { ...dealt.structure, draw } }
  if (!before) return laid
  const nameOf = (unit: Unit): string => `${unit.kind} ${unit.code}`
  const known = new Map(before.units.map((unit) => [nameOf(unit), unit.id]))
  const fresh = new Map(laid.units.map((unit) => [unit.id, known.get(nameOf(unit)) ?? unit.id]))
  const swap = (id: string): string => fresh.get(id) ?? id
  return {
    ...laid,
    units: laid.units.map((unit) => ({
      ...unit,
      id: swap(unit.id),
      in: unit.in.map(swap),
      at: unit.at && { ...unit.at, in: swap(unit.at.in) },
    })),
  }
}

/** The same plots once more, in a later season: as they stand and what they got, under ids of their own. */
export function layOutAgain(site: Site, first: Layout, newId: () => string, before: Layout | null = null): Layout {
  const known = new Map(before?.units.map((unit) => [`${unit.kind} ${unit.code}`, unit.id]))
  const fresh = new Map(first.units.map((unit) => [unit.id, known.get(`${unit.kind} ${unit.code}`) ?? newId()]))
  const units = first.units.map((unit): Unit => ({
    ...unit,
    id: fresh.get(unit.id)!,
    code: unit.kind === 'site' ? site.name.slice(0, 20) : unit.code,
    in: unit.in.map((id) => fresh.get(id)!),
    at: unit.at && { ...unit.at, in: fresh.get(unit.at.in)! },
  }))
  const { swapped } = first.structure
  const structure = swapped
    ? { ...first.structure, swapped: swapped.map((each) => ({ ...each, a: fresh.get(each.a) ?? each.a, b: fresh.get(each.b) ?? each.b })) }
    : first.structure
  return { siteKey: site.key, structure, units: placeUnits(units, site.ground, walkedKind(site), null) }
}

/**
 * The outline of a site before anything is dealt out: the same units in the order listed, planned so
 * that they can be counted and given nothing yet. Empty where it cannot be laid out.
 */
export function outline(trial: Planned, key: string): Unit[] {
  if (layoutProblems(trial, key).length > 0) return []
  let n = 0
  return deal(trial, key, { seed: 0, draw: DRAW }, asListed, () => `outline-${n++}`, null).units.map((unit) => ({ ...unit, received: {} }))
}

/** The same units after the ground has changed. The plots of an earlier season keep its numbers. */
export function placedAnew(layout: Layout, site: Site, sites: readonly Site[]): Layout {
  const number = site.again === null ? sites.findIndex((each) => each.key === site.key) : null
  return { ...layout, units: placeUnits(layout.units, site.ground, walkedKind(site), number) }
}

function deal(
  { treatments, sites }: Planned,
  key: string,
  { seed, draw }: Pick<DesignRequest, 'seed' | 'draw'>,
  chance: Chance,
  newId: () => string,
  searching: DesignRequest['searching'],
): Layout {
  const site = siteOf({ sites }, key)
  const request: DesignRequest = {
    treatments: treatmentsDealt(treatments, site),
    choice: site.design,
    chance,
    across: site.ground.across,
    toAndFro: site.ground.serpentine,
    seed,
    draw,
    searching,
    siteName: site.name,
    prefix: sites.length > 1 && site !== sites[0] ? String(sites.indexOf(site) + 1) : '',
    newId,
  }
  const shown = shownOf(treatmentsAt(treatments, site))
  const { structure, units } = withShown(designOf(site.design.key)!.deal(request), { ...request, treatments }, shown)
  return { siteKey: key, structure, units: placeUnits(units, site.ground, walkedKind(site), sites.indexOf(site)) }
}
