import { given, times, workedProduct, type Worked } from '../quantity/index.ts'
import { nutrientOf, type Actual, type Amounts, type Factor, type Level, type Treatments } from '../trial/index.ts'
import { byOwnAmount, dosesOf, recipientsOf } from './doses.ts'

/** What a level was to get and what really went out, where that is on record. */
export interface ActualRate {
  readonly factor: Factor
  readonly level: Level
  readonly planned: Worked
  readonly actual: Worked
  /** Off the plan, %. */
  readonly deviation: number
}

type WithActual = Pick<Amounts, 'supply' | 'doses' | 'actual'>

/**
 * Rates as they went out at some sites: of each level of a factor whose own amounts are put on, the mean over
 * the sites, what is not on record taken as planned. Only levels of which something is on record.
 */
export function actualRates(treatments: Treatments, amounts: WithActual, sites: readonly string[]): ActualRate[] {
  const records = (amounts.actual ?? []).filter((each) => sites.includes(each.site))
  return dosesOf(treatments, amounts).flatMap((dose) => {
    const own = records.filter((each) => each.dose === dose.key)
    if (own.length === 0 || !byOwnAmount(dose)) return []
    return recipientsOf(dose, treatments).flatMap(({ factor, level, amount }): ActualRate[] => {
      if (!factor || !level || amount === 0) return []
      const mine = own.filter((each) => each.level === null || each.level === level.key)
      if (mine.length === 0) return []
      const share = sites.reduce((sum, site) => sum + shareAt(mine, site, dose.parts), 0) / sites.length
      const planned = given('Planned', amount, dose.measure, nutrientOf(factor) ?? undefined)
      const actual = workedProduct(
        'As it went out',
        dose.measure,
        [times(planned), times(given('Of what was planned', share, '%'))],
        nutrientOf(factor) ?? undefined,
      )
      return [{ factor, level, planned, actual, deviation: share - 100 }]
    })
  })
}

/** Of the whole season's amount at one site, %; what was said of one level alone holds before what was said of all. */
function shareAt(records: readonly Actual[], site: string, parts: readonly { readonly share: number }[]): number {
  return parts.reduce((sum, part, i) => {
    const own = records.filter((each) => each.site === site && each.part === i)
    const found = own.findLast((each) => each.level !== null) ?? own.at(-1)
    return sum + (part.share * (found?.share ?? 100)) / 100
  }, 0)
}

/** A trial with its rates as they went out at some sites; itself where nothing is on record. */
export function asWentOut<Of extends { readonly treatments: Treatments; readonly amounts: WithActual }>(
  trial: Of,
  sites: readonly string[],
): Of {
  const rates = actualRates(trial.treatments, trial.amounts, sites)
  return rates.length === 0 ? trial : { ...trial, treatments: withActualRates(trial.treatments, rates) }
}

/** The same treatments with their levels at the rates that went out: what follows from amounts follows those then. */
function withActualRates(treatments: Treatments, rates: readonly ActualRate[]): Treatments {
  const of = new Map(rates.map((rate) => [`${rate.factor.key}:${rate.level.key}`, rate.actual.value]))
  return {
    ...treatments,
    factors: treatments.factors.map((factor) => ({
      ...factor,
      levels: factor.levels.map((level) => ({ ...level, amount: of.get(`${factor.key}:${level.key}`) ?? level.amount })),
    })),
  }
}

/** Tank or hopper filled and left against what was calibrated for the ground that was covered: the share that went out, %. */
export function emptiedShare(filled: number, left: number, planned: number): number | null {
  return planned > 0 && filled >= left ? (100 * (filled - left)) / planned : null
}

/** Calibration and emptied tank may differ by so much, %, before it is asked which is right. */
const CONTRADICTION = 10

/** What is asked where calibration and what was emptied say different things; null where they agree. */
export function contradiction(calibrated: number, emptied: number): string | null {
  return Math.abs(calibrated - emptied) <= CONTRADICTION
    ? null
    : `Calibrated it was ${calibrated.toFixed(0)} % of the plan, by what was emptied ${emptied.toFixed(0)} %: a nozzle that blocked, a pass too many, or a figure misread? Say which is right, or that it is not known.` // prettier-ignore
}
