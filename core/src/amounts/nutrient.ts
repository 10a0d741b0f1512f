import { given, over, times, workedProduct, type Worked } from '../quantity/index.ts'
import { plotArea } from '../ground/index.ts'
import {
  marksOn,
  nutrientName,
  nutrientOf,
  type Factor,
  type Level,
  Nutrient as NutrientKey,
  type Nutrient,
  type Site,
  type Supply,
  type Treatments,
  type Unit,
} from '../trial/index.ts'

/** What one level of a rate needs, from the nutrient rate to the weighed product, every figure worked. */
export interface LevelAmounts {
  readonly level: Level
  readonly nutrientRate: Worked
  /** kg/ha of product over the season, and at each application. */
  readonly productRate: Worked
  readonly productRatePerApplication: Worked
  /** At each application. */
  readonly perPlot: Worked
  /** Of a liquid, the same by volume. */
  readonly volumePerPlot: Worked | null
  /** What else the product brings over the season, as elements, kg/ha. */
  readonly others: readonly { readonly nutrient: Nutrient; readonly rate: Worked }[]
  /** Where every block has as many; null otherwise, and without blocks. */
  readonly perBlock: Worked | null
  readonly perSite: Worked
  readonly plots: readonly string[]
}

export interface SiteAmounts {
  readonly factor: Factor
  readonly nutrient: Nutrient
  readonly levels: readonly LevelAmounts[]
  readonly siteTotal: Worked
  /** Nutrients that treatments differ in beside the one that is varied. */
  readonly differsAlsoIn: readonly Nutrient[]
  /** Each says a stated label maximum that is passed. */
  readonly overMaximum: readonly string[]
}

export type AmountsOutcome = { ok: true; amounts: SiteAmounts } | { ok: false; problem: string }

/** The factor whose levels are amounts of a nutrient, if any. */
export function nutrientFactor({ factors }: Pick<Treatments, 'factors'>): Factor | undefined {
  return factors.find((factor) => nutrientOf(factor) !== null)
}

/** kg/ha of product for a rate of a nutrient, or why it cannot be said. */
export function productRate(
  factor: Factor,
  level: Level,
  supply: Supply | null,
): { ok: true; rate: Worked; nutrientRate: Worked } | { ok: false; problem: string } {
  const nutrient = nutrientOf(factor)!
  if (!supply) return { ok: false, problem: `Choose the product that carries the ${nutrient} and type its analysis.` }
  const share = supply.analysis[nutrient]
  if (!share) return { ok: false, problem: `${supply.product} states no ${nutrient}: type its analysis in % ${nutrient}.` }
  const nutrientRate = given(`Rate of ${nutrient}`, level.amount ?? 0, factor.measure, nutrient)
  try {
    const rate = workedProduct('Product over the season', 'kg/ha', [
      times(nutrientRate),
      over(given(`${nutrient} in ${supply.product}`, share, '%')),
    ])
    return { ok: true, rate, nutrientRate }
  } catch {
    return { ok: false, problem: `Amounts are worked out for rates in mass per area; these are in ${factor.measure}.` }
  }
}

/**
 * The product each level needs at a site. `units` are those of its layout, or of its outline before
 * anything is dealt out. Amounts follow each unit as it is, a label put right too; for what is `gone`
 * nothing is weighed any more.
 */
export function nutrientAmounts(
  treatments: Treatments,
  supply: Supply | null,
  site: Site,
  units: readonly Unit[],
  gone: ReadonlySet<string> = new Set(),
): AmountsOutcome {
  const factor = nutrientFactor(treatments)
  if (!factor)
    return { ok: false, problem: 'The treatments of this trial are not rates of a nutrient, so there is nothing to weigh out here.' }
  if (factor.levels.length === 0) return { ok: false, problem: 'Give the rates first, under Question.' }
  const area = plotArea(site.ground)
  const applications = given('Applications', supply?.applications ?? 1, '')
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const treated = units.filter((unit) => unit.kind === site.design.unit && !gone.has(unit.id))
  // Before anything is dealt out, units are only planned.
  const which = units.some((unit) => Object.keys(unit.received).length > 0) ? 'received' : 'planned'
  const blocks = units.filter((unit) => unit.kind === 'block').length
  const levels: LevelAmounts[] = []
  for (const level of factor.levels) {
    const product = productRate(factor, level, supply)
    if (!product.ok) return product
    const perApplication = workedProduct('Product at each application', 'kg/ha', [times(product.rate), over(applications)])
    const perPlot = workedProduct(`Product per ${site.design.unit}`, 'g', [times(perApplication), times(area)])
    const mine = treated.filter((unit) => marksOn(unit, index, which)[factor.key] === level.key)
    const each = blocks > 0 && mine.length % blocks === 0 ? mine.length / blocks : 0
    levels.push({
      level,
      nutrientRate: product.nutrientRate,
      productRate: product.rate,
      productRatePerApplication: perApplication,
      perPlot,
      volumePerPlot: supply?.density
        ? workedProduct(`Product per ${site.design.unit} by volume`, 'mL', [times(perPlot), over(given('Density', supply.density, 'kg/L'))])
        : null,
      others: othersIn(supply, nutrientOf(factor)!).map(([nutrient, share]) => ({
        nutrient,
        rate: workedProduct(
          `${nutrient} over the season`,
          'kg/ha',
          [times(product.rate), times(given(`${nutrient} in ${supply!.product}`, share, '%'))],
          nutrient,
        ),
      })),
      perBlock:
        each > 0
          ? workedProduct('Product per block', 'g', [times(perPlot), times(given(`${site.design.unit}s in a block`, each, ''))])
          : null,
      perSite: workedProduct('Product for the site', 'kg', [
        times(perPlot),
        times(given(`${site.design.unit}s at the site`, mine.length, '')),
      ]),
      plots: mine.map((unit) => unit.code),
    })
  }
  const siteTotal = given(
    'Product for the site, all levels',
    levels.reduce((sum, each) => sum + each.perSite.value, 0),
    'kg',
  )
  return {
    ok: true,
    amounts: {
      factor,
      nutrient: nutrientOf(factor)!,
      levels,
      siteTotal,
      overMaximum: overMaximum(supply!, levels),
      differsAlsoIn: othersIn(supply, nutrientOf(factor)!).map(([nutrient]) => nutrient),
    },
  }
}

/** That treatments differ in more than what is varied, and what follows from that. */
export function differsInWords(varied: Nutrient, others: readonly Nutrient[]): string {
  const names = others.map((each) => `${nutrientName(each).toLowerCase()} (${each})`)
  const told = names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)!}` : names[0]!
  return `The treatments differ also in ${told}: what ${names.length > 1 ? 'these do' : 'it does'} cannot be told from what ${nutrientName(varied).toLowerCase()} does, unless it is put on all plots alike from another product.`
}

/** Nutrients of a product beside one, with their shares in %. */
function othersIn(supply: Supply | null, but: Nutrient): [Nutrient, number][] {
  return NutrientKey.options.flatMap((each): [Nutrient, number][] => {
    const share = supply?.analysis[each] ?? 0
    return each !== but && share > 0 ? [[each, share]] : []
  })
}

function overMaximum(supply: Supply, levels: readonly LevelAmounts[]): string[] {
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
