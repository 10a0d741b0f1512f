import { factorialTerms } from '../layout.ts'
import { weakest, type Evidence } from '../evidence.ts'
import type { TermResult, TestRow } from '../result.ts'
import type { At, Dependence, Difference } from './claim.ts'
import { differenceOf, limitsOf, pOf, signOf, strengthOf, type Source } from './size.ts'

/** Whether factors, or factors and sites, depend on each other: one claim a term, those that matter with what each does where. */
export function dependences(source: Source): Dependence[] {
  const { analysis } = source
  const found = analysis.tests.flatMap((test): Dependence[] => {
    const factors = test.term.split(':')
    const term = analysis.terms[test.term]
    if (factors.length < 2 || !Number.isFinite(test.p) || factors.some((key) => !analysis.vocabulary.factors[key])) return []
    // Of sites that are a sample, what differs between them is told from the model with these very sites.
    return [dependence(source, factors, term ?? null, test)]
  })
  return [...found.filter((each) => !insideAnother(each, found)), ...notAsked(source)]
}

/** A term whose factors are all in a larger one that matters is told there. */
function insideAnother(one: Dependence, all: readonly Dependence[]): boolean {
  return all.some(
    (other) =>
      other.strength === 'told' && other.factors.length > one.factors.length && one.factors.every((key) => other.factors.includes(key)),
  )
}

function dependence(source: Source, factors: readonly string[], term: TermResult | null, { f, p }: TestRow): Dependence {
  const { analysis } = source
  const acting = actingOf(source, factors)
  const seen = term ? effectsOf(source, term, acting) : []
  // What is told are differences at one level of the others: theirs is the evidence.
  const evidence: Evidence =
    seen.length > 0
      ? weakest(seen.map(({ evidence: kind, why }) => ({ kind, why })))
      : ((term ?? analysis.terms[factors.filter((key) => key !== 'site').join(':')])?.evidence ?? NOT_WORKED_OUT)
  const strength = strengthOf(p, analysis.significance, evidence)
  const effects = strength === 'told' || strength === 'narrow' ? seen : []
  const told = effects.filter((each) => each.strength === 'told')
  const turns = comparable(told) && new Set(waysOf(told)).size > 1
  return {
    kind: 'dependence',
    factors,
    acting,
    modifier: factors.filter((key) => key !== acting).join(':'),
    f,
    p,
    strength,
    effects,
    turns,
    notAsked: false,
    ownErrors: analysis.mixed?.errors?.key === 'by group',
    evidence: evidence.kind,
    why: evidence.why,
  }
}

/**
 * Which way each effect goes, so that one effect has one sign wherever it is read: up or down from what all
 * are held against, else by the order of the two levels.
 */
export function waysOf(effects: readonly Difference[]): number[] {
  if (new Set(effects.map((each) => each.against.levels[0])).size === 1) return effects.map(signOf)
  return effects.map((each) => (each.what.levels[0]!.localeCompare(each.against.levels[0]!) < 0 ? signOf(each) : -signOf(each)))
}

/** Whether effects can be called one: all against the same, or all of one pair. */
function comparable(effects: readonly Difference[]): boolean {
  return (
    new Set(effects.map((each) => each.against.levels[0])).size === 1 ||
    new Set(effects.map((each) => [each.what.levels[0], each.against.levels[0]].sort().join('|'))).size === 1
  )
}

/** The factor whose effect is told at the levels of the others: one with a control, with amounts, else what does most. */
function actingOf({ analysis }: Source, factors: readonly string[]): string {
  const { vocabulary, tests } = analysis
  const own = factors.filter((key) => vocabulary.factors[key]!.of === 'treatment')
  if (own.length === 0) return factors[0]!
  const rank = (key: string): number => (vocabulary.factors[key]!.control !== null ? 2 : vocabulary.factors[key]!.ladder ? 1 : 0)
  const f = (key: string): number => tests.find((each) => each.term === key)?.f || 0
  // Of two alike the first that was named, unless the other does far more.
  return own.reduce((a, b) => (rank(b) > rank(a) || (rank(b) === rank(a) && f(b) > FAR_MORE * f(a)) ? b : a))
}

