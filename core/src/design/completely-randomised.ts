import type { Treatment } from '../trial/index.ts'
import { APART, ordersFor } from './constrained.ts'
import type { Design } from './design.ts'
import { commonProblems, controlsOf, kindsWith, marksFor, UnitMaker } from './units.ts'

/** Completely randomised: every treatment so many times, dealt out over the whole site at once. */
export const completelyRandomised: Design = {
  key: 'completely-randomised',
  name: 'Completely randomised',
  about:
    'Dealt out over the whole site at once, without blocks. For ground or benches known to be even, and pots that are moved about; a trend in the ground goes into the error.',
  repeat: 'Units of each treatment',
  dealt: 'Dealt out by chance over the whole site.',
  sizes: [],
  everyFactorSized: false,
  settings: [APART],

  problems: (question) => commonProblems(question, question.treatments.list.length * question.choice.replicates),

  figures: ({ treatments: { list, factors }, choice }) => ({
    units: list.length * choice.replicates,
    times: list.map(() => choice.replicates),
    errors: [{ unit: choice.unit, df: list.length * (choice.replicates - 1), factors: factors.map((each) => each.key) }],
    efficiency: 1,
  }),

  deal(request) {
    const { treatments, choice, seed } = request
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const all = Array.from({ length: choice.replicates }, () => treatments.list).flat()
    const digits = Math.max(2, String(all.length).length)
    const orders = ordersFor<Treatment>(request, [], all.length)
    orders
      .next(all, true)
      .forEach((treatment, i) =>
        make.treated(String(i + 1).padStart(digits, '0'), [site], { in: site.id, column: i, row: null }, marks(treatment)),
      )
    return {
      structure: {
        schema: 1,
        kinds: [{ kind: 'site', in: [] }, ...kindsWith(choice, ['site'])],
        factors: treatments.factors.map(({ key }) => ({ factor: key, appliedTo: choice.unit, within: null, how: orders.how })),
        controls: controlsOf(treatments),
        seed,
      },
      units: make.units,
    }
  },
}
