import type { Supply } from '../trial/index.ts'
import type { Calculation } from './calculation/index.ts'

const LABEL_FIRST = 'The product label, local rules and licensed practice come first. Where they differ from this sheet, they hold.'

/** What anybody who weighs out and applies a fertiliser is told first. The label and local rules lead. */
export function applicationCautions(supply: Supply | null): string[] {
  if (!supply) return []
  const stated = (value: number | null, text: (value: number) => string, missing: string): string =>
    value === null ? missing : text(value)
  return [
    LABEL_FIRST,
    stated(
      supply.labelMaximumPerApplication,
      (v) => `Stated maximum per application: ${v} kg/ha of product.`,
      'Look up the label maximum per application: none is stated here.',
    ),
    stated(
      supply.labelMaximumPerSeason,
      (v) => `Stated maximum per season: ${v} kg/ha of product.`,
      'Look up the label maximum per season: none is stated here.',
    ),
    stated(supply.reentryHours, (v) => `Stay out for ${v} h after application.`, 'Look up the re-entry interval: none is stated here.'),
    stated(supply.preHarvestDays, (v) => `Leave ${v} days before harvest.`, 'Look up the interval before harvest: none is stated here.'),
    supply.protection ? `Wear: ${supply.protection}.` : 'Look up the protective equipment: none is stated here.',
    'Treat the untreated control first, then rising rates; clean the spreader between treatments.',
    'High rates can scorch leaves and seedlings and bring salt near the seed: never more on one spot than its plot should get.',
    'Keep out of water, ditches and neighbouring plots; not in wind that carries it. Do not work alone in great heat.',
  ]
}

/** What is told with a calculation: where something is put on by it, the label and local rules first. */
export function calculationCautions({ applies, cautions }: Pick<Calculation, 'applies' | 'cautions'>): string[] {
  return [...(applies ? [LABEL_FIRST, 'Look up on the label: the most that may be put on, when people may go back in, the days before harvest, and what to wear.'] : []), ...cautions] // prettier-ignore
}

/** Whether the mixing sheet may be printed, and if not, what to do. */
export function sheetRefusal(supply: Supply | null, overMaximum: readonly string[]): string | null {
  if (overMaximum.length === 0 || supply?.overMaximumReason) return null
  return `The sheet is not printed over a stated label maximum. Lower the rate, split it into more applications, or record why it is right here: ${overMaximum.join(' ')}`
}
