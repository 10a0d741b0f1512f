import { formatP } from '../quantity/index.ts'
import type { Strength } from './claims/claim.ts'
import { strengthOf } from './claims/size.ts'
import type { AnalysedFactor } from './request.ts'
import type { Analysis } from './result.ts'
import { listed, termCalled } from './words.ts'

/** How the conclusions of one answer stand beside those of another. */
export interface Turned {
  readonly changes: boolean
  /** By term tested in both. */
  readonly tests: readonly { readonly term: string; readonly p: number; readonly otherP: number }[]
  /** In words that go on after “With …,”. */
  readonly words: string
}

/** What would be concluded otherwise from another analysis of the same. What is borderline either way turns nothing. */
export function turnedBy(answer: Analysis, other: Analysis, factors: readonly AnalysedFactor[]): Turned {
  const { significance } = answer
  const tests = answer.tests.flatMap(({ term, p }) => {
    const there = other.tests.find((test) => test.term === term)
    const isTreatment = Object.keys(answer.terms).includes(term) && !term.startsWith('site:')
    return there && isTreatment ? [{ term, p, otherP: there.p }] : []
  })
  const side = (p: number): Strength => strengthOf(p, significance, { kind: 'trial', why: '' })
  const sides = (p: number, otherP: number): Set<Strength> => new Set([side(p), side(otherP)])
  const turned = tests.filter(({ p, otherP }) => sides(p, otherP).has('told') && sides(p, otherP).has('open'))
  const [own, others] = [toldApart(answer), toldApart(other)]
  const lost = [...own.told].filter((each) => !others.told.has(each) && !others.near.has(each)).length
  const gained = [...others.told].filter((each) => !own.told.has(each) && !own.near.has(each)).length
  const settled = [...others.told].filter((each) => own.near.has(each)).length
  const changes = turned.length > 0 || lost > 0 || gained > 0
  const terms = turned.map(({ term, p, otherP }) => `${termCalled(factors, term.split(':'))} ${otherP < significance ? 'becomes' : 'is no longer'} significant (p ${formatP(otherP)}, not ${formatP(p)})`) // prettier-ignore
  const counted = `${others.told.size} of ${others.all}${others.told.size === own.told.size ? ', as before' : `, not ${own.told.size}`}`
  const comparisons = (n: number): string => `${n} comparison${n === 1 ? ' is' : 's are'}`
  // What was borderline is neither lost nor gained, and counts all the same.
  const cleared = settled > 0 ? `${settled} that ${settled === 1 ? 'was' : 'were'} borderline` : ''
  const gains = [
    gained > 0 ? `${gained} ${gained === 1 ? 'other is' : 'others are'}` : '',
    cleared && `${cleared} ${settled === 1 ? 'is' : 'are'}`,
  ]
  const apart =
    lost > 0
      ? `${[`${comparisons(lost)} no longer told apart`, ...gains.filter(Boolean)].join(', and ')} (${counted})`
      : gained > 0
        ? `${gained} more ${gained === 1 ? 'comparison is' : 'comparisons are'} told apart (${counted})`
        : ''
  const words = changes
    ? listed([...terms, apart].filter(Boolean))
    : `the conclusions stand: the same comparisons are told apart (${own.told.size} of ${own.all})${others.told.size === own.told.size ? '' : ', but for what is borderline'}`
  return { changes, tests, words }
}

/** Comparisons of treatments over all that the first method tells apart, and which way; and those that are borderline. */
function toldApart({ terms, significance }: Analysis): { told: ReadonlySet<string>; near: ReadonlySet<string>; all: number } {
  const rows = Object.values(terms)
    .filter((term) => !term.factors.includes('site'))
    .flatMap((term) =>
      (Object.values(term.comparisons)[0] ?? []).map((row) => ({
        strength: strengthOf(row.p, significance, row.evidence),
        key: `${term.term} ${row.a} ${row.b} ${Math.sign(row.difference)}`,
      })),
    )
  const of = (strength: Strength): ReadonlySet<string> => new Set(rows.filter((row) => row.strength === strength).map((row) => row.key))
  return { told: of('told'), near: of('narrow'), all: rows.length }
}
