import { newTrialDraft, traitSets, traitsOf } from '../src/numbers/index.ts'
import { firstVersions } from '../src/document/index.ts'
import { crossFactors, treatmentsOf, type Factor, type Reading, type Trial, type TrialDraft, type Treatments } from '../src/trial/index.ts'

/** Ids that count up: nothing here needs chance but the seed. */
export function countingIds(): () => string {
  let n = 0
  return () => `00000000-0000-7000-8000-${String(++n).padStart(12, '0')}`
}

export const PERSON = '00000000-0000-7000-8000-0000000000aa'

/** Rates of nitrogen, the first none and the untreated control. */
export function ladder(levels: number): Treatments {
  const factor: Factor = {
    key: 'factor-1',
    name: 'Nitrogen',
    kind: 'rate',
    measure: 'kg/ha',
    of: { what: 'nutrient', nutrient: 'N' },
    levels: Array.from({ length: levels }, (_, i) => ({ key: `l${i}`, code: `N${i * 40}`, name: `${i * 40} kg N/ha`, amount: i * 40 })),
  }
  return treatmentsOf(
    [factor],
    crossFactors([factor]).map((each, i) => ({ ...each, role: i === 0 ? 'untreated control' : 'none' })),
  )
}

export function kindsOf(key: string, name: string, codes: readonly string[]): Factor {
  return {
    key,
    name,
    kind: 'kind',
    measure: '',
    of: null,
    levels: codes.map((code) => ({ key: code.toLowerCase(), code, name: `${name} ${code}`, amount: null })),
  }
}

/** Two factors, every combination. */
export function twoFactors(a = 3, b = 2): Treatments {
  const factors = [
    kindsOf('water', 'Water', ['DRY', 'MID', 'WET'].slice(0, a)),
    kindsOf('cultivar', 'Cultivar', ['A', 'B', 'C', 'D'].slice(0, b)),
  ]
  return treatmentsOf(factors)
}

/** Factors f1, f2, … of so many levels each, every combination. */
export function crossed(...levels: number[]): Treatments {
  const factors = levels.map((count, i) => kindsOf(`f${i + 1}`, `Factor ${i + 1}`, ['A', 'B', 'C', 'D', 'E'].slice(0, count)))
  return treatmentsOf(factors)
}

/** Entries of which the first so many are standards to go by. */
export function entries(count: number, checks = 0): Treatments {
  const { factors, list } = ladder(count)
  return treatmentsOf(
    factors,
    list.map((each, i) => ({ ...each, role: i < checks ? 'standard' : 'none' })),
  )
}

export function trialWith(levels: number, replicates: number, ground: Partial<TrialDraft['sites'][0]['ground']> = {}): TrialDraft {
  const draft = newTrialDraft(2026)
  const set = traitSets[0]!
  const [site] = draft.sites
  return {
    ...draft,
    question: { ...draft.question, title: 'Test', crop: 'Beet' },
    treatments: ladder(levels),
    traits: traitsOf(set),
    sites: [{ ...site!, ground: { ...set.ground, rowAlley: 0, ...ground }, design: { ...site!.design, replicates } }],
  }
}

export function designed(draft: TrialDraft, design: Partial<TrialDraft['sites'][0]['design']>): TrialDraft {
  return { ...draft, sites: draft.sites.map((site) => ({ ...site, design: { ...site.design, ...design } })) }
}

export function asTrial(draft: TrialDraft): Trial {
  return {
    ...draft,
    id: '00000000-0000-7000-8000-00000000ffff',
    version: 1,
    versions: firstVersions(draft),
    createdAt: '2026-01-01T00:00:00Z',
    deletedAt: null,
  }
}

let clock = 0
export function readingOf(unit: string, trait: string, value: number | Reading['value'], more: Partial<Reading> = {}): Reading {
  clock++
  return {
    type: 'reading',
    id: `00000000-0000-7000-9000-${String(clock).padStart(12, '0')}`,
    at: new Date(Date.UTC(2026, 9, 1, 8, 0, clock)).toISOString(),
    person: PERSON,
    device: 'tablet',
    unit,
    trait,
    visit: 'harvest',
    sample: 1,
    observer: PERSON,
    value: typeof value === 'number' ? { kind: 'number', value, typed: String(value), typedMeasure: null } : value,
    supersedes: [],
    confirmed: false,
    ...more,
  }
}

interface Example {
  readonly treatments?: Treatments
  readonly placed?: Record<string, string[]>
  /** Added to the replicates of the test: what the least number is for the design. */
  readonly more?: number
}

/** What a design is tried with where four rates in two replicates or more would not do. */
const EXAMPLES: Readonly<Record<string, Example>> = {
  'split-plot': { treatments: twoFactors(), placed: { 'main plot': ['water'] } },
  'strip-plot': { treatments: twoFactors(), placed: { row: ['water'], column: ['cultivar'] } },
  'split-split-plot': { treatments: crossed(2, 2, 2), placed: { 'main plot': ['f1'], subplot: ['f2'] } },
  confounded: { treatments: crossed(2, 2, 2) },
  'incomplete-latin-square': { treatments: ladder(7), more: 1 },
  'row-column': { treatments: ladder(12) },
  augmented: { treatments: entries(9, 2) },
  'partially-replicated': { treatments: ladder(12) },
  'paired-strips': { treatments: ladder(2) },
}

/** A trial that each design can lay out, and where its factors stand. */
export function trialFor(key: string, replicates: number, more: Partial<TrialDraft['sites'][0]['design']> = {}): TrialDraft {
  const { treatments, placed = {}, more: least = 0 } = EXAMPLES[key] ?? {}
  const base = trialWith(4, replicates)
  return designed(treatments ? { ...base, treatments } : base, { key, replicates: replicates + least, placed, ...more })
}
