import type { Product } from '../trial/index.ts'
import type { Calculation } from './calculation/index.ts'

const LABEL_FIRST = 'The product label, local rules and licensed practice come first. Where they differ from this sheet, they hold.'

/** What anybody who measures out and applies something is told first. The label and local rules lead. */
export function applicationCautions(products: readonly Product[]): string[] {
  const many = products.length > 1
  const stated = (product: Product, value: number | null, text: (value: number) => string, missing: string): string =>
    `${many ? `${product.product}: ` : ''}${value === null ? missing : text(value)}`
  const ofLabel = products.flatMap((product) => {
    if (product.form === 'water' || product.form === 'seed') return []
    const measure = product.labelMeasure ?? 'kg/ha'
    const protection = product.protection ? `wear ${product.protection}` : 'look up the protective equipment: none is stated here'
    return [
      stated(product, product.labelMaximumPerApplication, (v) => `Stated maximum per application: ${v} ${measure} of product.`, 'Look up the label maximum per application: none is stated here.'), // prettier-ignore
      stated(product, product.labelMaximumPerSeason, (v) => `Stated maximum per season: ${v} ${measure} of product.`, 'Look up the label maximum per season: none is stated here.'), // prettier-ignore
      stated(
        product,
        product.reentryHours,
        (v) => `Stay out for ${v} h after application.`,
        'Look up the re-entry interval: none is stated here.',
      ),
      stated(product, product.preHarvestDays, (v) => `Leave ${v} days before harvest.`, 'Look up the interval before harvest: none is stated here.'), // prettier-ignore
      many ? `${product.product}: ${protection}.` : `${protection.charAt(0).toUpperCase()}${protection.slice(1)}.`,
    ]
  })
  // Of water and seed alone nothing of what follows is to be minded; what is says the way they are put on.
  if (products.length > 0 && products.every(({ form }) => form === 'water' || form === 'seed')) return [LABEL_FIRST]
  return [
    LABEL_FIRST,
    ...ofLabel,
    'Treat the untreated control first, then rising rates; clean what you spread or spray with between treatments.',
    'High rates can scorch leaves and seedlings and bring salt near the seed: never more on one spot than its plot should get.',
    'Keep out of water, ditches and neighbouring plots; not in wind that carries it. Do not work alone in great heat.',
  ]
}

/** What is told with a calculation: where something is put on by it, the label and local rules first. */
export function calculationCautions({ applies, cautions }: Pick<Calculation, 'applies' | 'cautions'>): string[] {
  return [...(applies ? [LABEL_FIRST, 'Look up on the label: the most that may be put on, when people may go back in, the days before harvest, and what to wear.'] : []), ...cautions] // prettier-ignore
}

/** Whether a sheet may be printed, and if not, what to do: every stop needs a reason on record; these have none. */
export function sheetRefusal(stops: readonly string[]): string | null {
  if (stops.length === 0) return null
  return `The sheet is not printed yet. Put it right (a lower rate, more passes, another day, the label looked up), or record why it is right here: ${stops.join(' ')}`
}
