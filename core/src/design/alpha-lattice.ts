import type { Design } from './design.ts'
import { shuffled } from './random.ts'
import { BLOCK_SIZE, blockSize, evenSizes, isPrime, once, searched, sizeProblems, squareLattice } from './searched.ts'
import { commonProblems, inBlocks, letter, marksFor, numberIn, UnitMaker } from './units.ts'

/**
 * Resolvable incomplete blocks of one size, or two that differ by one: each replicate is complete
 * and broken into small blocks (alpha designs: H. D. Patterson and E. R. Williams, Biometrika 63,
 * 1976). Searched for the highest average efficiency factor.
 */
export const alphaLattice: Design = {
  key: 'alpha-lattice',
  name: 'Small blocks in complete replicates',
  about:
    'Every treatment once in each replicate, and each replicate broken into small blocks (an alpha-lattice). For many entries on ground that is even only over a few plots: variety screening. Searched so that as many pairs as can be meet in a block.',
  repeat: 'Replicates',
  dealt:
    'Every treatment once in each replicate, in small blocks searched for the best comparisons; blocks, places and treatments dealt out by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [BLOCK_SIZE],
  searched: true,

  problems(question) {
    const { list } = question.treatments
    const found = [...commonProblems(question, list.length * question.choice.replicates), ...sizeProblems(question)]
    if (found.length === 0 && question.choice.replicates < 2)
      found.push('One replicate in small blocks cannot compare across them: take at least 2 replicates, or an augmented design.')
    if (found.length === 0 && blocksOf(question) < 2) found.push('Take fewer units in a block, so that a replicate has at least two.')
    return found
  },

  figures(question) {
    const { treatments, choice } = question
    const [t, r] = [treatments.list.length, choice.replicates]
    return {
      units: t * r,
      times: treatments.list.map(() => r),
      errors: [{ unit: choice.unit, df: r * t - r * blocksOf(question) - t + 1, factors: treatments.factors.map((each) => each.key) }],
      efficiency: null,
    }
  },

  deal(request) {
    const { treatments, choice, chance } = request
    const t = treatments.list.length
    const sizes = evenSizes(t, blocksOf(request))
    const within = sizes.flatMap((size, block) => Array.from({ length: size }, () => block))
    const replicates = [...Array(choice.replicates).keys()]
    const cells = replicates.flatMap((group) => within.map((block) => ({ units: [group * sizes.length + block], group })))
    const k = blockSize(request)
    // The first draw knew only of planes of a prime order.
    const lattice = k * k === t && (request.draw > 1 || isPrime(k)) ? squareLattice(k, choice.replicates) : null
    const names = once(t, request)
    const start = lattice?.map((entry) => names[entry]!) ?? replicates.flatMap(() => once(t, request))
    const found = searched(request, t, { cells, units: sizes.length * choice.replicates, start, best: lattice !== null })
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    for (const r of replicates) {
      const replicate = make.group('replicate', String(r + 1), [site], { in: site.id, column: r, row: null })
      const blocks = sizes.map((_, block) => within.flatMap((own, i) => (own === block ? [found[r * t + i]!] : [])))
      let position = 0
      shuffled(blocks, chance).forEach((entries, b) => {
        const block = make.group('block', `${r + 1}${letter(b + 1)}`, [replicate], { in: replicate.id, column: b, row: null })
        shuffled(entries, chance).forEach((entry, i) =>
          make.treated(numberIn(r + 1, ++position, t), [block], { in: block.id, column: i, row: null }, marks(treatments.list[entry]!)),
        )
      })
    }
    return {
      structure: inBlocks(request, 'randomised', true),
      units: make.units,
    }
  },
}

function blocksOf(question: Parameters<Design['problems']>[0]): number {
  return Math.ceil(question.treatments.list.length / blockSize(question))
}
