import { count } from './count.ts'
import { date } from './date.ts'
import { number } from './number.ts'
import { score } from './score.ts'
import { share } from './share.ts'
import { stage } from './stage.ts'
import { text } from './text.ts'
import type { TraitKind } from './trait-kind.ts'
import { yesNo } from './yes-no.ts'

/** All kinds of trait; adding one is its file and its name here. */
export const traitKinds: readonly TraitKind[] = [number, count, share, score, yesNo, date, stage, text]

const byKey = new Map(traitKinds.map((each) => [each.key, each]))

export function traitKind(key: string): TraitKind {
  return byKey.get(key)!
}

export { dayOfYear } from './date.ts'
export type { Choice, Reduced, TraitKind } from './trait-kind.ts'
