import type { Design } from './design.ts'
import { shuffled } from './random.ts'
import { commonProblems, inBlocks, marksFor, numberIn, oneError, UnitMaker } from './units.ts'

/** Two treatments in strips side by side, which of the two lies left dealt out anew in each pair. */
export const pairedStrips: Design = {
  key: 'paired-strips',
  name: 'Paired strips',
  about:
    'Two treatments in strips as wide as the machine, pair beside pair across the field. For a grower’s own ground and machinery; each pair is a block, and the difference within it is what counts.',
  repeat: 'Pairs',
  dealt: 'Which of the two lies left was dealt out by chance in each pair.',
  sizes: [],
  everyFactorSized: false,
  settings: [],

  problems(question) {
    const t = question.treatments.list.length
    const found = commonProblems(question, 2 * question.choice.replicates)
    if (found.length > 0) return found
    return t === 2 ? [] : [`Pairs take two treatments; here are ${t}. Take complete blocks, or a check strip among them.`]
  },

  figures: (question) =>
    oneError(
      question,
      question.treatments.list.map(() => question.choice.replicates),
      question.choice.replicates - 1,
      1,
    ),

  deal(request) {
    const { treatments, choice, chance } = request
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    for (let p = 1; p <= choice.replicates; p++) {
      const pair = make.group('block', String(p), [site], { in: site.id, column: p - 1, row: 0 })
      shuffled(treatments.list, chance).forEach((treatment, i) =>
        make.treated(numberIn(p, i + 1, 2), [pair], { in: pair.id, column: i, row: 0 }, marks(treatment)),
      )
    }
    return {
      structure: inBlocks(request, 'randomised'),
      units: make.units,
    }
  },
}
