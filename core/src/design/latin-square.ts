import type { UnitKind } from '../trial/index.ts'
import type { Design } from './design.ts'
import { shuffled } from './random.ts'
import { commonProblems, controlsOf, kindsWith, marksFor, numberIn, UnitMaker } from './units.ts'

/**
 * Latin squares: every treatment once in every row and once in every column. The cyclic square
 * with its rows, columns and treatments each put in random order (F. Yates, Emp. J. Exp. Agric. 1,
 * 1933); several squares are dealt out anew each.
 */
export const latinSquare: Design = {
  key: 'latin-square',
  name: 'Latin square',
  about:
    'Every treatment once in every row and once in every column. For ground that changes two ways at once, and a bench with light from one side and heat from another; as many replicates as treatments.',
  repeat: 'Squares',
  dealt: 'Every treatment once in each row and once in each column, rows, columns and treatments put in order by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [],

  problems(question) {
    const { list } = question.treatments
    const found = commonProblems(question, list.length ** 2 * question.choice.replicates)
    if (list.length === 2 && question.choice.replicates < 2)
      found.push('Two treatments in one square leave nothing to judge chance by: take more squares, or blocks.')
    if (list.length > 12)
      found.push(`A square of ${list.length} treatments is ${list.length} × ${list.length} units; take blocks, or at most 12 treatments.`)
    return found
  },

  figures({ treatments: { list, factors }, choice }) {
    const t = list.length - 1
    return {
      units: list.length ** 2 * choice.replicates,
      times: list.map(() => list.length * choice.replicates),
      errors: [{ unit: choice.unit, df: t * (choice.replicates * t - 1), factors: factors.map((each) => each.key) }],
      efficiency: 1,
    }
  },

  deal(request) {
    const { treatments, choice, chance, seed } = request
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const t = treatments.list.length
    const several = choice.replicates > 1
    const order = [...treatments.list.keys()]
    for (let square = 0; square < choice.replicates; square++) {
      const held = several ? make.group('block', String(square + 1), [site], { in: site.id, column: square, row: null }) : site
      const rows = order.map((r) => make.group('row', `row ${square * t + r + 1}`, [held], null))
      const columns = order.map((c) => make.group('column', `column ${square * t + c + 1}`, [held], null))
      const [first, second, third] = [shuffled(order, chance), shuffled(order, chance), shuffled(treatments.list, chance)]
      for (const r of order) {
        for (const c of order) {
          const treatment = third[(first[r]! + second[c]!) % t]!
          make.treated(
            numberIn(square * t + r + 1, c + 1, t),
            [rows[r]!, columns[c]!],
            { in: held.id, column: c, row: r },
            marks(treatment),
          )
        }
      }
    }
    const holder: UnitKind = several ? 'block' : 'site'
    return {
      structure: {
        schema: 1,
        kinds: [
          { kind: 'site', in: [] },
          ...(several ? [{ kind: 'block' as const, in: ['site' as const] }] : []),
          { kind: 'row', in: [holder] },
          { kind: 'column', in: [holder] },
          ...kindsWith(choice, ['row', 'column']),
        ],
        factors: treatments.factors.map(({ key }) => ({ factor: key, appliedTo: choice.unit, within: null, how: 'constrained' })),
        controls: controlsOf(treatments),
        seed,
      },
      units: make.units,
    }
  },
}
