import { completelyRandomised } from './completely-randomised.ts'
import type { Design } from './design.ts'
import { latinSquare } from './latin-square.ts'
import { randomisedBlock } from './randomised-block.ts'
import { splitPlot } from './split-plot.ts'
import { stripPlot } from './strip-plot.ts'

/** All designs, in the order they are offered; adding one is its file and a line here. */
export const designs: readonly Design[] = [randomisedBlock, completelyRandomised, latinSquare, splitPlot, stripPlot]

export function designOf(key: string): Design | undefined {
  return designs.find((each) => each.key === key)
}

export type { Design, DesignedUnits, DesignFigures, DesignQuestion, DesignRequest, DesignSize } from './design.ts'
export { asListed, chanceFrom, shuffled, type Chance } from './random.ts'
