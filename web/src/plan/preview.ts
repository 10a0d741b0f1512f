import { plotRectangle } from '@canter/core/ground'
import type { Trial, Unit } from '@canter/core/trial'

/** Empty plots where the trial would lie, before anything is randomised. */
export function previewUnits(trial: Pick<Trial, 'factors' | 'replicates' | 'sites'>): Unit[] {
  const perBlock = trial.factors[0]!.levels.length
  const ground = trial.sites[0]!.ground
  const units: Unit[] = []
  for (let block = 0; block < trial.replicates; block++) {
    for (let position = 0; position < perBlock; position++) {
      units.push({
        id: `outline-${block}-${position}`,
        kind: 'plot',
        code: '',
        in: [],
        planned: {},
        received: {},
        change: 'none',
        place: { ...plotRectangle(block, position, perBlock, ground) },
        walk: units.length + 1,
      })
    }
  }
  return units
}
