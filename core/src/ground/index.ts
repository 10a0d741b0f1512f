export { harvestedArea, plotArea } from './area.ts'
export { layOut, layOutAgain, layoutFigures, layoutProblems, outline, placedAnew, siteOf, walkedKind } from './lay-out.ts'
export { LABEL_SHEETS, labelAt, PAPERS, type LabelSheet, type Paper } from './label-sheets.ts'
export { SCALES, scaleFor, sheetsOf, type SheetPlan } from './sheets.ts'
export { STAKE_ORDERS, stakesOf, type Stake } from './stakes.ts'
export { edgesOver, fitOf, fits, misfitInWords, otherLies, type Fit, type OtherLie } from './fit.ts'
export { acrossGradient, alongGradient, type AlongGradient } from './gradient.ts'
export { areaWithin, usableArea } from './free-ground.ts'
export { movableGroups, UNMOVED, type MovableGroup } from './groups.ts'
export { carriedWith, movesWith, putBack, shifted, snapped, turnedBy } from './moving.ts'
export {
  factorColours,
  hueAndStep,
  inkOn,
  plain,
  residualScale,
  swatchFill,
  treatmentColours,
  valueScale,
  type TreatmentColour,
} from './colours.ts'
export { planSvg, risesInWords, scaleBar, type PlanDrawing } from './plan-drawing.ts'
export { edgesOf, groupFrames, extentOf, placeUnits, runsOf, siteExtent, type Edge } from './placement.ts'
export { around, boundsOf, cornersOf, middleOf, overlap, type Frame, type Rectangle } from './rectangle.ts'
export { ROUND_NAMES, turnsOf } from './rounds.ts'
export { unitsNamed } from './units-named.ts'
export { spotAt, type Spot } from './spot.ts'
