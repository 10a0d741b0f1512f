import { APART, FIRST_IN_ORDER, ordersFor } from './constrained.ts'
import type { Design, DesignSetting } from './design.ts'
import { combinations, commonProblems, controlsOf, kindsWith, letter, numberIn, settingOf, UnitMaker } from './units.ts'
import { countOf, crossingProblems, factorsBySize } from './sized.ts'

/** Main plots that cannot be dealt out, since the line lies where it lies. */
export const WATER_LINE: DesignSetting = {
  key: 'fixedMain',
  name: 'Main plots in the order listed, in every block',
  kind: 'yes',
  about: 'For a water line or a slope that cannot be moved. What is on main plots is then not randomised, and only described.',
  usual: () => false,
}

/**
 * Split plots: what cannot be changed often (irrigation, planting date, tillage) on main plots,
 * dealt out in each block; the rest on the plots inside, dealt out anew in each main plot
 * (F. Yates, J. Roy. Stat. Soc. Suppl. 2, 1935).
 */
export const splitPlot: Design = {
  key: 'split-plot',
  name: 'Split plots',
  about:
    'One factor on large main plots, the others inside them. For what cannot be changed often: irrigation, planting date, tillage. The factor on main plots is judged by few of them, and less sharply.',
  repeat: 'Blocks',
  dealt: 'Main plots dealt out by chance in each block, and the plots inside anew in each main plot.',
  sizes: [{ kind: 'main plot', name: 'main plots' }],
  everyFactorSized: false,
  settings: [WATER_LINE, APART, FIRST_IN_ORDER],

  problems(question) {
    const { sized, rest } = factorsBySize(question, ['main plot'])
    const found = [
      ...commonProblems(question, countOf(question.treatments.factors) * question.choice.replicates),
      ...crossingProblems(question, 'A split-plot'),
    ]
    if (found.length === 0 && sized[0]!.length === 0) found.push('Say which factor goes on the main plots.')
    if (found.length === 0 && rest.length === 0) found.push('Leave at least one factor for the plots inside the main plots.')
    return found
  },

  figures(question) {
    const { sized, rest } = factorsBySize(question, ['main plot'])
    const [a, b, r] = [countOf(sized[0]!), countOf(rest), question.choice.replicates]
    return {
      units: a * b * r,
      times: question.treatments.list.map(() => r),
      errors: [
        { unit: 'main plot', df: (r - 1) * (a - 1), factors: sized[0]!.map((each) => each.key) },
        { unit: question.choice.unit, df: a * (r - 1) * (b - 1), factors: rest.map((each) => each.key) },
      ],
      efficiency: 1,
    }
  },

  deal(request) {
    const { treatments, choice, seed } = request
    const { sized, rest } = factorsBySize(request, ['main plot'])
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const [larger, inside] = [combinations(sized[0]!), combinations(rest)]
    const blocks = ['block', choice.replicates] as const
    const mains = ordersFor<Record<string, string>>(request, [blocks], larger.length, 'main plot')
    const insides = ordersFor<Record<string, string>>(request, [blocks, ['main plot', larger.length]], inside.length)
    const perBlock = larger.length * inside.length
    for (let b = 1; b <= choice.replicates; b++) {
      const block = make.group('block', String(b), [site], { in: site.id, column: b - 1, row: null })
      // Where main plots lie along a water line, what is nearest to it is so in every block.
      const order = settingOf(request, WATER_LINE) === true ? larger : mains.next(larger, b === 1)
      order.forEach((marks, m) => {
        const main = make.group('main plot', `${b}${letter(m + 1)}`, [block], { in: block.id, column: m, row: null }, marks)
        insides
          .next(inside, b === 1, Object.values(marks).join())
          .forEach((own, i) =>
            make.treated(numberIn(b, m * inside.length + i + 1, perBlock), [main], { in: main.id, column: i, row: null }, own),
          )
      })
    }
    return {
      structure: {
        schema: 1,
        kinds: [
          { kind: 'site', in: [] },
          { kind: 'block', in: ['site'] },
          { kind: 'main plot', in: ['block'] },
          ...kindsWith(choice, ['main plot']),
        ],
        factors: treatments.factors.map((factor) =>
          sized[0]!.includes(factor)
            ? {
                factor: factor.key,
                appliedTo: 'main plot',
                within: 'block',
                how: settingOf(request, WATER_LINE) === true ? 'not randomised' : mains.how,
              }
            : { factor: factor.key, appliedTo: choice.unit, within: 'main plot', how: insides.how },
        ),
        controls: controlsOf(treatments),
        seed,
      },
      units: make.units,
    }
  },
}
