import { given, times, workedProduct, type Worked } from '../quantity/index.ts'
import type { Ground } from '../trial/index.ts'

/** The area a treatment is put on: the whole plot. */
export function plotArea(ground: Ground): Worked {
  return workedProduct('Plot area', 'm²', [
    times(given('Plot width', ground.plotWidth, 'm')),
    times(given('Plot length', ground.plotLength, 'm')),
  ])
}

/** The area that is harvested, guards left standing. */
export function harvestedArea(ground: Ground): Worked {
  return workedProduct('Harvested area', 'm²', [
    times(given('Harvested width', ground.harvestWidth, 'm')),
    times(given('Harvested length', ground.harvestLength, 'm')),
  ])
}
