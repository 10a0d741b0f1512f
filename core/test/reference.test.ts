import { describe, expect, it } from 'vitest'
import { expectAgreement, referenceCase } from './fixture.ts'
import {
  compactLetters,
  designMatrix,
  fitLinear,
  marginalAnova,
  marginalMeans,
  partialAnova,
  sequentialAnova,
  studentizedRangeQuantile,
  dunnettQuantile,
  fUpperQuantile,
  tUpperQuantile,
  differenceFactor,
  varianceFactor,
  type AnovaRow,
  type Classification,
} from '../src/statistics/index.ts'
import { against, pairs } from './compare.ts'

/** The reference cases of one-way and randomised-block layouts, held to their own tolerances. */
function load(name: string) {
  const { rows, info, expected } = referenceCase(name)
  const kept = rows.filter((row) => row[info.response] !== '')
  const y = Float64Array.from(kept, (row) => Number(row[info.response]))
  const classify = (column: string): Classification => {
    const levels = info.levels[column] ?? [...new Set(kept.map((row) => row[column]!))].sort()
    return { name: column, levels, codes: Int32Array.from(kept, (row) => levels.indexOf(row[column]!)) }
  }
  return { info, expected, y, classify }
}

function allValues(name: string) {
  const { info, expected, y, classify } = load(name)
  const got = new Map<string, number | string>()
  const factor = info.factors[0]!
  const classes = [...(info.block ? [classify(info.block)] : []), classify(factor)]
  const terms = classes.map((each) => [each.name])
  const fit = fitLinear(designMatrix(classes, terms, y.length), y)
  const rows = (prefix: string, table: AnovaRow[], residual = fit) => {
    for (const each of [...table, residualRow(residual)]) {
      for (const key of ['df', 'ss', 'ms', 'f', 'p'] as const) got.set(`${prefix}.${each.term}.${key === 'f' ? 'F' : key}`, each[key])
    }
  }
  const sequential = sequentialAnova(fit)
  rows('anova', sequential)
  rows('typeI', sequential)
  const reversed = fitLinear(designMatrix(classes, [...terms].reverse(), y.length), y)
  rows('typeI_reversed', sequentialAnova(reversed), reversed)
  rows('typeII', marginalAnova(fit, y))
  rows('typeIII', partialAnova(fit, y))
  for (const key of ['df', 'ss', 'ms'] as const) got.set(`residual.${key}`, residualRow(fit)[key])
  const mean = y.reduce((s, v) => s + v, 0) / y.length
  got.set('grand.mean', mean)
  got.set('cv', (100 * Math.sqrt(fit.residualMs)) / mean)
  const total = y.reduce((s, v) => s + (v - mean) ** 2, 0)
  got.set('r2', 1 - fit.residualSs / total)
  const [block, treatment] = [sequential[0]!, sequential.at(-1)!]
  const [r, t] = [block.df + 1, treatment.df + 1]
  got.set('relative.efficiency', ((r - 1) * block.ms + r * (t - 1) * fit.residualMs) / ((r * t - 1) * fit.residualMs))

  const means = marginalMeans(fit, factor)
  const df = fit.residualDf
  const ms = fit.residualMs
  const critical = tUpperQuantile(0.025, df)
  got.set('critical.t', critical)
  got.set('critical.tukey.q', studentizedRangeQuantile(0.05, means.length, df))
  means.forEach((each) => {
    const se = Math.sqrt(ms * varianceFactor(each))
    const at = `emm.${factor}.${each.level}`
    got.set(`${at}.mean`, each.estimate).set(`${at}.se`, se).set(`${at}.df`, df)
    got.set(`${at}.lower`, each.estimate - critical * se).set(`${at}.upper`, each.estimate + critical * se)
    got.set(`mean.${each.level}`, each.estimate).set(`n.${each.level}`, each.n).set(`${factor}.${each.level}.n`, each.n)
  })
  const lsd = pairs(means, ms, df, 'lsd')
  const tukey = pairs(means, ms, df, 'tukey')
  lsd.forEach((pair, i) => {
    const name_ = `${means[pair.a]!.level}-${means[pair.b]!.level}`
    for (const at of [`pair.${factor}.${name_}`, `pair.${name_}`]) {
      got.set(`${at}.diff`, pair.difference).set(`${at}.sed`, pair.sed).set(`${at}.df`, df).set(`${at}.t`, pair.t)
      got.set(`${at}.p`, pair.p).set(`${at}.p.unadjusted`, pair.p).set(`${at}.lsd`, pair.threshold)
      got.set(`${at}.p.tukey`, tukey[i]!.p).set(`${at}.hsd`, tukey[i]!.threshold)
      got.set(`${at}.tukey.lower`, tukey[i]!.lower).set(`${at}.tukey.upper`, tukey[i]!.upper)
    }
  })
  const more = {
    scheffe: 'scheffe',
    bonferroni: 'bonferroni',
    holm: 'holm',
    sidak: 'sidak',
    bh: 'benjamini-hochberg',
    snk: 'student-newman-keuls',
  } as const
  for (const [key, method] of Object.entries(more)) {
    for (const pair of pairs(means, ms, df, method))
      got
        .set(`pair.${means[pair.a]!.level}-${means[pair.b]!.level}.p.${key}`, pair.p)
        .set(`pair.${factor}.${means[pair.a]!.level}-${means[pair.b]!.level}.p.${key}`, pair.p)
  }
  got.set('critical.scheffe', Math.sqrt((means.length - 1) * fUpperQuantile(0.05, means.length - 1, df)))
  got.set('critical.bonferroni.t', tUpperQuantile(0.025 / lsd.length, df))
  for (let r = 2; r <= means.length; r++) got.set(`critical.snk.q.${r}`, studentizedRangeQuantile(0.05, r, df))
  for (const [i, level] of classes.at(-1)!.levels.entries()) {
    const own = [...y].filter((_, at) => classes.at(-1)!.codes[at] === i)
    const centre = own.reduce((total, each) => total + each, 0) / own.length
    got.set(`${factor}.${level}.sd`, Math.sqrt(own.reduce((total, each) => total + (each - centre) ** 2, 0) / (own.length - 1)))
  }
  const seds = lsd.map((pair) => pair.sed)
  const average = (of: number[]) => of.reduce((s, v) => s + v, 0) / of.length
  got
    .set(`sed.${factor}.mean`, average(seds))
    .set(`sed.${factor}.min`, Math.min(...seds))
    .set(`sed.${factor}.max`, Math.max(...seds))
  got.set(`lsd.${factor}.mean`, average(lsd.map((pair) => pair.threshold)))
  if (info.control) {
    const control = means.findIndex((each) => each.level === info.control!.level)
    const base = means[control]!
    for (const each of against(means, control, ms, df)) {
      const at = `dunnett.${means[each.a]!.level}-${base.level}`
      got.set(`${at}.diff`, each.difference).set(`${at}.t`, each.t).set(`${at}.p`, each.p)
      got.set(`${at}.lower`, each.lower).set(`${at}.upper`, each.upper)
    }
    const lambda = means.filter((_, i) => i !== control).map((each) => Math.sqrt(each.n / (each.n + base.n)))
    got.set('critical.dunnett', dunnettQuantile(0.05, lambda, df))
    const order = means.map((_, i) => i).sort((a, b) => means[b]!.estimate - means[a]!.estimate)
    for (const [method, table] of [
      ['lsd', lsd],
      ['tukey', tukey],
    ] as const) {
      const letters = compactLetters(order, (a, b) => table.find((p) => p.a === Math.min(a, b) && p.b === Math.max(a, b))!.p < 0.05)!
      means.forEach((each, i) => got.set(`letters.${method}.${each.level}`, letters[i]!))
    }
  }
  expect(differenceFactor(means[0]!, means[0]!)).toBe(0)
  return { got, expected }
}

function residualRow(fit: { residualDf: number; residualSs: number; residualMs: number }): AnovaRow {
  return { term: 'residual', df: fit.residualDf, ss: fit.residualSs, ms: fit.residualMs, f: NaN, p: NaN }
}

describe.each([
  ['crd-plantgrowth', 40],
  ['rcbd-oat-screening', 270],
  ['rcbd-missing-oat', 250],
  ['multiple-comparisons-balanced-lavender', 200],
  ['multiple-comparisons-unbalanced-lavender', 150],
])('reference case %s', (name, least) => {
  it('agrees in every value at the tolerance of the case', () => {
    const { got, expected } = allValues(name)
    expectAgreement(expected, got)
    expect(expected.length).toBeGreaterThanOrEqual(least)
  })
})
