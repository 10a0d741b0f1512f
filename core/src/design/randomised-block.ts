import type { Design } from './design.ts'
import type { Treatment } from '../trial/index.ts'
import { APART, FIRST_IN_ORDER, ordersFor } from './constrained.ts'
import { commonProblems, inBlocks, marksFor, numberIn, oneError, UnitMaker } from './units.ts'

/**
 * Randomised complete blocks: every treatment once in every block, dealt out anew in each
 * (R. A. Fisher, The Design of Experiments, 1935).
 */
export const randomisedBlock: Design = {
  key: 'randomised-block',
  name: 'Complete blocks',
  about:
    'Every treatment once in every block. The usual choice: lay each block on ground, or along a bench, that is as even as you can find.',
  repeat: 'Blocks',
  dealt: 'Every treatment once in each block, dealt out by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [APART, FIRST_IN_ORDER],

  problems: (question) => commonProblems(question, question.treatments.list.length * question.choice.replicates),

  figures: (question) =>
    oneError(
      question,
      question.treatments.list.map(() => question.choice.replicates),
      (question.treatments.list.length - 1) * (question.choice.replicates - 1),
      1,
    ),

  deal(request) {
    const { treatments, choice } = request
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const orders = ordersFor<Treatment>(request, [['block', choice.replicates]], treatments.list.length)
    for (let b = 1; b <= choice.replicates; b++) {
      const block = make.group('block', String(b), [site], { in: site.id, column: b - 1, row: null })
      orders
        .next(treatments.list, b === 1)
        .forEach((treatment, i) =>
          make.treated(numberIn(b, i + 1, treatments.list.length), [block], { in: block.id, column: i, row: null }, marks(treatment)),
        )
    }
    return {
      structure: inBlocks(request, orders.how),
      units: make.units,
    }
  },
}
