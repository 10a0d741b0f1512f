import { formatNumber, formatP, formatPlain, formatQuantity, shown, withUnit, type UnitSystem } from '../quantity/index.ts'
import { nutrientOf, type PlannedComparison, type Treatments } from '../trial/index.ts'
import type { Analysis, ContrastRow, Sentence } from './result.ts'

/** What came of a planned comparison, in one sentence with its figures. */
export interface PlannedAnswer extends Sentence {
  readonly comparison: PlannedComparison
  readonly row: ContrastRow
  /** At each site alone; empty where there is one. */
  readonly sites: readonly ContrastRow[]
  /** The same in words, site by site; null where there is one. */
  readonly atSites: string | null
  /** Of a trend: so many of the factor's measure its figures are told for, and in words; 1 of two sides. */
  readonly per: { readonly times: number; readonly said: string }
}

/** The planned comparisons that could be made, in their order; those added late say so. */
export function plannedAnswers(analysis: Analysis, treatments: Treatments, system: UnitSystem): PlannedAnswer[] {
  return treatments.comparisons.flatMap((comparison): PlannedAnswer[] => {
    const own = analysis.contrasts.filter((each) => each.name === comparison.name)
    const row = own.find((each) => each.site === null)
    if (!row || !Number.isFinite(row.p)) return []
    const told =
      comparison.of.kind === 'trend'
        ? trend(analysis, comparison.of, row, perStep(comparison, treatments, system), system)
        : twoSides(analysis, row, system)
    const sites = own.filter((each) => each.site !== null)
    const late = comparison.late ? ' It was added when there were readings already: a lead to follow, not a test planned beforehand.' : ''
    return [
      {
        comparison,
        row,
        sites,
        atSites: sites.length > 1 ? siteBySite(analysis, sites, perStep(comparison, treatments, system), system) : null,
        per: perStep(comparison, treatments, system),
        text: `${comparison.name}: ${told}${late}`,
        evidence: row.evidence.kind,
        why: row.evidence.why,
      },
    ]
  })
}

/** What was found at each site, those not told apart marked so: the error is that of all sites together. */
function siteBySite(analysis: Analysis, sites: readonly ContrastRow[], { times }: PlannedAnswer['per'], system: UnitSystem): string {
  const { trait, significance, scale } = analysis
  const told = sites.map(({ site, estimate, p }) => {
    const way = scale ? (estimate > 0 ? 'higher' : 'lower') : estimate >= 0 ? 'more' : 'less'
    const size = scale ? '' : `${formatQuantity(Math.abs(estimate) * times, trait.unit, system, { digits: 2 })} `
    return `${site} ${size}${way}${p < significance ? '' : ' (not told apart)'}`
  })
  return `Site by site: ${told.join('; ')}.`
}

function twoSides(analysis: Analysis, row: ContrastRow, system: UnitSystem): string {
  const { significance, trait, scale } = analysis
  const found = row.p < significance
  if (scale) {
    const way = row.estimate > 0 ? 'higher' : 'lower'
    return found
      ? `${way} (p ${formatP(row.p)} on the ${scale.name} scale).`
      : `not told apart (p ${formatP(row.p)} on the ${scale.name} scale); that does not show that there is no difference.`
  }
  const size = `${formatQuantity(Math.abs(row.estimate), trait.unit, system, { digits: 2 })} ${row.estimate >= 0 ? 'more' : 'less'}`
  const limits = row.estimate >= 0 ? between(analysis, row.lower, row.upper, system) : between(analysis, -row.upper, -row.lower, system)
  return found
    ? `${size} (${limits}).`
    : `not told apart; ${size} was seen (${limits}), and a true difference anywhere in that interval could have gone unseen.`
}

/** The mean step of the amounts: what a slope is told for, and its square a bend. */
function perStep({ of }: PlannedComparison, { factors }: Treatments, system: UnitSystem): PlannedAnswer['per'] {
  if (of.kind !== 'trend') return { times: 1, said: '' }
  const factor = factors.find((each) => each.key === of.factor)!
  const amounts = factor.levels.map((level) => level.amount ?? 0)
  const step = (Math.max(...amounts) - Math.min(...amounts)) / (amounts.length - 1)
  const out = shown(step, factor.measure, system)
  const said = withUnit(formatPlain(out.value, 3), out.unit, nutrientOf(factor) ?? undefined)
  return of.degree === 1 ? { times: step, said } : { times: step ** 2, said: `square of ${said}` }
}

/** A slope is told for a usual step of the amounts; a bend by its direction. */
function trend(
  analysis: Analysis,
  of: Extract<PlannedComparison['of'], { kind: 'trend' }>,
  row: ContrastRow,
  { times: step, said: per }: PlannedAnswer['per'],
  system: UnitSystem,
): string {
  const { significance, trait, scale } = analysis
  const found = row.p < significance
  const p = `p ${formatP(row.p)}${scale ? ` on the ${scale.name} scale` : ''}`
  if (of.degree === 2)
    return found
      ? `the response ${row.estimate < 0 ? 'bends downward: each further step gives less' : 'bends upward: each further step gives more'} (${p}).`
      : `no sign that the response is anything but straight was seen (${p}); that does not show that it is.`
  if (scale) return `${found ? (row.estimate > 0 ? 'rising' : 'falling') : 'no steady rise or fall was seen'} (${p}).`
  const size = formatQuantity(Math.abs(row.estimate) * step, trait.unit, system, { digits: 2 })
  const [low, high] = row.estimate >= 0 ? [row.lower, row.upper] : [-row.upper, -row.lower]
  const limits = between(analysis, low * step, high * step, system)
  return found
    ? `on average ${size} ${row.estimate >= 0 ? 'more' : 'less'} for each further ${per} (${limits}).`
    : `no steady rise or fall was seen: ${size} ${row.estimate >= 0 ? 'more' : 'less'} for each further ${per} (${limits}).`
}

function between({ significance, trait }: Analysis, low: number, high: number, system: UnitSystem): string {
  const number = (value: number): string => formatNumber(shown(value, trait.unit, system).value, 2)
  return `${formatNumber(100 * (1 - significance), 2)} % interval ${number(low)} to ${formatQuantity(high, trait.unit, system, { digits: 2 })}`
}
