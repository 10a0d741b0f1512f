import { benchSpray } from './bench-spray.ts'
import { budget } from './budget.ts'
import type { Calculation } from './calculation.ts'
import { catchCans } from './catch-cans.ts'
import { degreeDays } from './degree-days.ts'
import { dilution } from './dilution.ts'
import { drench } from './drench.ts'
import { drill } from './drill.ts'
import { dryMatter } from './dry-matter.ts'
import { evapotranspiration } from './evapotranspiration.ts'
import { fertiliser } from './fertiliser.ts'
import { growth } from './growth.ts'
import { inoculant } from './inoculant.ts'
import { irrigation } from './irrigation.ts'
import { liquidFertiliser } from './liquid-fertiliser.ts'
import { moisture } from './moisture.ts'
import { nitrogenRemoved } from './nitrogen-removed.ts'
import { oxide } from './oxide.ts'
import { plotYield } from './plot-yield.ts'
import { ppmByVolume } from './ppm-by-volume.ts'
import { ppmByWeight } from './ppm-by-weight.ts'
import { progressCurve } from './progress-curve.ts'
import { relativeToControl } from './relative-to-control.ts'
import { replant } from './replant.ts'
import { seeding } from './seeding.ts'
import { smallDose } from './small-dose.ts'
import { soil } from './soil.ts'
import { sprayer } from './sprayer.ts'
import { spreader } from './spreader.ts'
import { stand } from './stand.ts'
import { subsample } from './subsample.ts'
import { temperature } from './temperature.ts'
import { testWeight } from './test-weight.ts'
import { topUp } from './top-up.ts'
import { waterBalance } from './water-balance.ts'

/** All calculations, in the order they are offered; adding one is its file and its name here. */
export const calculations: readonly Calculation[] = [
  fertiliser,
  liquidFertiliser,
  topUp,
  oxide,
  soil,
  nitrogenRemoved,
  smallDose,
  ppmByVolume,
  ppmByWeight,
  dilution,
  drench,
  benchSpray,
  seeding,
  stand,
  replant,
  inoculant,
  irrigation,
  waterBalance,
  catchCans,
  sprayer,
  spreader,
  drill,
  plotYield,
  moisture,
  dryMatter,
  testWeight,
  subsample,
  evapotranspiration,
  degreeDays,
  temperature,
  relativeToControl,
  progressCurve,
  growth,
  budget,
]

export function calculationOf(key: string): Calculation | undefined {
  return calculations.find((each) => each.key === key)
}

export {
  reckon,
  type Calculation,
  type CalculationInput,
  type PassFact,
  type RawInputs,
  type Reckoned,
  type SiteFact,
} from './calculation.ts'
