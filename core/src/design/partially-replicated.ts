import { APART, ordersFor } from './constrained.ts'
import type { Design, DesignQuestion, DesignSetting } from './design.ts'
import { evenSizes, MOST_ENTRIES, once, searched } from './searched.ts'
import { commonProblems, countedSetting, inBlocks, marksFor, numberIn, oneError, UnitMaker } from './units.ts'

const TWICE: DesignSetting = {
  key: 'twice',
  name: 'Entries that stand twice',
  kind: 'count',
  about: 'The first so many of the list, those with seed for two plots; checks stand in every block besides.',
  usual: ({ treatments: { list } }) => Math.max(2, Math.round(list.filter((each) => each.role === 'none').length / 4)),
  range: ({ treatments: { list } }) => [2, Math.max(2, list.length)],
}

/** Partially replicated: a share of the entries stands twice and gives the error, the rest once (B. R. Cullis, A. B. Smith and N. E. Coombes, JABES 11, 2006). */
export const partiallyReplicated: Design = {
  key: 'partially-replicated',
  name: 'Part of the entries twice',
  about:
    'Some entries stand twice, in two blocks, and the rest once. For early screening with seed for one plot of most: the ones that stand twice give the error, and no plots are spent on checks alone.',
  repeat: 'Blocks',
  dealt: 'Entries that stand twice in two blocks each, the rest in one, searched so that pairs meet evenly; places dealt out by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [TWICE, APART],
  searched: true,

  problems(question) {
    const { list } = question.treatments
    const singles = list.filter((each) => each.role === 'none').length
    const twice = countedSetting(question, TWICE)
    const found = commonProblems(question, unitsOf(question))
    if (found.length > 0) return found
    if (list.length > MOST_ENTRIES) return [`At most ${MOST_ENTRIES} treatments; here are ${list.length}.`]
    if (question.choice.replicates < 2) return ['Take at least 2 blocks, so that some entries can stand in two.']
    if (!Number.isInteger(twice) || twice < 1 || twice > singles)
      return [`Of ${singles} entries, between 1 and ${singles} can stand twice.`]
    return errorDf(question) < 1 ? ['Too few stand twice to judge chance by: let more of them.'] : []
  },

  figures: (question) => oneError(question, timesOf(question), errorDf(question), null),

  deal(request) {
    const { treatments, choice } = request
    const times = timesOf(request)
    const sizes = evenSizes(unitsOf(request), choice.replicates)
    const blockOf = sizes.flatMap((size, block) => Array.from({ length: size }, () => block))
    const found = searched(request, times.length, {
      cells: blockOf.map((block) => ({ units: [block], group: 0 })),
      units: sizes.length,
      start: startOf(times, sizes, once(times.length, request)),
    })
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const orders = ordersFor<number>(request, [['block', sizes.length]], Math.max(...sizes))
    sizes.forEach((size, b) => {
      const block = make.group('block', String(b + 1), [site], { in: site.id, column: b, row: null })
      const entries = found.filter((_, i) => blockOf[i] === b)
      orders
        .next(entries, b === 0)
        .forEach((entry, i) =>
          make.treated(numberIn(b + 1, i + 1, size), [block], { in: block.id, column: i, row: null }, marks(treatments.list[entry]!)),
        )
    })
    return {
      structure: inBlocks(request, orders.how),
      units: make.units,
    }
  },
}

/** What stands often goes first, each time into the blocks with the most room that have it not. */
function startOf(times: readonly number[], sizes: readonly number[], order: readonly number[]): number[] {
  const blocks: number[][] = sizes.map(() => [])
  const room = (b: number): number => sizes[b]! - blocks[b]!.length
  for (const entry of [...order].sort((a, b) => times[b]! - times[a]!)) {
    const open = [...sizes.keys()].filter((b) => room(b) > 0).sort((a, b) => room(b) - room(a))
    for (const b of open.slice(0, times[entry])) blocks[b]!.push(entry)
  }
  return blocks.flat()
}

function timesOf(question: DesignQuestion): number[] {
  const twice = countedSetting(question, TWICE)
  let n = 0
  return question.treatments.list.map((each) => (each.role !== 'none' ? question.choice.replicates : n++ < twice ? 2 : 1))
}

function unitsOf(question: DesignQuestion): number {
  return timesOf(question).reduce((sum, each) => sum + each, 0)
}

function errorDf(question: DesignQuestion): number {
  return unitsOf(question) - question.treatments.list.length - question.choice.replicates + 1
}
