import { APART, FIRST_IN_ORDER, ordersFor } from './constrained.ts'
import type { Design } from './design.ts'
import { combinations, commonProblems, controlsOf, kindsWith, letter, numberIn, UnitMaker } from './units.ts'
import { countOf, crossingProblems, factorsBySize } from './sized.ts'

/**
 * Strip plots: one factor in strips along each block, another in strips across it, each dealt
 * out anew in every block; they meet in the plots.
 */
export const stripPlot: Design = {
  key: 'strip-plot',
  name: 'Crossing strips',
  about:
    'One factor in strips along each block, the other in strips across it. For two things that both need a machine’s width. How they act together is judged sharply, each alone less so.',
  repeat: 'Blocks',
  dealt: 'Strips along and strips across dealt out by chance, anew in each block.',
  sizes: [
    { kind: 'row', name: 'strips along (rows)' },
    { kind: 'column', name: 'strips across (columns)' },
  ],
  everyFactorSized: true,
  settings: [APART, FIRST_IN_ORDER],

  problems(question) {
    const { sized, rest } = factorsBySize(question, ['row', 'column'])
    const found = [
      ...commonProblems(question, countOf(question.treatments.factors) * question.choice.replicates),
      ...crossingProblems(question, 'Crossing strips'),
    ]
    if (found.length === 0 && (sized[0]!.length === 0 || sized[1]!.length === 0))
      found.push('Put at least one factor on the strips along and one on the strips across.')
    if (found.length === 0 && rest.length > 0) found.push(`Say on which strips ${rest.map((each) => each.name).join(' and ')} goes.`)
    return found
  },

  figures(question) {
    const { sized } = factorsBySize(question, ['row', 'column'])
    const [a, b, r] = [countOf(sized[0]!), countOf(sized[1]!), question.choice.replicates]
    return {
      units: a * b * r,
      times: question.treatments.list.map(() => r),
      errors: [
        { unit: 'row', df: (r - 1) * (a - 1), factors: sized[0]!.map((each) => each.key) },
        { unit: 'column', df: (r - 1) * (b - 1), factors: sized[1]!.map((each) => each.key) },
        { unit: question.choice.unit, df: (r - 1) * (a - 1) * (b - 1), factors: [] },
      ],
      efficiency: 1,
    }
  },

  deal(request) {
    const { treatments, choice, seed } = request
    const { sized } = factorsBySize(request, ['row', 'column'])
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const [along, across] = sized.map(combinations) as [Record<string, string>[], Record<string, string>[]]
    const blocks = ['block', choice.replicates] as const
    const alongs = ordersFor<Record<string, string>>(request, [blocks], along.length, 'row')
    const acrosses = ordersFor<Record<string, string>>(request, [blocks], across.length, 'column')
    for (let b = 1; b <= choice.replicates; b++) {
      const block = make.group('block', String(b), [site], { in: site.id, column: b - 1, row: null })
      const rows = alongs.next(along, b === 1).map((marks, r) => make.group('row', `${b} row ${r + 1}`, [block], null, marks))
      const columns = acrosses
        .next(across, b === 1)
        .map((marks, c) => make.group('column', `${b} column ${letter(c + 1)}`, [block], null, marks))
      rows.forEach((row, r) =>
        columns.forEach((column, c) =>
          make.treated(
            numberIn(b, r * columns.length + c + 1, rows.length * columns.length),
            [row, column],
            { in: block.id, column: c, row: r },
            {},
          ),
        ),
      )
    }
    return {
      structure: {
        schema: 1,
        kinds: [
          { kind: 'site', in: [] },
          { kind: 'block', in: ['site'] },
          { kind: 'row', in: ['block'] },
          { kind: 'column', in: ['block'] },
          ...kindsWith(choice, ['row', 'column']),
        ],
        factors: treatments.factors.map((factor) => ({
          factor: factor.key,
          appliedTo: sized[0]!.includes(factor) ? ('row' as const) : ('column' as const),
          within: 'block',
          how: alongs.how,
        })),
        controls: controlsOf(treatments),
        seed,
      },
      units: make.units,
    }
  },
}
