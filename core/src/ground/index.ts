export { harvestedArea, plotArea } from './area.ts'
export { layOut, layOutAgain, layoutFigures, layoutProblems, outline, placedAnew, siteOf, walkedKind } from './lay-out.ts'
export { STAKE_ORDERS, stakesOf, type Stake } from './stakes.ts'
export { defaultAcross, extentOf, placeUnits, runsOf, type Rectangle } from './placement.ts'
