import type { Treatment } from '../trial/index.ts'
import type { Design, DesignQuestion, DesignSetting } from './design.ts'
import { shuffled } from './random.ts'
import { commonProblems, countedSetting, inBlocks, marksFor, numberIn, UnitMaker } from './units.ts'

const EVERY: DesignSetting = {
  key: 'every',
  name: 'A check strip after every',
  kind: 'count',
  about: 'So many strips of the others.',
  usual: () => 2,
  range: ({ treatments: { list } }) => [1, Math.max(1, list.length - 1)],
}

/** Others dealt out by chance, with a strip of the check before, after and between every few of them. */
export const checkStrips: Design = {
  key: 'check-strips',
  name: 'Check strips among others',
  about:
    'A strip of the check after every few strips of the others. For a demonstration along a road, or a grower who wants to see each beside what is usual. The check has fixed places; only the others are dealt out.',
  repeat: 'Times over',
  dealt: 'The others dealt out by chance anew each time over, check strips at fixed places between them.',
  sizes: [],
  everyFactorSized: false,
  settings: [EVERY],

  problems(question) {
    const every = countedSetting(question, EVERY)
    const { check, others } = sortsOf(question)
    const found = commonProblems(question, unitsOf(question))
    if (found.length > 0) return found
    if (!check) return ['Say which treatment is the check: give one the role of a standard or an untreated control.']
    if (others.length < 2) return ['With one other treatment take paired strips.']
    return Number.isInteger(every) && every >= 1 ? [] : ['A check strip stands after one or more of the others.']
  },

  figures(question) {
    const { treatments, choice } = question
    const { check } = sortsOf(question)
    return {
      units: unitsOf(question),
      times: treatments.list.map((each) => (each === check ? checksOf(question) : 1) * choice.replicates),
      errors: [
        {
          unit: choice.unit,
          df: unitsOf(question) - treatments.list.length - choice.replicates + 1,
          factors: treatments.factors.map((each) => each.key),
        },
      ],
      efficiency: null,
    }
  },

  deal(request) {
    const { treatments, choice, chance } = request
    const every = countedSetting(request, EVERY)
    const { check, others } = sortsOf(request)
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const most = others.length + checksOf(request)
    for (let b = 1; b <= choice.replicates; b++) {
      const block = make.group('block', String(b), [site], { in: site.id, column: b - 1, row: null })
      const strips = shuffled(others, chance).flatMap((treatment, i) => (i % every === 0 ? [check!, treatment] : [treatment]))
      const all = [...strips, check!]
      all.forEach((treatment, i) =>
        make.treated(numberIn(b, i + 1, most), [block], { in: block.id, column: i, row: null }, marks(treatment)),
      )
    }
    return {
      structure: inBlocks(request, 'constrained'),
      units: make.units,
    }
  },
}

/** The check is the first that has a role, a standard before an untreated control. */
function sortsOf({ treatments: { list } }: DesignQuestion): { check: Treatment | undefined; others: Treatment[] } {
  const check = list.find((each) => each.role === 'standard') ?? list.find((each) => each.role === 'untreated control')
  return { check, others: list.filter((each) => each !== check) }
}

/** Check strips each time over. */
function checksOf(question: DesignQuestion): number {
  return Math.ceil(sortsOf(question).others.length / Math.max(1, countedSetting(question, EVERY))) + 1
}

function unitsOf(question: DesignQuestion): number {
  return (sortsOf(question).others.length + checksOf(question)) * question.choice.replicates
}
