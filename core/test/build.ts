import { newTrialDraft } from '../src/numbers/index.ts'
import type { TrialDraft } from '../src/trial/index.ts'

/** Ids that count up: nothing here needs chance but the seed. */
export function countingIds(): () => string {
  let n = 0
  return () => `00000000-0000-7000-8000-${String(++n).padStart(12, '0')}`
}

export function trialWith(levels: number, replicates: number, ground: Partial<TrialDraft['sites'][0]['ground']> = {}): TrialDraft {
  const draft = newTrialDraft('sugar-beet', 2026)
  return {
    ...draft,
    title: 'Test',
    crop: 'Beet',
    replicates,
    factors: [
      {
        ...draft.factors[0]!,
        levels: Array.from({ length: levels }, (_, i) => ({
          key: `l${i}`,
          code: `N${i * 40}`,
          name: `${i * 40} kg N/ha`,
          amount: i * 40,
          control: i === 0,
        })),
      },
    ],
    sites: [{ ...draft.sites[0]!, ground: { ...draft.sites[0]!.ground, ...ground } }],
  }
}
