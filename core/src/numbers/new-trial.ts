import { bareProduct, bareSite, emptyFactor, treatmentsOf, type Prices, type Supply, type Traits, type TrialDraft } from '../trial/index.ts'
import { traitSetFor, traitSets, traitsOf, type TraitSet } from './catalogue.ts'

/** No price is stated until somebody states it. */
export const NO_PRICES: Prices = {
  currency: '€',
  pricePerTonne: null,
  baseQuality: null,
  percentPerPoint: null,
  productPrice: null,
  applicationCost: null,
  otherCost: {},
  reference: null,
}

/** A trial before anything is decided: empty where nothing is known, one site in four blocks. */
export function newTrialDraft(season: number): TrialDraft {
  const set = traitSets.find((each) => each.key === 'growth')!
  return {
    question: { title: '', crop: '', season, askedBy: '', why: '', expected: '', hostedBy: '', paidBy: '', significance: 0.05 },
    treatments: treatmentsOf([emptyFactor('factor-1')], []),
    traits: traitsOf(set),
    sites: [
      {
        key: 'site-1',
        name: 'Site 1',
        soil: '',
        ground: set.ground,
        design: { key: 'randomised-block', replicates: 4, unit: set.unit, plants: set.plants, walked: 'unit', placed: {}, settings: {} },
        ...bareSite,
      },
    ],
    amounts: { supply: null, common: [] },
    prices: NO_PRICES,
  }
}

/** What follows from naming the crop, as long as nobody has chosen otherwise: traits, size of plots, what is treated. */
export function forCrop(draft: TrialDraft, crop: string): TrialDraft {
  const set = traitSetFor(crop)
  const named = { ...draft, question: { ...draft.question, crop } }
  return set ? withTraitSet(named, set) : named
}

export function withTraitSet(draft: TrialDraft, set: TraitSet): TrialDraft {
  return {
    ...draft,
    traits: traitsOf(set),
    sites: draft.sites.map((site) => ({
      ...site,
      ground: { ...set.ground, across: site.ground.across },
      design: { ...site.design, unit: set.unit, plants: set.plants, walked: 'unit' },
    })),
  }
}

/** The set a traits section was begun with, if it is still that. */
export function setOf(traits: Traits): TraitSet | undefined {
  return traitSets.find(
    (set) =>
      set.observed.length === traits.observed.length && set.observed.every((trait) => traits.observed.some((own) => own.key === trait.key)),
  )
}

/** A product of which only the name is known. */
export function emptySupply(product: string): Supply {
  return {
    ...bareProduct(product),
    applications: 1,
    overMaximumReason: '',
  }
}
