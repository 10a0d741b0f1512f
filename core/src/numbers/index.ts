export { derivationProblem, derive } from './derive.ts'
export { isOutside, numberOf, plotTable, type PlotRow, type PlotTable, type PlotValue } from './plot-values.ts'
export { traitSets, type TraitSet } from './catalogue.ts'
export { cleanRootYield, grainYield, sugarYield } from './yield.ts'
