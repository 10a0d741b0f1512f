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
  const plotOf = (id: string): string => `${id} over seasons`
  const plots = request.units
    .filter((unit) => unit.kind !== 'plant' && unit.kind !== 'sample')
    .map((unit): Unit => (unit.kind === treated ? { ...unit, id: plotOf(unit.id) } : unit))
  const parts = grounds.flatMap(({ seasons }) => {
    const first = new Map(treatedOf(seasons[0]!.layout, treated).map((unit) => [unit.code, unit]))
    return seasons.flatMap(({ layout, season, site }) =>
      treatedOf(layout, treated).map((unit): Unit => {
        const plot = first.get(unit.code)
        if (!plot || JSON.stringify(plot.received) !== JSON.stringify(unit.received))
          throw new AnalysisError(`${unit.kind} ${unit.code} did not get the same in every season: read ${site.name} by itself.`)
        const marks = { [SEASON]: season }
        return { ...unit, kind: IN_A_SEASON, in: [plotOf(plot.id)], at: null, planned: marks, received: marks, changes: {}, place: null }
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
