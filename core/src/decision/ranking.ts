import { capital, listed, spokenTreatment } from '../analysis/index.ts'
import { counted, type UnitSystem } from '../quantity/index.ts'
import type { Layout, Prices, Site, Treatments, Trial } from '../trial/index.ts'
import { decide, type Decision, type DecisionInput } from './returns.ts'

/** The order of the options by what they return net, best first: 1. */
export interface Ranked {
  /** money/ha. */
  readonly net: number
  /** Null for what is no option: a yardstick. */
  readonly rank: number | null
  /** Not the best there, and not told from it either. */
  readonly close: boolean
}

export interface SiteRanking {
  readonly site: Site
  /** Why there is no order at this site; null: there is one. */
  readonly problem: string | null
  /** By treatment; those that did not grow there are missing. */
  readonly ranked: ReadonlyMap<string, Ranked>
}

/** Every option in its order, over what was decided on. */
export function rankedIn({ returns, best, tested }: Decision): ReadonlyMap<string, Ranked> {
  const options = returns.filter((each) => each.treatment.role !== 'yardstick')
  return new Map(
    returns.map((each) => [
      each.treatment.key,
      {
        net: each.net,
        rank: options.includes(each) ? 1 + options.filter((other) => other.net > each.net).length : null,
        close: tested && each !== best && !each.toldFromBest,
      },
    ]),
  )
}

/** The same at each site alone, by its own plots and error. */
export function rankAtSites(trial: Trial, layouts: readonly Layout[], inputs: readonly DecisionInput[], prices: Prices): SiteRanking[] {
  return layouts.flatMap((layout): SiteRanking[] => {
    const site = trial.sites.find((each) => each.key === layout.siteKey)
    if (!site) return []
    const own = new Set(layout.units.map((unit) => unit.id))
    const outcome = decide(
      trial,
      [layout],
      inputs.filter((each) => own.has(each.unit)),
      prices,
    )
    return [
      outcome.ok
        ? { site, problem: null, ranked: rankedIn(outcome.decision) }
        : { site, problem: outcome.problem, ranked: new Map<string, Ranked>() },
    ]
  })
}

/** A site with the season its crop is of, unless its name has it. */
export function siteInSeason({ name, season }: Site, usual: number): string {
  const year = String(season ?? usual)
  return name.includes(year) ? name : `${name} ${year}`
}

/** Whether the order holds from site to site, in words; null where fewer than two sites have one. */
export function rankingSentence(
  { best }: Decision,
  sites: readonly SiteRanking[],
  treatments: Treatments,
  season: number,
  system: UnitSystem,
): string | null {
  const told = sites.filter((each) => each.ranked.size > 0)
  if (told.length < 2) return null
  const name = (key: string): string => spokenTreatment(treatments, key, system)
  const seasons = new Set(told.map(({ site }) => site.season ?? season))
  const called = ({ site }: SiteRanking): string => (seasons.size > 1 ? siteInSeason(site, season) : site.name)
  const first = (each: SiteRanking): string => [...each.ranked].find(([, { rank }]) => rank === 1)![0]
  const own = told.filter((each) => each.ranked.get(best.treatment.key)?.rank === 1)
  if (own.length === told.length)
    return `${capital(name(best.treatment.key))} returned most at each of the ${counted(told.length, 'site')} alone too.`
  const others = new Map<string, SiteRanking[]>()
  for (const each of told) if (!own.includes(each)) others.set(first(each), [...(others.get(first(each)) ?? []), each])
  const close = (at: readonly SiteRanking[]): boolean => at.every((each) => each.ranked.get(best.treatment.key)?.close === true)
  const all = close([...others.values()].flat())
  const elsewhere = [...others].map(([key, at]) => {
    const alike = close(at) && !all ? ' (not told from it there)' : ''
    return `at ${listed(at.map(called))} it was ${name(key)}${alike}`
  })
  const head = own.length === 0 ? 'at none of the sites alone' : `at ${own.length} of ${told.length} sites alone`
  const none = all ? (others.size === 1 ? ', which could not be told from it there' : '; none of these could be told from it there') : ''
  return `${capital(name(best.treatment.key))} returned most ${head}; ${elsewhere.join('; ')}${none}.`
}
