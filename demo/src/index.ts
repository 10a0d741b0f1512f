import type { TrialContents } from '@canter/core/exchange'
import { leek, mulch, oats } from './others.ts'
import { sugarBeet } from './sugar-beet.ts'

/** The invented scenario: one trial that can be followed to the end, and three at other points of their season. */
export function demoTrials(): TrialContents[] {
  return [sugarBeet(), oats(), mulch(), leek()]
}

export { sugarBeet, sugarBeetDraft } from './sugar-beet.ts'
