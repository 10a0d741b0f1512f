export { normalDensity, normalLower, normalQuantile, normalLowerLog, normalUpper, normalUpperLog } from './distribution/normal.ts'
export { tLower, tLowerLog, tTwoSided, tUpper, tUpperLog, tUpperQuantile } from './distribution/t.ts'
export { fLower, fLowerLog, fQuantile, fUpper, fUpperLog, fUpperQuantile } from './distribution/f.ts'
export {
  chiSquaredLower,
  chiSquaredLowerLog,
  chiSquaredQuantile,
  chiSquaredUpper,
  chiSquaredUpperLog,
  gammaLower,
  gammaLowerLog,
  gammaQuantile,
  gammaUpper,
  gammaUpperLog,
} from './distribution/chi-squared.ts'
export { betaLower, betaLowerLog, betaQuantile, betaUpper, betaUpperLog } from './distribution/beta.ts'
export {
  binomialLower,
  binomialLowerLog,
  binomialQuantile,
  binomialUpper,
  binomialUpperLog,
  negativeBinomialLower,
  negativeBinomialLowerLog,
  negativeBinomialQuantile,
  negativeBinomialUpper,
  negativeBinomialUpperLog,
  poissonLower,
  poissonLowerLog,
  poissonQuantile,
  poissonUpper,
  poissonUpperLog,
} from './distribution/count.ts'
export {
  binomialMass,
  binomialMassLog,
  negativeBinomialMass,
  negativeBinomialMassLog,
  poissonMass,
  poissonMassLog,
} from './distribution/mass.ts'
export {
  noncentralChiSquaredLower,
  noncentralChiSquaredQuantile,
  noncentralChiSquaredUpper,
  noncentralFLower,
  noncentralFQuantile,
  noncentralFUpper,
  noncentralTLower,
  noncentralTQuantile,
  noncentralTUpper,
} from './distribution/noncentral.ts'
export { studentizedRangeLower, studentizedRangeQuantile, studentizedRangeUpper } from './distribution/studentized-range.ts'
export { dunnettQuantile, dunnettQuantileOneSided, dunnettUpper, dunnettUpperOneSided } from './distribution/dunnett.ts'
export {
  codedValue,
  crossed,
  designMatrix,
  type Classification,
  type Covariate,
  type DesignMatrix,
  type Term,
} from './linear/design-matrix.ts'
export { contrast, orthogonalPolynomials, type Contrast } from './linear/contrast.ts'
export { slopes } from './linear/slopes.ts'
export {
  restrictedMinus2LogLikelihood,
  meanWeights,
  strataAnova,
  stratumContrast,
  stratumDifference,
  stratumMean,
  stratumParts,
  componentErrors,
  varianceComponents,
  type StrataAnova,
  type StratumContrast,
} from './linear/strata.ts'
export {
  fitLinear,
  independentColumns,
  leverages,
  linearFunction,
  type Independent,
  type LinearFit,
  type LinearFunction,
} from './linear/least-squares.ts'
export { marginalAnova, nestedTest, partialAnova, sequentialAnova, termName, type AnovaRow, type NestedTest } from './linear/anova.ts'
export {
  coefficientWeights,
  differenceFactor,
  marginalMeans,
  varianceFactor,
  type MarginalMean,
  type MarginalOptions,
} from './linear/marginal-means.ts'
export { adjustP, type Adjustment } from './comparison/adjust.ts'
export { linearEstimates, type Estimates } from './comparison/estimates.ts'
export type { Comparison, ComparisonMethod, ComparisonRequest, Side } from './comparison/comparison.ts'
export { comparisonMethod, comparisonMethods } from './comparison/methods.ts'
export { compactLetters } from './comparison/letters.ts'
export { bartlettTest, leveneTest, type VarianceTest } from './check/variances.ts'
export { andersonDarling, shape, shapiroWilk } from './check/normality.ts'
export { moran, nonAdditivity, outlierTest, residualTable, serialCorrelation, type ResidualTable } from './check/residuals.ts'
export {
  arcsine,
  logarithm,
  logarithm10,
  logarithmPlusOne,
  logit,
  power,
  squareRoot,
  squareRootPlusHalf,
  type Transformation,
} from './transform/transformation.ts'
export { boxCox, boxCoxLogLikelihood, type BoxCox } from './transform/box-cox.ts'
export {
  correlation,
  describeSample,
  equivalenceTest,
  oneSampleTest,
  pooledTest,
  varianceRatioTest,
  welchTest,
  type MeanTest,
  type Sample,
} from './sample/two-sample.ts'
export { multivariateT, multivariateTUpper, type Integral } from './distribution/multivariate-t.ts'
export { jointTest, simpleEffects, simpleEffectsOf, type JointTest } from './linear/joint-test.ts'
export { reml } from './mixed/variance-components.ts'
export { criteria, freeOf, logDeterminantOf, parameterErrors, type Likelihood, type MixedFit } from './mixed/mixed-fit.ts'
export {
  kenwardRoger,
  satterthwaite,
  type DfMethod,
  type MixedEstimate,
  type MixedFamily,
  type MixedInference,
  type MixedTest,
} from './mixed/approximate-df.ts'
export { fitStructured, type StructuredModel } from './mixed/structured-errors.ts'
export type { ErrorModel } from './mixed/errors/error-model.ts'
export { byGroup } from './mixed/errors/by-group.ts'
export { dateModels, type Dates } from './mixed/errors/over-dates.ts'
export { gridSteps, groundModels, type Places } from './mixed/errors/over-ground.ts'
export { remlSparse } from './mixed/sparse-components.ts'
export { fitField } from './mixed/ground-field.ts'
export { stability, type EntryStability, type Stability, type TwoWay } from './stability/two-way.ts'
export { principalAxes, type Axis } from './stability/axes.ts'
export { concordance, kendall, spearman } from './stability/ranks.ts'
