import type { Unit } from '../trial/index.ts'
import type { Design } from './design.ts'
import { chanceFrom, shuffled } from './random.ts'

/**
 * Randomised complete blocks: every level once in every block, dealt out anew in each
 * (R. A. Fisher, The Design of Experiments, 1935).
 */
export const randomisedBlock: Design = {
  key: 'randomised-block',
  name: 'Randomised complete blocks',
  about: 'Every treatment once in every block. Lay each block on ground that is as even as you can find.',

  problems({ factors, replicates }) {
    const problems: string[] = []
    const levels = factors[0]?.levels.length ?? 0
    if (factors.length !== 1) problems.push('This design takes one factor.')
    if (levels < 2) problems.push('Give at least two levels: with one there is nothing to compare.')
    if (levels * replicates > 6000) problems.push(`${levels} levels × ${replicates} blocks is more than 6000 plots; take fewer.`)
    return problems
  },

  errorDf({ factors, replicates }) {
    return ((factors[0]?.levels.length ?? 1) - 1) * (replicates - 1)
  },

  randomise({ factors, replicates, seed, siteName, newId }) {
    const factor = factors[0]!
    const chance = chanceFrom(seed)
    const site: Unit = unit('site', siteName.slice(0, 20), newId(), [])
    const units: Unit[] = [site]
    for (let block = 1; block <= replicates; block++) {
      const blockUnit = unit('block', String(block), newId(), [site.id])
      units.push(blockUnit)
      shuffled(factor.levels, chance).forEach((level, i) => {
        const got = { [factor.key]: level.key }
        units.push({
          ...unit('plot', plotCode(block, i + 1, factor.levels.length), newId(), [blockUnit.id]),
          planned: got,
          received: { ...got },
        })
      })
    }
    return {
      structure: {
        schema: 1,
        kinds: [
          { kind: 'site', in: [] },
          { kind: 'block', in: ['site'] },
          { kind: 'plot', in: ['block'] },
        ],
        factors: [{ factor: factor.key, appliedTo: 'plot', within: 'block', how: 'randomised' }],
        controls: factor.levels.filter((level) => level.control).map((level) => ({ factor: factor.key, level: level.key })),
        seed,
        occasions: ['harvest'],
      },
      units,
    }
  },
}

function unit(kind: Unit['kind'], code: string, id: string, within: string[]): Unit {
  return { id, kind, code, in: within, planned: {}, received: {}, change: 'none', place: null, walk: null }
}

/** Block and position: 203 is position 3 of block 2; a third digit of position comes with 100 plots a block. */
function plotCode(block: number, position: number, perBlock: number): string {
  return `${block}${String(position).padStart(perBlock > 99 ? 3 : 2, '0')}`
}
