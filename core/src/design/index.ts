import type { Design } from './design.ts'
import { randomisedBlock } from './randomised-block.ts'

/** All designs; adding one is its file and a line here. */
export const designs: readonly Design[] = [randomisedBlock]

export { type Design, type DesignedUnits, type DesignRequest } from './design.ts'
export { chanceFrom, shuffled, type Chance } from './random.ts'
export { randomisedBlock } from './randomised-block.ts'
