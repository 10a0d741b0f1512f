import { amount } from './amount.ts'
import type { Colouring } from './colouring.ts'
import { mean } from './mean.ts'
import { planned } from './planned.ts'
import { progress } from './progress.ts'
import { residual } from './residual.ts'
import { treatment } from './treatment.ts'
import { value } from './value.ts'

/** All ways of colouring the plan, in the order they are offered; adding one is its file and a line here. */
export const colourings: readonly Colouring[] = [treatment, planned, amount, progress, value, mean, residual]

export function colouringOf(key: string | undefined): Colouring {
  return colourings.find((each) => each.key === key) ?? treatment
}

export { base, capital, measure, type Colouring, type Ground, type Key } from './colouring.ts'
