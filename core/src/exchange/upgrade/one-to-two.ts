/**
 * From schema 1 (one factor with its control marked on a level, one site, occasions and
 * replicates of readings) to schema 2 (treatments, sites with their own design, visits, samples).
 * Frozen: it knows the old shape by itself, and is given what was once valid.
 */
/* eslint-disable @typescript-eslint/no-explicit-any, @typescript-eslint/no-unsafe-assignment, @typescript-eslint/no-unsafe-member-access, @typescript-eslint/no-unsafe-call, @typescript-eslint/no-unsafe-return, @typescript-eslint/no-unsafe-argument --
   the old shape has no types any more; what comes out is checked against the new one. */
type Old = any

export interface SchemaTwo {
  readonly trial: unknown
  readonly layouts: readonly { readonly siteKey: string; readonly structure: unknown; readonly units: readonly unknown[] }[]
}

const KIND_OF_UNIT = 'plot'

export function upgradeTrial(trial: Old, layout: Old): SchemaTwo {
  const factor = trial.factors[0]
  const rates = factor.unit !== ''
  const visits = visitsOf(layout)
  const control = factor.levels.find((level: Old) => level.control)
  return {
    trial: {
      id: trial.id,
      version: trial.version,
      versions: Object.fromEntries(
        ['question', 'treatments', 'traits', 'amounts', 'prices', 'sites', ...trial.sites.map((site: Old) => `site:${site.key}`)].map(
          (key) => [key, 1],
        ),
      ),
      question: { ...trial.question, title: trial.title, crop: trial.crop, season: trial.season, significance: trial.significance },
      treatments: {
        factors: [
          {
            key: factor.key,
            name: factor.name,
            kind: rates ? 'rate' : 'kind',
            measure: factor.unit,
            of: factor.nutrient === null ? null : { what: 'nutrient', nutrient: factor.nutrient },
            levels: factor.levels.map(({ key, code, name, amount }: Old) => ({ key, code, name, amount: rates ? amount : null })),
          },
        ],
        list: factor.levels.map(({ key, code, name }: Old) => ({
          key,
          code,
          name,
          colour: null,
          role: key !== control?.key ? 'none' : rates ? 'untreated control' : 'standard',
          levels: { [factor.key]: key },
        })),
      },
      traits: {
        observed: trial.traits.map((trait: Old) => ({ ...trait, on: 'unit', samples: 1, visits: [], observers: 'apart' })),
        derived: trial.derived,
        visits: visits.map((key) => ({ key, name: key.charAt(0).toUpperCase() + key.slice(1).replaceAll('-', ' '), on: null })),
        response: trial.response,
        yieldTrait: trial.yieldTrait,
        qualityTrait: trial.qualityTrait,
        smallestDifference: trial.smallestDifference,
      },
      sites: trial.sites.map((site: Old) => ({
        key: site.key,
        name: site.name,
        soil: site.soil,
        ground: upgradeGround(site.ground),
        design: {
          key: 'randomised-block',
          replicates: trial.replicates,
          unit: KIND_OF_UNIT,
          plants: 0,
          walked: 'unit',
          placed: {},
          settings: {},
        },
      })),
      amounts: { supply: trial.supply, common: trial.common },
      prices: upgradePrices(trial.economics),
      createdAt: trial.createdAt,
      deletedAt: trial.deletedAt,
    },
    layouts: layout ? [upgradeLayout(layout)] : [],
  }
}

function visitsOf(layout: Old): string[] {
  const found: string[] = layout?.structure?.occasions ?? []
  return found.length > 0 ? found : ['harvest']
}

function upgradeGround({ columnsPerBlock, blocksAcross, ...ground }: Old): unknown {
  return { ...ground, groupGap: ground.plotGap, across: { [KIND_OF_UNIT]: columnsPerBlock, block: blocksAcross } }
}

function upgradePrices(economics: Old): unknown {
  return {
    currency: economics?.currency ?? '€',
    pricePerTonne: economics?.pricePerTonne ?? null,
    baseQuality: economics?.baseQuality ?? null,
    percentPerPoint: economics?.percentPerPoint ?? null,
    productPrice: economics?.productPrice ?? null,
    applicationCost: economics?.applicationCost ?? null,
    otherCost: {},
    reference: economics?.reference ?? null,
  }
}

/** Units get their place in the run of what holds them: blocks in the site, plots in their block, in the order they stand. */
function upgradeLayout({ siteKey, structure, units }: Old): SchemaTwo['layouts'][number] {
  const counts = new Map<string, number>()
  const { occasions: _, ...kept } = structure
  return {
    siteKey,
    structure: kept,
    units: units.map(({ change, ...unit }: Old) => {
      const holder = unit.in[0]
      const column = counts.get(holder) ?? 0
      if (holder) counts.set(holder, column + 1)
      const changed = change !== 'none' && change !== undefined
      return {
        ...unit,
        at: holder ? { in: holder, column, row: null } : null,
        changes: changed ? Object.fromEntries(Object.keys(unit.received).map((factor) => [factor, change])) : {},
      }
    }),
  }
}

/** A reading's occasion became its visit, its replicate its sample; a number has the measure it was typed in, where that was kept. */
export function upgradeRecord(record: Old): unknown {
  if (record.type !== 'reading') return record
  const { occasion, replicate, value, ...rest } = record
  const measured = value.kind === 'number' || value.kind === 'below limit'
  return { ...rest, visit: occasion, sample: replicate, value: measured ? { ...value, typedMeasure: null } : value }
}

/** Events of the old shape could not be turned back, and cannot now. */
export function upgradeEvent(event: Old): unknown {
  return { ...event, section: null, before: null, after: null, undoes: null }
}
