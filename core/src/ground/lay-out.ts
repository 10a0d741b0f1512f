import { randomisedBlock } from '../design/index.ts'
import type { Layout, Trial } from '../trial/index.ts'
import { placeUnits } from './placement.ts'

type Planned = Pick<Trial, 'factors' | 'replicates' | 'sites'>

/** What keeps a trial from being laid out, in words; empty when nothing does. */
export function layoutProblems(trial: Planned): string[] {
  return randomisedBlock.problems({ factors: trial.factors, replicates: trial.replicates })
}

/** Randomises a trial at its site from the seed and puts its plots on the ground. */
export function layOut(trial: Planned, seed: number, newId: () => string): Layout {
  const site = trial.sites[0]!
  const { structure, units } = randomisedBlock.randomise({
    factors: trial.factors,
    replicates: trial.replicates,
    seed,
    siteName: site.name,
    newId,
  })
  return { siteKey: site.key, structure, units: placeUnits(units, site.ground) }
}
