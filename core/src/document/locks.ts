import { counted } from '../quantity/index.ts'
import { SUPPLY, traitKind, type Product, type Trait, type Trial, type Visit } from '../trial/index.ts'
import { dealtFrom, same } from './patch.ts'

/** What is fixed by what has been done already. */
export type LockCode =
  | 'treatments'
  | 'treatment words'
  | 'blinding'
  | 'design'
  | 'ground'
  | 'significance'
  | 'site'
  | 'trait removed'
  | 'trait changed'
  | 'visit removed'
  | 'visit moved'
  | 'went out'

export interface LockedChange {
  readonly code: LockCode
  /** Which one of several, as a person calls it. */
  readonly name: string
  /** refused: the ground or the readings already hold it. reason: allowed on the record. */
  readonly how: 'refused' | 'reason'
}

/** What has been done: sites planted or measured, and what has readings, those taken back too. */
export interface Standing {
  readonly onGround: ReadonlySet<string>
  readonly sitesWithRecords: ReadonlySet<string>
  readonly traits: ReadonlySet<string>
  readonly visits: ReadonlySet<string>
  /** Sites where halves of plots have readings, or anything else is said of them. */
  readonly halves: ReadonlySet<string>
  /** The days from which plots of some site are in halves. */
  readonly halvedFrom: ReadonlySet<string>
}

/** What an edit would change of facts that are fixed. Empty when it changes none of them. */
export function lockedChanges(before: Trial, after: Trial, standing: Standing): LockedChange[] {
  const changes: LockedChange[] = []
  const add = (code: LockCode, how: LockedChange['how'], name = ''): void => void changes.push({ code, how, name })
  if (standing.onGround.size > 0) {
    if (dealtFrom(before) !== dealtFrom(after)) add('treatments', 'refused')
    else if (!same(wordsOf(before), wordsOf(after))) add('treatment words', 'reason')
    if (before.treatments.blinded !== after.treatments.blinded) add('blinding', 'reason')
    if (before.question.significance !== after.question.significance) add('significance', 'reason')
  }
  for (const site of before.sites) {
    const own = after.sites.find((each) => each.key === site.key)
    const fixed = standing.onGround.has(site.key)
    if (!own && (fixed || standing.sitesWithRecords.has(site.key))) add('site', 'refused', site.name)
    if (!own || !fixed) continue
    if (!same([site.design, site.without], [own.design, own.without])) add('design', 'refused', site.name)
    if (!same(site.ground, own.ground)) add('ground', 'reason', site.name)
  }
  for (const trait of before.traits.observed) {
    if (!standing.traits.has(trait.key)) continue
    const own = after.traits.observed.find((each) => each.key === trait.key)
    if (!own) add('trait removed', 'refused', trait.name)
    else if (!same(heldBy(trait), heldBy(own))) add('trait changed', 'refused', trait.name)
  }
  for (const visit of before.traits.visits) {
    if (standing.visits.has(visit.key) && !after.traits.visits.some((each) => each.key === visit.key))
      add('visit removed', 'refused', visit.name)
    const own = after.traits.visits.find((each) => each.key === visit.key)
    // What was read of halves cannot come to be of plots, nor the other way.
    if (own && standing.visits.has(visit.key) && [...standing.halvedFrom].some((from) => isAfter(visit, from) !== isAfter(own, from)))
      add('visit moved', 'refused', visit.name)
  }
  for (const key of new Set((before.amounts.actual ?? []).map((each) => each.dose)))
    if (!same(putOnAs(before, key), putOnAs(after, key))) add('went out', 'reason', productFor(before, key)?.product ?? key)
  return changes
}

/** What a dose was put on as: whom it went to, how much in which parts, and what the product has in it. Days and labels are not of that. */
function putOnAs({ amounts }: Trial, key: string): unknown {
  const dose = amounts.doses?.find((each) => each.key === key)
  const product = productFor({ amounts }, key)
  const applications = key === SUPPLY ? (amounts.supply?.applications ?? 0) : 0
  const shares = dose ? dose.parts.map((part) => part.share) : Array.from({ length: applications }, () => 100 / applications)
  return [
    // The dose that stands for the product of the nutrient is as its levels are, whether it is written out or not.
    key === SUPPLY ? null : dose && [dose.to, dose.of, dose.amount, dose.measure, dose.per],
    dose?.carrier ?? null,
    shares.map((share) => share.toPrecision(6)),
    product && [product.analysis, product.analysisBy ?? 'weight', product.density ?? null, product.active ?? null, product.seed ?? null],
  ]
}

function productFor({ amounts }: Pick<Trial, 'amounts'>, key: string): Product | undefined {
  const product = amounts.doses?.find((each) => each.key === key)?.product ?? key
  return product === SUPPLY ? (amounts.supply ?? undefined) : amounts.products?.find((each) => each.key === product)
}

function isAfter({ on }: Pick<Visit, 'on'>, from: string): boolean {
  return on === null || on >= from
}

/** Everything said of the treatments but what is to be compared, which is marked late by itself, and how they are drawn. */
function wordsOf({ treatments }: Trial): unknown {
  return { ...treatments, comparisons: [], blinded: false, coloured: undefined }
}

/** What readings already taken were taken as. */
function heldBy({ kind, unit, decimals, on, steps }: Trait): unknown {
  return [kind, unit, decimals, on, traitKind(kind).held ? steps.map((step) => [step.score, step.meaning]) : null]
}

/** A lock in words: what it is, and where it is of one of several. */
export function lockInWords({ code, name }: LockedChange): string {
  const words: Record<LockCode, string> = {
    treatments: 'which treatments there are',
    'treatment words': 'the description of the treatments',
    blinding: 'whether the codes stand for themselves',
    design: `the design of ${name}`,
    ground: `the ground of ${name}`,
    significance: 'the significance level',
    site: `that ${name} is part of the trial`,
    'trait removed': `the trait ${name}, which has readings`,
    'trait changed': `what the readings of ${name} were taken as`,
    'visit removed': `the visit ${name}, which has readings`,
    'went out': `how ${name} was put on, of which something has gone out already`,
    'visit moved': `that ${name} was read before plots were halved, or after`,
  }
  return words[code]
}

/** Why a change is refused and what to do instead, in words. */
export function refusalInWords(locked: readonly LockedChange[]): string {
  const refused = locked.filter((each) => each.how === 'refused')
  const ground = refused.some((each) => ['treatments', 'design', 'site'].includes(each.code))
  return `This is fixed by what has been done already: ${refused.map(lockInWords).join(', ')}.${
    ground
      ? ' Correct single units instead, with a reason; or take back “planted” where it was marked by mistake.'
      : ' Add another beside it instead.'
  }`
}

/** What would be dealt out anew, to be asked before it is done. */
export function relayInWords(sites: readonly string[]): string {
  return `This changes what was dealt out: the layout of ${sites.length === 1 ? sites[0] : counted(sites.length, 'site')} is taken off, and has to be randomised anew. Undo brings it back.`
}
