import { orthogonalPolynomials } from '../statistics/index.ts'
import { crossing, type LayoutFrame } from './layout.ts'
import { levelCalled, listed } from './words.ts'
import { AnalysisError } from './request.ts'

export interface PlannedContrast {
  readonly name: string
  /** At this site alone. */
  readonly site?: string
  readonly term: readonly string[]
  readonly coefficients: Readonly<Record<string, number>>
  /** Of a trend over amounts. */
  readonly trend?: { readonly factor: string; readonly degree: number; readonly scale: number } | undefined
  readonly late?: boolean | undefined
}

const DEGREES = ['linear', 'quadratic', 'cubic', 'quartic']

/**
 * Comparisons planned beforehand and trends over amounts, on levels that have values; those that name
 * a level without one are `lacking`, in words. Throws AnalysisError for one that is none.
 */
export function plannedContrasts(frame: LayoutFrame): { planned: PlannedContrast[]; lacking: string[] } {
  const { options } = frame.request
  const asked = options.contrasts.map((each) => checked(frame, each))
  const without = asked.map(({ term, coefficients }) => {
    const { levels } = crossing(term, [...(frame.sites ? [frame.sites] : []), ...frame.factors])
    return Object.keys(coefficients).filter((level) => coefficients[level] !== 0 && !levels.includes(level))
  })
  return {
    planned: [...asked.filter((_, i) => without[i]!.length === 0), ...options.polynomials.flatMap((factor) => trends(frame, factor))],
    lacking: [
      ...asked.flatMap(({ name }, i) =>
        without[i]!.length === 0
          ? []
          : [
              `The comparison “${name}” cannot be made: ${listed(without[i]!.map((level) => levelCalled(frame.request.factors, asked[i]!.term, level)))} ${without[i]!.length === 1 ? 'has' : 'have'} no value.`,
            ],
      ),
      ...options.polynomials.flatMap((factor) => {
        const levels = frame.factors.find((each) => each.name === factor)!.levels.length
        return levels - 1 > DEGREES.length
          ? [
              `Of the trend over ${factor} the parts up to the fourth degree are told; ${levels - 1 - DEGREES.length === 1 ? 'one higher part is' : `${levels - 1 - DEGREES.length} higher parts are`} not.`,
            ]
          : []
      }),
    ],
  }
}

function checked({ request, terms, sites }: LayoutFrame, asked: PlannedContrast): PlannedContrast {
  const where = `The contrast “${asked.name}”`
  const atSites = asked.term.includes('site')
  const own = request.factors.map((factor) => factor.key).filter((key) => asked.term.includes(key))
  if (atSites && !sites) throw new AnalysisError(`${where} is between sites, and there is one site only.`)
  const term = [...(atSites ? ['site'] : []), ...own]
  if (own.length === 0 || !terms.some((each) => each.join() === own.join()))
    throw new AnalysisError(`${where} is of ${term.join(' × ')}, which is not a term of the model.`)
  const values = Object.values(asked.coefficients)
  const size = values.reduce((sum, each) => sum + Math.abs(each), 0)
  if (size === 0) throw new AnalysisError(`${where} has no coefficient other than zero.`)
  if (Math.abs(values.reduce((sum, each) => sum + each, 0)) > 1e-9 * size)
    throw new AnalysisError(`${where} has coefficients that do not sum to zero.`)
  const known = term.reduce<string[]>(
    (found, key) => {
      const { levels } = key === 'site' ? sites! : request.factors.find((factor) => factor.key === key)!
      return found.flatMap((before) => levels.map((level) => (before === '' ? level : `${before}:${level}`)))
    },
    [''],
  )
  // A colon in a level's own name is written otherwise inside.
  const inside = new Map(known.map((level) => [level.replaceAll('\u2236', ':'), level]))
  const coefficients = Object.fromEntries(
    Object.entries(asked.coefficients).map(([level, c]) => [known.includes(level) ? level : (inside.get(level) ?? level), c]),
  )
  const strange = Object.keys(coefficients).find((level) => !known.includes(level))
  if (strange !== undefined) throw new AnalysisError(`${where} names “${strange}”, which is not a level of ${term.join(' × ')}.`)
  return { ...asked, coefficients, term }
}

/** Linear, quadratic, … parts over the amounts of a factor, for any spacing; at most of the fourth degree. */
function trends({ request, factors }: LayoutFrame, factor: string): PlannedContrast[] {
  const { levels } = factors.find((each) => each.name === factor)!
  const amounts = request.factors.find((each) => each.key === factor)!.amounts
  const x = levels.map((level) => amounts?.[level] ?? Number(level))
  const odd = x.findIndex((each) => !Number.isFinite(each))
  if (odd !== -1)
    throw new AnalysisError(`A trend over ${factor} needs an amount for each level; “${levels[odd]}” has none. Give amounts in the plan.`)
  if (new Set(x).size < x.length) throw new AnalysisError(`A trend over ${factor} needs amounts that differ.`)
  return orthogonalPolynomials(x, Math.min(levels.length - 1, DEGREES.length)).map((c, degree) => ({
    name: `${factor}, ${DEGREES[degree]}`,
    term: [factor],
    coefficients: Object.fromEntries(levels.map((level, i) => [level, c[i]!])),
    trend: { factor, degree: degree + 1, scale: 1 / c.reduce((sum, each, i) => sum + each * x[i]! ** (degree + 1), 0) },
  }))
}
