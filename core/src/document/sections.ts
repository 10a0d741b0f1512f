import { Amounts, Prices, Question, Site, Traits, Treatments, type Trial, type TrialDraft } from '../trial/index.ts'
import type { z } from 'zod'

/** A part of a trial that is edited by itself: its fields in words. Adding one is an entry here. */
export interface Section {
  readonly name: string
  readonly schema: z.ZodType
  /** Fields by path, as a person calls them. */
  readonly fields: Readonly<Record<string, string>>
}

const question: Section = {
  name: 'Question',
  schema: Question,
  fields: {
    title: 'title',
    crop: 'crop',
    season: 'season',
    askedBy: 'who asked',
    why: 'why',
    expected: 'what is expected',
    hostedBy: 'who lent the ground',
    paidBy: 'who paid',
    significance: 'significance level',
  },
}

const treatments: Section = {
  name: 'Treatments',
  schema: Treatments,
  fields: {
    factors: 'what is varied',
    list: 'treatments',
    comparisons: 'planned comparisons',
    blinded: 'whether codes only are shown',
    coloured: 'which two are coloured',
  },
}

const traits: Section = {
  name: 'Traits',
  schema: Traits,
  fields: {
    observed: 'observed traits',
    derived: 'traits worked out',
    visits: 'visits',
    response: 'the response that matters',
    yieldTrait: 'the marketed yield',
    qualityTrait: 'the quality',
    smallestDifference: 'smallest difference worth knowing',
  },
}

const amounts: Section = {
  name: 'Amounts',
  schema: Amounts,
  fields: {
    supply: 'product',
    common: 'what every plot gets',
    sheets: 'worksheets',
    products: 'products',
    doses: 'what is put on',
    actual: 'what really went out',
    spreadable: 'least that is spread dry',
  },
}

const prices: Section = {
  name: 'Prices',
  schema: Prices,
  fields: {
    currency: 'currency',
    pricePerTonne: 'price of the yield',
    baseQuality: 'quality the price is for',
    percentPerPoint: 'price by quality',
    productPrice: 'price of the product',
    applicationCost: 'cost of a pass',
    otherCost: 'other costs',
    reference: 'what everything is held against',
  },
}

const site: Section = {
  name: 'Site',
  schema: Site,
  fields: {
    name: 'name',
    soil: 'soil and slope',
    'facts.place': 'place',
    'facts.history': 'history',
    'facts.troubles': 'what it suffers from',
    'facts.crops': 'previous crops',
    'facts.soilTests': 'soil tests',
    shelf: 'site on the shelf',
    without: 'treatments it does not have',
    season: 'season',
    again: 'whose plots these are',
    'ground.plotWidth': 'plot width',
    'ground.plotLength': 'plot length',
    'ground.harvestWidth': 'harvested width',
    'ground.harvestLength': 'harvested length',
    'ground.across': 'how many side by side',
    'ground.plotGap': 'gap between plots',
    'ground.rowAlley': 'alley between rows',
    'ground.groupGap': 'gap between main plots',
    'ground.blockAlley': 'alley between blocks',
    'ground.border': 'border',
    'ground.serpentine': 'way the numbers run',
    'ground.rows': 'crop rows',
    'ground.stretches': 'stretches of row that are harvested',
    'ground.pathEvery': 'plots between paths',
    'ground.pathWidth': 'width of a path',
    'ground.guardPlots': 'guard plots',
    'ground.guardRows': 'guard rows',
    'ground.fillers': 'fillers',
    'ground.round': 'round pots',
    'ground.offset': 'rows set aside',
    'ground.anchor': 'where it lies',
    'ground.bearing': 'bearing',
    'ground.gradient': 'arrow of what changes',
    'ground.outline': 'edge of the ground',
    'ground.avoid': 'ground to avoid',
    'ground.moved': 'where groups lie',
    'ground.parts': 'parts',
    'ground.numbering': 'numbers on the stakes',
    'ground.orders': 'orders of the rounds',
    'design.key': 'design',
    'design.replicates': 'replicates',
    'design.unit': 'what is treated',
    'design.plants': 'plants observed one by one',
    'design.walked': 'what one walks to',
    'design.placed': 'what stands on the larger units',
    'design.settings': 'what the design is told',
  },
}

const named: Readonly<Record<string, Section>> = { question, treatments, traits, amounts, prices }

/** The section of this name: `question`, …, `sites` for which there are, `site:KEY` for one of them. */
export function sectionOf(key: string): Section | undefined {
  if (key.startsWith('site:')) return site
  if (key === 'sites') return { name: 'Sites', schema: Site, fields: {} }
  return Object.hasOwn(named, key) ? named[key] : undefined
}

/** All sections of a trial. */
export function sectionKeys(trial: Pick<TrialDraft, 'sites'>): string[] {
  return [...Object.keys(named), 'sites', ...trial.sites.map((each) => `site:${each.key}`)]
}

/** Versions of a trial that has just been begun. */
export function firstVersions(trial: Pick<TrialDraft, 'sites'>): Record<string, number> {
  return Object.fromEntries(sectionKeys(trial).map((key) => [key, 1]))
}

/** A field of a section as a person calls it: never a raw key. */
export function fieldName(section: string, path: string, trial: Pick<Trial, 'sites'>): string {
  if (section === 'sites') return trial.sites.find((each) => each.key === path)?.name ?? 'a site'
  return sectionOf(section)?.fields[path] ?? 'something else'
}

/** A section as a person calls it, one of several sites by its name. */
export function sectionName(section: string, trial: Pick<Trial, 'sites'>): string {
  if (!section.startsWith('site:')) return sectionOf(section)?.name ?? 'Trial'
  const name = trial.sites.find((each) => `site:${each.key}` === section)?.name
  return name ?? 'Site'
}
