import { APART, ordersFor, runsInOrder } from './constrained.ts'
import type { Design, DesignQuestion } from './design.ts'
import { shuffled } from './random.ts'
import { BLOCK_SIZE, blockSize, cyclicBalanced, once, searched, sizeProblems, wholePlanes } from './searched.ts'
import { commonProblems, inBlocks, marksFor, numberIn, oneError, UnitMaker } from './units.ts'

/**
 * Incomplete blocks that need not make up replicates (F. Yates, Ann. Eugenics 7, 1936). Searched
 * for the highest average efficiency factor; where every pair can meet equally often the search
 * ends at the balanced plan, whose efficiency t (k − 1) / (k (t − 1)) no plan exceeds.
 */
export const incompleteBlocks: Design = {
  key: 'incomplete-blocks',
  name: 'Incomplete blocks',
  about:
    'Each block takes some of the treatments. For blocks that are as small as they are: five pots to a tray, four leaves to a plant. Balanced where every pair can meet equally often, else as near to it as can be found.',
  repeat: 'Units of each treatment',
  dealt: 'Treatments put into blocks so that pairs meet as evenly as can be; blocks, places and treatments dealt out by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [BLOCK_SIZE, APART],
  searched: true,

  problems(question) {
    const { treatments, choice } = question
    const t = treatments.list.length
    const found = [...commonProblems(question, t * choice.replicates), ...sizeProblems(question)]
    if (found.length > 0) return found
    if (!Number.isInteger(blocksOf(question)))
      found.push(
        `${t} treatments, ${choice.replicates} times each, do not fill blocks of ${blockSize(question)}: ${possible(question)}, or take small blocks in complete replicates.`,
      )
    else if (errorDf(question) < 0)
      found.push(
        `${choice.replicates} of each in blocks of ${blockSize(question)} cannot compare all ${t}: take more of each, or larger blocks.`,
      )
    return found
  },

  figures: (question) =>
    oneError(
      question,
      question.treatments.list.map(() => question.choice.replicates),
      errorDf(question),
      null,
    ),

  deal(request) {
    const { treatments, choice, chance } = request
    const t = treatments.list.length
    const [k, b] = [blockSize(request), blocksOf(request)]
    const cells = Array.from({ length: b * k }, (_, i) => ({ units: [Math.floor(i / k)], group: 0 }))
    const cyclic = b % t === 0 ? cyclicBalanced(t, k, chance) : null
    const best = cyclic
      ? Array.from({ length: b / t }, () => cyclic).flat()
      : // The first draw did not know of planes.
        request.draw > 1
        ? wholePlanes(t, k, choice.replicates)
        : null
    const names = once(t, request)
    const found = searched(request, t, {
      cells,
      units: b,
      start: best?.map((entry) => names[entry]!) ?? Array.from({ length: choice.replicates }, () => once(t, request)).flat(),
      best: best !== null,
    })
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const blocks = Array.from({ length: b }, (_, i) => found.slice(i * k, (i + 1) * k))
    const { runs, how } = runsInOrder<number>(
      () => ordersFor(request, [['block', b]], k),
      () => shuffled(blocks, chance),
    )
    runs.forEach((entries, i) => {
      const block = make.group('block', String(i + 1), [site], { in: site.id, column: i, row: null })
      entries.forEach((entry, p) =>
        make.treated(numberIn(i + 1, p + 1, k), [block], { in: block.id, column: p, row: null }, marks(treatments.list[entry]!)),
      )
    })
    return {
      structure: inBlocks(request, how),
      units: make.units,
    }
  },
}

function blocksOf(question: DesignQuestion): number {
  return (question.treatments.list.length * question.choice.replicates) / blockSize(question)
}

function errorDf(question: DesignQuestion): number {
  const t = question.treatments.list.length
  return t * question.choice.replicates - blocksOf(question) - t + 1
}

/** The nearest that would fill whole blocks. */
function possible({ treatments, choice, ...rest }: DesignQuestion): string {
  const t = treatments.list.length
  const k = blockSize({ treatments, choice, ...rest })
  for (let away = 1; away < 50; away++)
    for (const r of [choice.replicates + away, choice.replicates - away]) if (r > 1 && (t * r) % k === 0) return `take ${r} of each`
  return 'take another size of block'
}
