import { formatNumber, formatP, withUnit } from '../quantity/index.ts'
import type { Structure, Unit } from '../trial/index.ts'
import type { LayoutAnalysis } from './layout-result.ts'
import type { Evidence, EvidenceClass } from './evidence.ts'
import { levelOn, type LayoutStrata } from './layout-strata.ts'

/** What was dealt out in what, in words. */
export function wordsOf(structure: Structure, strata: LayoutStrata): string {
  const dealt = structure.factors.map(({ factor, appliedTo, within, how }) =>
    how === 'randomised'
      ? `${factor} was randomised to ${appliedTo}s${within ? ` within each ${within}` : ''}`
      : `${factor} was put on ${appliedTo}s (${how})`,
  )
  const taken = strata.units.filter((unit) => !strata.experimental.has(unit.name)).map((unit) => `${unit.name}s`)
  const errors = [...strata.experimental, strata.finest].map((kind) => `${kind}s`)
  return [
    `${dealt.join('; ')}.`,
    taken.length > 0 ? `Differences between ${taken.join(', ')} are taken out first.` : '',
    errors.length > 1
      ? `Each term is tested against the differences between the units it was applied to: ${errors.join(', ')}.`
      : `Terms are tested against the differences between ${errors[0]} treated alike.`,
  ]
    .filter(Boolean)
    .join(' ')
}

/** The class of a term's comparisons: that of its weakest factor. */
export function evidenceOfTerm(structure: Structure, units: readonly Unit[], term: readonly string[]): Evidence {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const order: EvidenceClass[] = ['look', 'compare', 'trial']
  return term
    .map((factor): Evidence => {
      const assignment = structure.factors.find((each) => each.factor === factor)
      const counts = new Map<string, number>()
      for (const unit of units) {
        if (unit.kind !== assignment?.appliedTo) continue
        const level = levelOn(unit, factor, index)
        if (level !== undefined) counts.set(level, (counts.get(level) ?? 0) + 1)
      }
      const least = Math.min(...counts.values())
      if (least < 2) return { kind: 'look', why: `a level of ${factor} stood on a single ${assignment?.appliedTo ?? 'unit'}` }
      if (assignment?.how !== 'randomised') return { kind: 'compare', why: `${factor} was repeated but not randomised` }
      return { kind: 'trial', why: `${factor} randomised, at least ${least} ${assignment.appliedTo}s of each level` }
    })
    .reduce((a, b) => (order.indexOf(b.kind) < order.indexOf(a.kind) ? b : a))
}

/** One sentence a term: what differed most and by how much, or what could have been missed. */
export function sentencesOf(analysis: Omit<LayoutAnalysis, 'sentences'>): string[] {
  if (analysis.kind === 'described') return ['The values are described; nothing was tested.']
  const amount = (value: number): string => withUnit(formatNumber(value, 2), analysis.trait.unit)
  const level = Math.round(100 * (1 - analysis.options.significance))
  return analysis.tests.flatMap((test) => {
    const pairs = analysis.pairs[test.term]
    if (!pairs || pairs.length === 0) return []
    const widest = pairs.reduce((a, b) => (Math.abs(b.difference) > Math.abs(a.difference) ? b : a))
    const [more, less] = widest.difference >= 0 ? [widest.a, widest.b] : [widest.b, widest.a]
    const size = Math.abs(widest.difference)
    const limits = `${level} % interval of this pair alone ${formatNumber(size - widest.lsd, 2)} to ${amount(size + widest.lsd)}`
    if (test.term.includes(':')) {
      return test.p < analysis.options.significance
        ? [
            `The effects of ${test.term.split(':').join(' and ')} depend on each other (p ${formatP(test.p)}): read them together, not their averages.`,
          ]
        : [
            `No sign that the effects of ${test.term.split(':').join(' and ')} depend on each other was seen (p ${formatP(test.p)}); that does not show that they do not.`,
          ]
    }
    return widest.p < analysis.options.significance
      ? [
          `${test.term}: ${more} had ${amount(size)} more ${analysis.trait.name} than ${less} (${limits}; ${analysis.options.method} p ${formatP(widest.p)}).`,
        ]
      : [
          `${test.term}: no two levels were told apart in ${analysis.trait.name}. The widest difference was ${amount(size)} (${more} less ${less}; ${limits}); one anywhere in that interval could have gone unseen.`,
        ]
  })
}
