import { isCrossing, type Factor } from '../trial/index.ts'
import type { DesignQuestion } from './design.ts'

/** Factors by the kind of unit they are put on; what is put on none goes on the treated unit. */
export function factorsBySize({ treatments, choice }: DesignQuestion, kinds: readonly string[]): { sized: Factor[][]; rest: Factor[] } {
  const on = (kind: string): Factor[] => treatments.factors.filter((factor) => (choice.placed[kind] ?? []).includes(factor.key))
  const sized = kinds.map(on)
  return { sized, rest: treatments.factors.filter((factor) => !sized.some((each) => each.includes(factor))) }
}

export function countOf(factors: readonly Factor[]): number {
  return factors.reduce((product, factor) => product * factor.levels.length, 1)
}

/** What units of several sizes need of the treatments. */
export function crossingProblems({ treatments }: DesignQuestion, name: string): string[] {
  if (treatments.factors.length < 2) return [`${name} needs at least two things that are varied, one on each size of unit.`]
  if (treatments.factors.some((factor) => factor.levels.length < 2)) return ['Give every factor at least two levels.']
  return isCrossing(treatments)
    ? []
    : [`${name} needs every combination of the levels, and nothing outside them: add the combinations that were dropped, or take blocks.`]
}
