import type { TrialDraft } from './trial.ts'

export interface LockedChange {
  readonly what: string
  /** Refused: the ground already holds the plan. Reason: allowed on the record. */
  readonly how: 'refused' | 'reason'
}

/**
 * What an edit would change of facts that are fixed once the trial stands on the ground
 * (marked planted, or with readings). Empty when it changes none of them.
 */
export function lockedChanges(before: TrialDraft, after: TrialDraft, observedTraits: ReadonlySet<string>): LockedChange[] {
  const changes: LockedChange[] = []
  const differ = (a: unknown, b: unknown): boolean => JSON.stringify(a) !== JSON.stringify(b)
  if (before.replicates !== after.replicates) changes.push({ what: 'the number of replicates', how: 'refused' })
  const keys = (trial: TrialDraft): unknown => trial.factors.map((factor) => [factor.key, factor.levels.map((level) => level.key)])
  if (differ(keys(before), keys(after))) changes.push({ what: 'which treatments there are', how: 'refused' })
  else if (differ(before.factors, after.factors)) changes.push({ what: 'the description of the treatments', how: 'reason' })
  if (differ(before.sites, after.sites)) changes.push({ what: 'the ground', how: 'reason' })
  if (before.significance !== after.significance) changes.push({ what: 'the significance level', how: 'reason' })
  const kept = new Set(after.traits.map((trait) => trait.key))
  for (const trait of before.traits) {
    if (observedTraits.has(trait.key) && !kept.has(trait.key))
      changes.push({ what: `the trait ${trait.name}, which has readings`, how: 'refused' })
  }
  return changes
}
