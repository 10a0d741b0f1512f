import { given, over, times, workedProduct, type Worked } from '../quantity/index.ts'
import { plotArea } from '../ground/index.ts'
import type { Layout, Level, Trial } from '../trial/index.ts'

/** What one level needs, from the nutrient rate to the weighed product, every figure worked. */
export interface LevelAmounts {
  readonly level: Level
  readonly nutrientRate: Worked
  /** kg/ha of product over the season, and at each application. */
  readonly productRate: Worked
  readonly productRatePerApplication: Worked
  /** At each application. */
  readonly perPlot: Worked
  readonly perBlock: Worked
  readonly perSite: Worked
  readonly plots: readonly string[]
}

export interface TrialAmounts {
  readonly levels: readonly LevelAmounts[]
  readonly siteTotal: Worked
  /** Each says a stated label maximum that is passed. */
  readonly overMaximum: readonly string[]
}

export type AmountsOutcome = { ok: true; amounts: TrialAmounts } | { ok: false; problem: string }

/**
 * The product each level needs. `layout` gives the plots that get it; without one the counts
 * come from the plan. Amounts follow what was planned, since it is weighed before it is given.
 */
export function nutrientAmounts(trial: Pick<Trial, 'factors' | 'sites' | 'supply' | 'replicates'>, layout: Layout | null): AmountsOutcome {
  const factor = trial.factors[0]
  const site = trial.sites[0]
  const supply = trial.supply
  if (!factor || !site || factor.nutrient === null)
    return { ok: false, problem: 'The levels of this trial are not rates of a nutrient, so there is nothing to weigh out here.' }
  if (!supply) return { ok: false, problem: `Choose the product that carries the ${factor.nutrient} and type its analysis.` }
  const nutrient = factor.nutrient
  const share = supply.analysis[nutrient]
  if (!share) return { ok: false, problem: `${supply.product} states no ${nutrient}: type its analysis in % ${nutrient}.` }

  const content = given(`${nutrient} in ${supply.product}`, share, '%', undefined)
  const applications = given('Applications', supply.applications, '')
  const area = plotArea(site.ground)
  const plots = layout?.units.filter((unit) => unit.kind === 'plot') ?? []
  const levels = factor.levels.map((level): LevelAmounts => {
    const nutrientRate = given(`Rate of ${nutrient}`, level.amount ?? 0, factor.unit, nutrient)
    const productRate = workedProduct('Product over the season', 'kg/ha', [times(nutrientRate), over(content)])
    const productRatePerApplication = workedProduct('Product at each application', 'kg/ha', [times(productRate), over(applications)])
    const perPlot = workedProduct('Product per plot', 'g', [times(productRatePerApplication), times(area)])
    const mine = plots.filter((plot) => plot.planned[factor.key] === level.key)
    const perBlock = workedProduct('Product per block', 'g', [times(perPlot), times(given('Plots in a block', 1, ''))])
    const count = layout ? mine.length : trial.replicates
    const perSite = workedProduct('Product for the site', 'kg', [times(perPlot), times(given('Plots at the site', count, ''))])
    return { level, nutrientRate, productRate, productRatePerApplication, perPlot, perBlock, perSite, plots: mine.map((plot) => plot.code) }
  })
  const siteTotal = given(
    'Product for the site, all levels',
    levels.reduce((sum, each) => sum + each.perSite.value, 0),
    'kg',
  )
  return { ok: true, amounts: { levels, siteTotal, overMaximum: overMaximum(trial.supply!, levels) } }
}

function overMaximum(supply: NonNullable<Trial['supply']>, levels: readonly LevelAmounts[]): string[] {
  const checks = [
    { most: supply.labelMaximumPerApplication, pick: (each: LevelAmounts) => each.productRatePerApplication, when: 'per application' },
    { most: supply.labelMaximumPerSeason, pick: (each: LevelAmounts) => each.productRate, when: 'per season' },
  ]
  return checks.flatMap(({ most, pick, when }) =>
    most === null
      ? []
      : levels
          .filter((each) => pick(each).value > most * (1 + 1e-9))
          .map(
            (each) =>
              `${each.level.name} needs ${pick(each).value.toFixed(0)} kg/ha of product; the stated maximum ${when} is ${most} kg/ha.`,
          ),
  )
}
