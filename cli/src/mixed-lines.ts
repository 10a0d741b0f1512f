import type { Analysis, School } from '@canter/core/analysis'
import { formatNumber, formatP, plural } from '@canter/core/quantity'
import { columns } from './columns.ts'

/** Variances and what else stands in the covariance of a mixed model, with how it was fitted. */
export function mixedLines({ mixed, unit }: Analysis): string[] {
  if (!mixed) return []
  const { parameters, minusTwoLogLikelihood, aic, bic, likelihood, models, errorTest } = mixed
  const fixed = (value: number): string => value.toFixed(2)
  return [
    ...columns(
      ['chance', 'what', 'estimate', 's.e.', 'χ² without it', 'p'],
      parameters.map(({ name, kind, of, value, se, atBound, test }) => [
        of === 'residual' ? plural(unit) : of === 'random' && !name.includes(':') ? plural(name) : name,
        kind,
        formatNumber(value, 4),
        atBound ? 'at zero' : Number.isFinite(se) ? formatNumber(se, 3) : '',
        test ? formatNumber(test.chiSquared, 3) : '',
        test ? formatP(test.p) : '',
      ]),
    ),
    `${likelihood}: −2 log-likelihood ${fixed(minusTwoLogLikelihood)}, AIC ${fixed(aic)}, BIC ${fixed(bic)}`,
    ...(errorTest
      ? [`One error for all: χ² ${formatNumber(errorTest.chiSquared, 3)} on ${errorTest.df} df, p ${formatP(errorTest.p)}`]
      : []),
    '',
    ...(models.length > 0
      ? [
          ...columns(
            ['how errors go together', 'parameters', '−2 log-likelihood', 'AIC', ''],
            models.map((each) => [
              each.name,
              String(each.parameters),
              fixed(each.minusTwoLogLikelihood),
              fixed(each.aic),
              each.used ? 'used' : '',
            ]),
          ),
          '',
        ]
      : []),
  ]
}

/** Entries as a sample: each one's prediction, with the root of its prediction error variance. */
export function predictionLines({ mixed, options }: Analysis): string[] {
  const asked = (mixed?.predictions ?? []).filter(({ term }) =>
    options.random.some((each) => each.split(':').length === 1 && each === term),
  )
  if (asked.length === 0) return []
  const { estimate } = mixed!.mean
  return [
    ...columns(
      ['prediction', 'of', 'from the mean', 's.e.', 'predicted'],
      asked.map(({ term, level, effect, se }) => [
        level,
        term,
        formatNumber(effect, 3),
        formatNumber(se, 3),
        formatNumber(estimate + effect, 4),
      ]),
    ),
    '',
  ]
}

/** How entries go along with the sites. */
export function stabilityLines({ stability }: Analysis): string[] {
  return Object.entries(stability).flatMap(([term, { entries, agreement, interactionAxes }]) => [
    ...columns(
      [`${term} over sites`, 'mean', 'slope', 's.e.', 'p of slope 1', 'ecovalence, %', 'below the best'],
      entries.map((each) => [
        each.entry,
        formatNumber(each.mean, 4),
        formatNumber(each.slope, 3),
        formatNumber(each.slopeError, 2),
        formatP(each.p),
        formatNumber(each.ecovalenceShare, 3),
        formatNumber(each.superiority, 3),
      ]),
    ),
    `Sites rank them alike: W ${formatNumber(agreement.w, 2)} (0 not at all, 1 quite), p ${formatP(agreement.p)}`,
    `Axes of the interaction: ${interactionAxes
      .slice(0, 2)
      .map((axis, k) => `${k + 1}. ${formatNumber(axis.percent, 3)} %, p ${formatP(axis.p)}`)
      .join('; ')}`,
    '',
  ])
}

/** The answer the other way, where practitioners differ. */
export function schoolLines(schools: readonly School[]): string[] {
  return schools.flatMap((each) => [`Taken: ${each.taken}, since ${each.because}.`, `  ${each.sentence}`])
}
