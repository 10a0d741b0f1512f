import { AnalysisOptions, type AnalysisRequest } from '../../src/analysis/index.ts'
import { chanceFrom, shuffled } from '../../src/design/index.ts'
import type { Structure, Unit, UnitKind } from '../../src/trial/index.ts'
import { unitOf } from '../plan-case.ts'

export interface Plot {
  readonly levels: Readonly<Record<string, string>>
  readonly block: number
  readonly site: string
}

export interface Sown {
  /** Levels by factor, every combination in each block. */
  readonly factors: Readonly<Record<string, readonly string[]>>
  readonly blocks?: number
  readonly sites?: readonly string[]
  /** Combinations that were grown; all when not given. */
  readonly grown?: (levels: Readonly<Record<string, string>>) => boolean
  readonly value: (plot: Plot) => number
  /** Standard deviation of the plots; their deviations sum to zero within each treatment of a site. */
  readonly noise?: number
  readonly seed?: number
  readonly lost?: (plot: Plot) => boolean
  /** After all else, by plot code. */
  readonly put?: Readonly<Record<string, number>>
  readonly how?: Structure['factors'][number]['how']
  /** Factors on larger units, each level one such unit in a block. */
  readonly main?: string
  /** One unit of the main factor in all, and not one in each block. */
  readonly mainOnce?: boolean
  readonly control?: Readonly<Record<string, string>>
  readonly controls?: Structure['controls']
  readonly said?: Readonly<Record<string, AnalysisRequest['factors'][number]['said'] & object>>
  readonly amounts?: Readonly<Record<string, Readonly<Record<string, number>>>>
  readonly trait?: Partial<AnalysisRequest['trait']>
  readonly options?: Partial<typeof AnalysisOptions._zod.input>
  readonly covariate?: (plot: Plot) => number
}

/** A made-up trial with a known truth: plots by site, block and combination. */
export function sown(of: Sown): AnalysisRequest {
  const { factors, blocks = 4, sites = ['only'], noise = 0.2, seed = 1, how = 'randomised', main, put = {} } = of
  const several = sites.length > 1
  const chance = chanceFrom(seed)
  const keys = Object.keys(factors)
  const all = keys
    .reduce<Record<string, string>[]>((found, key) => found.flatMap((at) => factors[key]!.map((level) => ({ ...at, [key]: level }))), [{}])
    .filter((levels) => of.grown?.(levels) ?? true)
  const units: Unit[] = []
  const observations: { unit: string; value: number }[] = []
  const covariates = new Map<string, number>()
  for (const site of sites) {
    if (several) units.push(unitOf('site', site))
    const deviations = all.map(() => centred(blocks, noise, chance))
    for (let block = 1; block <= blocks; block++) {
      const within = several ? `${site} b${block}` : `b${block}`
      units.push({ ...unitOf('block', within, several ? [site] : []), code: `b${block}` })
      const mains = new Map<string, string>()
      shuffled(
        all.map((_, i) => i),
        chance,
      ).forEach((i, place) => {
        const levels = all[i]!
        const id = `${several ? `${site} ` : ''}${block}${String(place + 1).padStart(2, '0')}`
        let holder = within
        if (main) {
          const level = levels[main]!
          const key = of.mainOnce ? `m ${level}` : `${within} ${level}`
          if (!units.some((unit) => unit.id === key)) units.push(unitOf('main plot', key, of.mainOnce ? [] : [within], { [main]: level }))
          mains.set(level, key)
          holder = key
        }
        const { [main ?? '']: _, ...marks } = levels
        units.push({ ...unitOf('plot', id, of.mainOnce ? [holder] : [holder], marks), code: id })
        const plot = { levels, block, site }
        covariates.set(id, of.covariate?.(plot) ?? 0)
        if (of.lost?.(plot)) return
        observations.push({ unit: id, value: put[id] ?? of.value(plot) + deviations[i]![block - 1]! })
      })
    }
  }
  const inside = (kind: UnitKind): UnitKind[] => (several ? [kind] : [])
  return {
    structure: {
      schema: 1,
      kinds: [
        ...(several ? [{ kind: 'site' as const, in: [] }] : []),
        ...(of.mainOnce ? [] : [{ kind: 'block' as const, in: inside('site') }]),
        ...(main ? [{ kind: 'main plot' as const, in: of.mainOnce ? [] : (['block'] as UnitKind[]) }] : []),
        { kind: 'plot', in: [main ? 'main plot' : 'block'] },
      ],
      factors: keys.map((factor) => ({
        factor,
        appliedTo: factor === main ? ('main plot' as const) : ('plot' as const),
        within: of.mainOnce ? null : factor === main ? ('block' as const) : main ? ('main plot' as const) : ('block' as const),
        how,
      })),
      controls: [...Object.entries(of.control ?? {}).map(([factor, level]) => ({ factor, level })), ...(of.controls ?? [])],
      seed: null,
    },
    units: of.mainOnce ? units.filter((unit) => unit.kind !== 'block') : units,
    factors: keys.map((key) => ({
      key,
      levels: factors[key]!,
      ...(of.amounts?.[key] ? { amounts: of.amounts[key] } : {}),
      ...(of.said?.[key] ? { said: of.said[key] } : {}),
    })),
    trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous', ...of.trait },
    observations,
    ...(of.covariate ? { covariates: new Map([['stand', covariates]]) } : {}),
    options: AnalysisOptions.parse({ ...(of.covariate ? { covariates: ['stand'] } : {}), ...of.options }),
  }
}

/** Deviations of one treatment at one site: about normal, with mean zero and this standard deviation. */
function centred(n: number, sd: number, chance: ReturnType<typeof chanceFrom>): number[] {
  if (n === 1 || sd === 0) return Array.from({ length: n }, () => 0)
  const drawn = Array.from({ length: n }, () =>
    Array.from({ length: 6 }, () => chance.below(10001) / 10000 - 0.5).reduce((a, b) => a + b, 0),
  )
  const mean = drawn.reduce((a, b) => a + b, 0) / n
  const ss = drawn.reduce((sum, each) => sum + (each - mean) ** 2, 0)
  return drawn.map((each) => ((each - mean) * sd) / Math.sqrt(ss / (n - 1)))
}
