import { APART, FIRST_IN_ORDER, ordersFor } from './constrained.ts'
import type { Design } from './design.ts'
import { combinations, commonProblems, controlsOf, kindsWith, letter, numberIn, settingOf, UnitMaker } from './units.ts'
import { countOf, crossingProblems, factorsBySize } from './sized.ts'
import { WATER_LINE } from './split-plot.ts'

type Marks = Record<string, string>

/** Split-split plots: three sizes of unit, each dealt out anew in the larger one (F. Yates, The Design and Analysis of Factorial Experiments, 1937). */
export const splitSplitPlot: Design = {
  key: 'split-split-plot',
  name: 'Split plots, split again',
  about:
    'One factor on main plots, one on subplots in them, the others on the plots inside. For water or tillage, then a variety or a date, then what is easy to change. The larger the unit, the fewer of them to judge by.',
  repeat: 'Blocks',
  dealt: 'Main plots dealt out by chance in each block, subplots anew in each main plot, plots anew in each subplot.',
  sizes: [
    { kind: 'main plot', name: 'main plots' },
    { kind: 'subplot', name: 'subplots in them' },
  ],
  everyFactorSized: false,
  settings: [WATER_LINE, APART, FIRST_IN_ORDER],

  problems(question) {
    const { sized, rest } = factorsBySize(question, ['main plot', 'subplot'])
    const found = [
      ...commonProblems(question, countOf(question.treatments.factors) * question.choice.replicates),
      ...crossingProblems(question, 'A plot split twice'),
    ]
    if (question.treatments.factors.length < 3)
      found.push('A plot split twice needs three things that are varied, one on each size of unit.')
    if (found.length === 0 && sized.some((each) => each.length === 0))
      found.push('Say which factor goes on the main plots, and which on the subplots.')
    if (found.length === 0 && rest.length === 0) found.push('Leave at least one factor for the plots inside the subplots.')
    return found
  },

  figures(question) {
    const { sized, rest } = factorsBySize(question, ['main plot', 'subplot'])
    const [a, b, c, r] = [countOf(sized[0]!), countOf(sized[1]!), countOf(rest), question.choice.replicates]
    return {
      units: a * b * c * r,
      times: question.treatments.list.map(() => r),
      errors: [
        { unit: 'main plot', df: (r - 1) * (a - 1), factors: sized[0]!.map((each) => each.key) },
        { unit: 'subplot', df: a * (r - 1) * (b - 1), factors: sized[1]!.map((each) => each.key) },
        { unit: question.choice.unit, df: a * b * (r - 1) * (c - 1), factors: rest.map((each) => each.key) },
      ],
      efficiency: 1,
    }
  },

  deal(request) {
    const { treatments, choice, seed } = request
    const { sized, rest } = factorsBySize(request, ['main plot', 'subplot'])
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const [larger, middle, inside] = [combinations(sized[0]!), combinations(sized[1]!), combinations(rest)]
    const blocks = ['block', choice.replicates] as const
    const mainPlots = ['main plot', larger.length] as const
    const mains = ordersFor<Marks>(request, [blocks], larger.length, 'main plot')
    const middles = ordersFor<Marks>(request, [blocks, mainPlots], middle.length, 'subplot')
    const insides = ordersFor<Marks>(request, [blocks, mainPlots, ['subplot', middle.length]], inside.length)
    const fixed = settingOf(request, WATER_LINE) === true
    for (let b = 1; b <= choice.replicates; b++) {
      const block = make.group('block', String(b), [site], { in: site.id, column: b - 1, row: null })
      let position = 0
      const order = fixed ? larger : mains.next(larger, b === 1)
      order.forEach((marks, m) => {
        const main = make.group('main plot', `${b}${letter(m + 1)}`, [block], { in: block.id, column: m, row: null }, marks)
        middles.next(middle, b === 1, Object.values(marks).join()).forEach((between, s) => {
          const sub = make.group('subplot', `${b}${letter(m + 1)}${s + 1}`, [main], { in: main.id, column: s, row: null }, between)
          insides
            .next(inside, b === 1, Object.values({ ...marks, ...between }).join())
            .forEach((own, i) =>
              make.treated(
                numberIn(b, ++position, larger.length * middle.length * inside.length),
                [sub],
                { in: sub.id, column: i, row: null },
                own,
              ),
            )
        })
      })
    }
    return {
      structure: {
        schema: 1,
        kinds: [
          { kind: 'site', in: [] },
          { kind: 'block', in: ['site'] },
          { kind: 'main plot', in: ['block'] },
          { kind: 'subplot', in: ['main plot'] },
          ...kindsWith(choice, ['subplot']),
        ],
        factors: treatments.factors.map((factor) => {
          if (sized[0]!.includes(factor))
            return { factor: factor.key, appliedTo: 'main plot', within: 'block', how: fixed ? 'not randomised' : mains.how }
          if (sized[1]!.includes(factor)) return { factor: factor.key, appliedTo: 'subplot', within: 'main plot', how: mains.how }
          return { factor: factor.key, appliedTo: choice.unit, within: 'subplot', how: mains.how }
        }),
        controls: controlsOf(treatments),
        seed,
      },
      units: make.units,
    }
  },
}
