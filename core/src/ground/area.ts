import { given, times, workedProduct, type Worked } from '../quantity/index.ts'
import type { Ground } from '../trial/index.ts'

/** The area a treatment is put on: the whole plot. */
export function plotArea(ground: Ground): Worked {
  return workedProduct('Plot area', 'm²', [
    times(given('Plot width', ground.plotWidth, 'm')),
    times(given('Plot length', ground.plotLength, 'm')),
  ])
}

/**
 * The area that is harvested, guards left standing: the middle of the plot, or so many stretches of row
 * cut by hand. `left`: the part of it that remains where some was lost; `half`: of one half of a plot.
 */
export function harvestedArea(
  ground: Ground,
  { left = 1, half = false }: { readonly left?: number; readonly half?: boolean } = {},
): Worked {
  const plot = wholeArea(ground)
  const whole = half ? workedProduct('Harvested area of a half', 'm²', [times(plot), times(given('One half', 50, '%'))]) : plot
  return left === 1
    ? whole
    : workedProduct('Harvested area that remains', 'm²', [times(whole), times(given('Part that remains', 100 * left, '%'))])
}

function wholeArea(ground: Ground): Worked {
  const { stretches, rows } = ground
  if (stretches && rows)
    return workedProduct('Harvested area', 'm²', [
      times(given('Stretches of row', stretches.count, '')),
      times(given('Length of a stretch', stretches.length, 'm')),
      times(given('Row spacing', rows.spacing, 'm')),
    ])
  return workedProduct('Harvested area', 'm²', [
    times(given('Harvested width', ground.harvestWidth, 'm')),
    times(given('Harvested length', ground.harvestLength, 'm')),
  ])
}
