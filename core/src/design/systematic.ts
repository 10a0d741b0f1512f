import type { Design } from './design.ts'
import { commonProblems, inBlocks, marksFor, numberIn, oneError, UnitMaker } from './units.ts'

/** No chance at all: the same order each time over. A demonstration, marked as one wherever it is spoken of. */
export const systematic: Design = {
  key: 'systematic',
  name: 'In the order listed (a demonstration)',
  about:
    'Every treatment in the order of the list, once or several times over. For a field day or a display bed. Nothing is dealt out by chance, so differences may be those of the ground: it is looked at and compared with caution.',
  repeat: 'Times over',
  dealt: 'Laid out in the order listed, not by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [],

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
    for (let b = 1; b <= choice.replicates; b++) {
      const block = make.group('block', String(b), [site], { in: site.id, column: b - 1, row: null })
      treatments.list.forEach((treatment, i) =>
        make.treated(numberIn(b, i + 1, treatments.list.length), [block], { in: block.id, column: i, row: null }, marks(treatment)),
      )
    }
    return {
      structure: inBlocks(request, 'systematic'),
      units: make.units,
    }
  },
}
