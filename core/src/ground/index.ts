export { harvestedArea, plotArea } from './area.ts'
export { layOut, layoutProblems } from './lay-out.ts'
export { blockRectangle, blockShape, placeUnits, plotRectangle, siteExtent, type Rectangle } from './placement.ts'
