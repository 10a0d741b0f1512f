import { alphaLattice } from './alpha-lattice.ts'
import { augmented } from './augmented.ts'
import { completelyRandomised } from './completely-randomised.ts'
import { confounded } from './confounded.ts'
import { checkStrips } from './check-strips.ts'
import type { Design } from './design.ts'
import { incompleteBlocks } from './incomplete-blocks.ts'
import { incompleteLatinSquare } from './incomplete-latin-square.ts'
import { latinSquare } from './latin-square.ts'
import { pairedStrips } from './paired-strips.ts'
import { partiallyReplicated } from './partially-replicated.ts'
import { randomisedBlock } from './randomised-block.ts'
import { rowColumn } from './row-column.ts'
import { splitPlot } from './split-plot.ts'
import { splitSplitPlot } from './split-split-plot.ts'
import { stripPlot } from './strip-plot.ts'
import { systematic } from './systematic.ts'

/** All designs, in the order they are offered; adding one is its file and a line here. */
export const designs: readonly Design[] = [
  randomisedBlock,
  completelyRandomised,
  latinSquare,
  incompleteLatinSquare,
  splitPlot,
  splitSplitPlot,
  stripPlot,
  confounded,
  alphaLattice,
  rowColumn,
  incompleteBlocks,
  augmented,
  partiallyReplicated,
  pairedStrips,
  checkStrips,
  systematic,
]

export function designOf(key: string): Design | undefined {
  return designs.find((each) => each.key === key)
}

export type {
  Design,
  DesignedUnits,
  DesignFigures,
  DesignQuestion,
  DesignRequest,
  DesignSetting,
  DesignSize,
  SettingValue,
} from './design.ts'
export { boundOfTwoReplicates, planEfficiency, type PlanEfficiency } from './efficiency.ts'
export type { SearchWatch } from './exchange-search.ts'
export { drawnInTwos } from './first-draw.ts'
export { proposeDesign, type GroundAnswers, type Proposal } from './proposal.ts'
export { asListed, chanceFrom, shuffled, type Chance } from './random.ts'
export { costOfDropping, mixedUp, type Mixed } from './told-apart.ts'
export { drawLater, nearestHolder } from './later-draw.ts'
export { withShown } from './shown.ts'
export { UnitMaker } from './units.ts'
export { uneven, type Uneven } from './evenness.ts'
