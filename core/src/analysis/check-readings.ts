import { formatFixed, formatNumber, formatP } from '../quantity/index.ts'
import type { Analysis } from './result.ts'

/** One check of the residuals, for a reader who knows the ground better than the test. */
export interface CheckReading {
  readonly question: string
  readonly answer: string
  /** The test behind the answer. */
  readonly figure: string
  /** Whether it deserves a look. */
  readonly odd: boolean
}

/** Below this a check is called odd, and below a fifth of it plainly so: checks are many, and small data say little. */
const ODD = 0.05

/** What the residuals say of the model, check by check; those that could not be made are left out. */
export function checkReadings({ checks, unit }: Pick<Analysis, 'checks' | 'unit'>): CheckReading[] {
  const { normality, equalVariance, equalSiteErrors, nonAdditivity, outlier, influence, walk, neighbours, boxCox } = checks
  const asked = (question: string, p: number, odd: string, figure: string): CheckReading => ({
    question,
    answer: p >= ODD ? 'no sign of it' : p >= ODD / 5 ? `perhaps: ${odd}` : odd,
    figure,
    odd: p < ODD,
  })
  const readings: (CheckReading | null)[] = [
    normality &&
      asked(
        'Residuals far from the normal shape?',
        normality.p,
        'look at single values and at the scale',
        `Shapiro–Wilk W ${formatNumber(normality.w, 3)}, p ${formatP(normality.p)}`,
      ),
    equalVariance &&
      asked(
        'Do some treatments scatter more?',
        equalVariance.brownForsythe.p,
        'intervals are too narrow for those',
        `Brown–Forsythe p ${formatP(equalVariance.brownForsythe.p)}, Bartlett p ${formatP(equalVariance.bartlett.p)}`,
      ),
    equalSiteErrors &&
      asked(
        'Do sites differ in their error?',
        equalSiteErrors.p,
        'one error does not serve all',
        `Bartlett p ${formatP(equalSiteErrors.p)}`,
      ),
    nonAdditivity &&
      asked(
        'Do treatments act in proportion to the blocks?',
        nonAdditivity.p,
        'a log scale may serve',
        `one degree of freedom, p ${formatP(nonAdditivity.p)}`,
      ),
    outlier &&
      asked(
        `Does one ${unit} stand out?`,
        outlier.p,
        'look for a cause; the value alone is none',
        `${unit} ${outlier.unit}: t ${formatNumber(outlier.t, 3)}, p ${formatP(outlier.p)} for the largest of all`,
      ),
    influence && influence.cook > 1
      ? {
          question: `Does one ${unit} carry the answer?`,
          answer: `${unit} ${influence.unit} moves it a good deal`,
          figure: `Cook’s distance ${formatNumber(influence.cook, 2)}`,
          odd: true,
        }
      : null,
    neighbours &&
      asked(
        'A trend in the ground inside the blocks?',
        neighbours.p,
        neighbours.z > 0 ? 'neighbours are alike' : 'neighbours are unlike: do they compete?',
        `Moran’s I ${formatFixed(neighbours.i, 2)}, p ${formatP(neighbours.p)}`,
      ),
    walk &&
      asked(
        'A drift along the walk?',
        walk.p,
        walk.z > 0 ? 'in the ground, or in how values were taken' : 'values go up and down by turns',
        `lag-one correlation ${formatFixed(walk.r1, 2)}, p ${formatP(walk.p)}`,
      ),
    boxCox && {
      question: 'Would another scale fit better?',
      answer: boxCox.none.p >= ODD ? 'no sign of it' : boxCox.log.p >= ODD ? 'the logarithm would' : 'another power would',
      figure: `best power ${formatNumber(boxCox.lambda, 2)} (${formatNumber(boxCox.lower, 2)} to ${formatNumber(boxCox.upper, 2)}; 1 is as measured)`,
      odd: boxCox.none.p < ODD,
    },
  ]
  return readings.flatMap((each) => each ?? [])
}
