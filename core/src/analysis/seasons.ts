import type { Layout, Site, Structure, Unit, UnitKind } from '../trial/index.ts'
import { AnalysisError, type AnalysisRequest } from './request.ts'

/** What the seasons of plots that stand for several are called among the factors. */
export const SEASON = 'season'
const IN_A_SEASON = 'plot-season' satisfies UnitKind

interface Seasonal {
  readonly site: Site
  readonly layout: Layout
  readonly season: string
}

/** Layouts that are the same ground in several seasons, together, each by its first. */
export interface Ground {
  readonly seasons: readonly Seasonal[]
}

/** The ground that layouts stand on: one of each, or several that are the same plots in later seasons. */
export function groundsOf(sites: readonly Site[], usual: number, layouts: readonly Layout[]): Ground[] {
  const grounds = new Map<string, Seasonal[]>()
  for (const layout of layouts) {
    const site = sites.find((each) => each.key === layout.siteKey)
    const key = site?.again ?? layout.siteKey
    const season = { site: site!, layout, season: String(site?.season ?? usual) }
    grounds.set(key, [...(grounds.get(key) ?? []), season])
  }
  return [...grounds.values()].map((seasons) => ({ seasons: [...seasons].sort((a, b) => (a.season < b.season ? -1 : 1)) }))
}

/**
 * The same with what can be read together: seasons that have a value, and of these, where ground stood
 * for unlike ones, those that all of it has. `aside` are the sites that are left for themselves.
 */
export function sharedSeasons(grounds: readonly Ground[], measured: ReadonlySet<string>): { grounds: Ground[]; aside: Site[] } {
  const begun = grounds.map(({ seasons }): Ground => {
    const own = seasons.filter(({ layout }) => layout.units.some((unit) => measured.has(unit.id)))
    return { seasons: own.length > 0 ? own : seasons.slice(0, 1) }
  })
  const shared = begun[0]!.seasons.filter(({ season }) => begun.every((ground) => ground.seasons.some((each) => each.season === season)))
  const several = begun.some((ground) => ground.seasons.length > 1)
  const names = new Set(shared.map((each) => each.season))
  const kept =
    several && names.size > 0
      ? begun.map((ground): Ground => ({ seasons: ground.seasons.filter((each) => names.has(each.season)) }))
      : begun
  const aside = begun.flatMap((ground, g) => ground.seasons.filter((each) => !kept[g]!.seasons.includes(each)).map((each) => each.site))
  return { grounds: kept, aside }
}

/**
 * Plots that stand for several seasons: each is one unit with as many parts as seasons, so that what
 * was put on it is judged between plots, and the season, with what changes with it, within them (split
 * plots in time; Steel, Torrie & Dickey 1997, ch. 16). Throws AnalysisError where not all ground was
 * read in the same seasons, or a plot got another treatment in one of them.
 */
export function overSeasons(
  grounds: readonly Ground[],
  request: Pick<AnalysisRequest, 'structure' | 'units' | 'factors'>,
  treated: UnitKind,
): Pick<AnalysisRequest, 'structure' | 'units' | 'factors'> {
  const told = grounds.map(({ seasons }) => seasons.map((each) => each.season).join(' '))
  if (new Set(told).size > 1)
    throw new AnalysisError('Not all ground stood for the same seasons: this needs a mixed model. Read each site by itself.')
  const names = grounds[0]!.seasons.map((each) => each.season)
  if (new Set(names).size < names.length)
    throw new AnalysisError('The same plots are there twice for one season: give one of them another season under Ground.')
  const compared = new Set(request.units.map((unit) => unit.id))
  const plotOf = (id: string): string => `${id} over seasons`
  const plots = request.units
    .filter((unit) => unit.kind !== 'plant' && unit.kind !== 'sample')
    .map((unit): Unit => (unit.kind === treated ? { ...unit, id: plotOf(unit.id) } : unit))
  const parts = grounds.flatMap(({ seasons }) => {
    const first = new Map(treatedOf(seasons[0]!.layout, treated).map((unit) => [unit.code, unit]))
    return seasons.flatMap(({ layout, season, site }) =>
      treatedOf(layout, treated).flatMap((unit): Unit[] => {
        const plot = first.get(unit.code)
        // What is set aside, or only shown, is no part of what is compared.
        if (plot && !compared.has(plot.id)) return []
        if (!plot || JSON.stringify(plot.received) !== JSON.stringify(unit.received))
          throw new AnalysisError(`${unit.kind} ${unit.code} did not get the same in every season: read ${site.name} by itself.`)
        const marks = { [SEASON]: season }
        return [{ ...unit, kind: IN_A_SEASON, in: [plotOf(plot.id)], at: null, planned: marks, received: marks, changes: {}, place: null }]
      }),
    )
  })
  const structure: Structure = {
    ...request.structure,
    kinds: [...request.structure.kinds.filter(({ kind }) => kind !== 'plant' && kind !== 'sample'), { kind: IN_A_SEASON, in: [treated] }],
    factors: [...request.structure.factors, { factor: SEASON, appliedTo: IN_A_SEASON, within: treated, how: 'not randomised' }],
  }
  return { structure, units: [...plots, ...parts], factors: [...request.factors, { key: SEASON, name: SEASON, levels: names }] }
}

function treatedOf({ units }: Layout, kind: UnitKind): Unit[] {
  return units.filter((unit) => unit.kind === kind)
}
