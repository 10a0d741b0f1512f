import type { Treatment, Treatments } from '../trial/index.ts'
import type { TermResult } from './result.ts'

/** The one factor of treatments that are not all combinations of their levels: some dropped, or some outside. */
export const WHOLE = 'treatment'

/** The term in which each treatment has a level of its own, if there is one. */
export function wholeTerm(terms: Readonly<Record<string, TermResult>>, { factors }: Pick<Treatments, 'factors'>): TermResult | undefined {
  const own = new Set(factors.map((factor) => factor.key))
  const whole = Object.values(terms).filter(({ factors: [first, ...rest] }) => first === WHOLE && rest.every((key) => own.has(key)))
  // Where something is varied on halves of plots, whole treatments and that together.
  const fullest = whole.sort((a, b) => b.factors.length - a.factors.length)[0]
  return fullest ?? terms[factors.map((factor) => factor.key).join(':')]
}

/** The level of such a term that a treatment has. */
export function levelInWhole(
  { factors: ofTerm }: Pick<TermResult, 'factors'>,
  treatment: Treatment,
  { factors }: Pick<Treatments, 'factors'>,
): string {
  return ofTerm.map((key) => (key === WHOLE ? beforeHalves(treatment.key, factors, ofTerm) : treatment.levels[key])).join(':')
}

/** The treatment that was on the whole plot before these factors were varied on its halves. */
export function beforeHalves(treatment: string, factors: Treatments['factors'], varied: readonly string[]): string {
  return factors.reduceRight((found, each) => (varied.includes(each.key) ? (each.drawn?.from[found] ?? found) : found), treatment)
}