const NOT_WORKED_OUT: Evidence = { kind: 'compare', why: 'means were not worked out' }
const FAR_MORE = 4

interface Cell {
  readonly level: string
  readonly mean: number
  readonly acting: string
  readonly rest: readonly At[]
}

/**
 * At each level of the others the widest difference the acting factor makes, against its control where it has
 * one; limits and p allow for all that were looked at (Bonferroni).
 */
function effectsOf(source: Source, term: TermResult, acting: string): Difference[] {
  const { analysis } = source
  const cells = term.means.map(({ level, mean }): Cell => {
    const levels = level.split(':')
    return {
      level,
      mean,
      acting: levels[term.factors.indexOf(acting)]!,
      rest: term.factors.flatMap((factor, f) => (factor === acting ? [] : [{ factor, level: levels[f]! }])),
    }
  })
  const groups = new Map<string, Cell[]>()
  for (const cell of cells) {
    const key = JSON.stringify(cell.rest)
    groups.set(key, [...(groups.get(key) ?? []), cell])
  }
  const { control, ladder } = analysis.vocabulary.factors[acting]!
  const base = control ?? (ladder ? ladder[0]! : null)
  const looked = [...groups.values()].map((own) => {
    const held = base !== null && own.some((cell) => cell.acting === base)
    const pairs = own.flatMap((a, i) =>
      (held ? own.filter((cell) => cell.acting === base && cell !== a) : own.slice(i + 1)).map((b): [Cell, Cell] => [a, b]),
    )
    return { held, rest: own[0]!.rest, pairs }
  })
  const m = looked.reduce((sum, each) => sum + each.pairs.length, 0)
  return looked.flatMap(({ held, rest, pairs }) => {
    if (pairs.length === 0) return []
    const apart = ([a, b]: [Cell, Cell]): number => Math.abs(a.mean - b.mean)
    const [a, b] = pairs.reduce((x, y) => (apart(y) > apart(x) ? y : x))
    const widest = source.pair(term.term, a.level, b.level)
    if (!widest || !(widest.sed > 0)) return []
    const claim = differenceOf(
      analysis,
      term.term,
      widest,
      limitsOf(widest, analysis.significance, m),
      pOf(widest, m),
      { origin: 'simple', at: rest, among: m, picked: pairs.length },
      !held,
    )
    const own = (level: string): string => level.split(':')[term.factors.indexOf(acting)]!
    const [what, against] = [claim.what, claim.against].map(({ levels }) => ({ term: acting, levels: levels.map(own) }))
    return [{ ...claim, what: what!, against: against! }]
  })
}

/** Crossings of factors that the model was asked to leave out. */
function notAsked({ analysis }: Source): Dependence[] {
  const { terms } = analysis.options
  const keys = Object.keys(analysis.vocabulary.factors).filter((key) => key !== 'site' && analysis.terms[key])
  if (!terms || keys.length < 2) return []
  const had = terms.map((term) => [...term].sort().join(':'))
  const lacking = factorialTerms(keys).filter(
    (term) => term.length === 2 && !had.some((each) => term.every((key) => each.split(':').includes(key))),
  )
  return lacking.map((factors) => ({
    kind: 'dependence',
    factors,
    acting: factors[0]!,
    modifier: factors[1]!,
    f: NaN,
    p: NaN,
    strength: 'described',
    effects: [],
    turns: false,
    notAsked: true,
    ownErrors: false,
    evidence: 'look',
    why: 'left out of the model, as asked',
  }))
}

/** Whether the average of a factor still means something: the same way, told apart, wherever it was looked at. */
export function averageHolds({ effects, turns, factors, acting, modifier }: Dependence, key: string): boolean {
  if (turns || effects.length === 0 || !factors.includes(key)) return false
  if (key !== acting || modifier.includes(':')) return false
  return effects.every((each) => each.strength === 'told') && new Set(waysOf(effects)).size === 1 && comparable(effects)
}
