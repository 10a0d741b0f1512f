import { describe, expect, it } from 'vitest'
import { crossed } from '../src/statistics/index.ts'
import { FACTORIAL, fitted, grown, likelihood, told, valuesOf } from './mixed-case.ts'

describe('variance components by REML agree with the reference cases', () => {
  it('split plots with lost subplots, blocks random or fixed', () => {
    const { expected, y, column } = grown('split-plot-missing-barley')
    const [block, variety, nitrogen] = [column('block'), column('variety'), column('nitrogen')]
    const main = crossed('block:variety', [block, variety])
    const terms = FACTORIAL
    const got = valuesOf(fitted(y, [variety, nitrogen], terms, [block, main]), ['block', 'block:variety'])
    got.set('reml.minus2loglik', likelihood(y, [variety, nitrogen], terms, [block, main]))
    const fixed = [['block'], ...terms]
    for (const [name, value] of valuesOf(fitted(y, [block, variety, nitrogen], fixed, [main]), ['block:variety'], 'blocksfixed.'))
      got.set(name, value)
    got.set('blocksfixed.reml.minus2loglik', likelihood(y, [block, variety, nitrogen], fixed, [main]))
    expect(told(expected, got, /./)).toBeGreaterThan(600)
  })

  it('a variance at zero is at zero: of Kenward and Roger a parameter still, of Satterthwaite none', () => {
    const { expected, y, column } = grown('split-plot-singular')
    const [block, variety, nitrogen] = [column('block'), column('variety'), column('nitrogen')]
    const main = crossed('block:variety', [block, variety])
    const terms = FACTORIAL
    const of = fitted(y, [variety, nitrogen], terms, [block, main])
    expect(of.fit.bounded).toEqual([false, true, false])
    const got = valuesOf(of, ['block', 'block:variety'])
    for (const [name, value] of [...got]) if (name.includes('.kr.')) got.set(`zerokept.${name}`, value)
    got.set('reml.minus2loglik', likelihood(y, [variety, nitrogen], terms, [block, main]))
    expect(told(expected, got, /^(varcomp\.(?!anova)|reml|anova\.sat|emm|pair|zerokept)/)).toBeGreaterThan(60)
  })

  it('small blocks of an alpha-lattice, with what is known between blocks', () => {
    const { expected, y, column } = grown('alpha-lattice-oat')
    const [rep, entry] = [column('rep'), column('entry')]
    const block = crossed('rep:block', [rep, column('block')])
    const terms = [['rep'], ['entry']]
    const got = valuesOf(fitted(y, [rep, entry], terms, [block]), ['rep:block'])
    got.set('reml.minus2loglik', likelihood(y, [rep, entry], terms, [block]))
    expect(told(expected, got, /^(varcomp|reml|anova|emm|sed|pair)/)).toBeGreaterThan(100)
  })
})
