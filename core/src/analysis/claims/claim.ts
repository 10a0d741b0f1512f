import type { EvidenceClass } from '../evidence.ts'

/** One side of a comparison: a level of a term, its factors' levels joined by `:`; several: their mean. */
export interface Side {
  readonly term: string
  readonly levels: readonly string[]
}

/**
 * How far two sides are apart, as they are told: in the trait's unit, as a ratio of geometric means, or,
 * of a scale on which a difference has no unit of its own, by both means brought back.
 */
export interface Size {
  readonly as: 'difference' | 'ratio' | 'bent'
  /** Of a ratio how many times; of a bent scale on that scale. */
  readonly estimate: number
  /** Of the difference, on the scale of the analysis. */
  readonly se: number
  readonly df: number
  /** NaN where there are none; infinite on the side a one-sided question leaves open. */
  readonly lower: number
  readonly upper: number
  /** On the scale of the response. */
  readonly means: readonly [what: number, against: number]
  /** Comparisons the limits allow for; 1: this one alone. */
  readonly allowsFor: number
}

/**
 * How surely: told apart; near enough to the level set that either side of it reads alike; not told apart;
 * described, since nothing tells chance.
 */
export type Strength = 'told' | 'narrow' | 'open' | 'described'

/** Where a claim holds: at one level of another factor, or at one site. */
export interface At {
  readonly factor: string
  readonly level: string
}

interface Evident {
  readonly evidence: EvidenceClass
  readonly why: string
}

/** One thing set against another. */
export interface Difference extends Evident {
  readonly kind: 'difference'
  /** planned beforehand, against the control, the widest of all pairs, or of one factor at a level of another. */
  readonly origin: 'planned' | 'control' | 'pair' | 'simple' | 'step'
  /** Of a planned comparison. */
  readonly name: string | null
  readonly late: boolean
  readonly what: Side
  readonly against: Side
  readonly size: Size
  readonly p: number
  readonly strength: Strength
  readonly at: readonly At[]
  /** Comparisons its limits were to allow for, and those it was picked from where it stands. */
  readonly among: number
  readonly picked: number
  readonly reservations: readonly Reservation[]
}

/** What must be known with a claim for it to be true. */
export type Reservation =
  | { readonly kind: 'averaged'; readonly over: string; readonly differs: boolean }
  | { readonly kind: 'adjusted'; readonly covariate: string; readonly at: number; readonly elsewhere: boolean }
  | { readonly kind: 'own errors' }
  | { readonly kind: 'one-sided'; readonly side: 'greater' | 'less' }
  | { readonly kind: 'widest'; readonly pairs: number; readonly allowed: boolean; readonly byChance: number }

/** All levels of a factor at once. */
export interface Whole extends Evident {
  readonly kind: 'whole'
  readonly term: string
  readonly levels: number
  readonly f: number
  readonly p: number
  readonly strength: Strength
  /** Pairs that were looked at, and those told apart; 0 and 0 where none were compared. */
  readonly pairs: number
  readonly told: number
  /** Where each was held against it. */
  readonly against: Side | null
  /** What a one-sided question asked; null both ways. */
  readonly side: 'greater' | 'less' | null
  /** Apart from what was planned, which was told. */
  readonly afterPlanned: boolean
  /** Pairs were kept back, as asked, for want of a significant F. */
  readonly kept: boolean
  readonly widest: Difference | null
}

/** What else was set against the control, or the other pairs of few levels. */
export interface Others extends Evident {
  readonly kind: 'others'
  readonly term: string
  readonly against: Side | null
  readonly told: readonly Difference[]
  readonly narrow: readonly Difference[]
  readonly open: readonly Difference[]
  /** The other way than a one-sided question asks, judged by themselves both ways. */
  readonly unasked: readonly Difference[]
  /** Further controls among them. */
  readonly controls: readonly string[]
  /** Of all pairs, where they are too many to be named. */
  readonly counts: { readonly told: number; readonly pairs: number; readonly top: string; readonly near: readonly string[] } | null
}

/** Whether the effect of one factor depends on another, and what it is at each level of that. */
export interface Dependence extends Evident {
  readonly kind: 'dependence'
  readonly factors: readonly string[]
  /** Whose effect is told, and at what. */
  readonly acting: string
  readonly modifier: string
  readonly f: number
  readonly p: number
  readonly strength: Strength
  readonly effects: readonly Difference[]
  /** Told apart one way at some levels and the other way at others. */
  readonly turns: boolean
  /** Not looked at, as asked, or since combinations were not grown. */
  readonly notAsked: boolean
  readonly ownErrors: boolean
}

/** How a trait goes along a ladder of amounts. */
export interface Ladder extends Evident {
  readonly kind: 'ladder'
  readonly factor: string
  readonly shape: 'rising' | 'falling' | 'level off' | 'past its best'
  /** From where on no further gain was seen, or the best rate. */
  readonly turn: string
  readonly last: string
  /** The last step that is still a gain, the largest gain that may hide beyond, or the fall from the best. */
  readonly step: Difference | null
  readonly hidden: number | null
  readonly better: 'more' | 'less' | 'neither'
}

/** The straight part, or the bend, of how a trait goes along amounts, as planned. */
export interface Trend extends Evident {
  readonly kind: 'trend'
  readonly name: string
  readonly late: boolean
  readonly factor: string
  readonly degree: number
  readonly reservations: readonly Reservation[]
  readonly size: Size
  /** So many of the factor's measure the size is told for. */
  readonly per: number
  readonly p: number
  readonly strength: Strength
}

/** A comparison planned with weights that are no plain means. */
export interface Weighted extends Evident {
  readonly kind: 'weighted'
  readonly name: string
  readonly late: boolean
  readonly factors: readonly string[]
  readonly reservations: readonly Reservation[]
  readonly size: Size
  readonly p: number
  readonly strength: Strength
}

/** Means and no more. */
export interface Described extends Evident {
  readonly kind: 'described'
  readonly term: string
  readonly rows: readonly { readonly level: string; readonly mean: number; readonly n: number }[]
  readonly all: number
  readonly unit: string
  /** Single units of levels that stand beside others that are tested. */
  readonly single: boolean
  readonly reason: 'no replication' | 'nothing left' | 'no spread' | 'constant' | 'one level' | 'no error' | 'confounded' | 'single'
  /** What cannot be told apart from it. */
  readonly with: string | null
}

/** Where the smallest difference worth knowing lies against what was found. */
export interface Worth extends Evident {
  readonly kind: 'worth'
  readonly smallest: number
  /** The factor it is of, where there are several; else null. */
  readonly of: string | null
  /** Only what is better counts. */
  readonly oriented: boolean
  readonly verdict: 'surpassed' | 'may be' | 'below' | 'none left' | 'open'
}

/** Pairs shown to be closer than a margin. */
export interface Alike extends Evident {
  readonly kind: 'alike'
  readonly term: string
  readonly margin: Margin
  readonly pairs: number
  readonly shown: readonly { readonly a: string; readonly b: string }[]
}

/** As it was typed; on another scale as a ratio, or as what it comes to around a mean. */
export interface Margin {
  readonly typed: number
  readonly as: 'difference' | 'ratio' | 'bent'
  readonly ratio: number
  readonly around: { readonly mean: number; readonly difference: number } | null
}

/** One unit without which the answer is another. */
export interface OnePlot extends Evident {
  readonly kind: 'one plot'
  readonly unit: string
  readonly code: string
  readonly site: string | null
  readonly value: number
  /** The claim it stands with. */
  readonly of: string
  /** Carries what is claimed, or hides what would be. */
  readonly way: 'carries' | 'hides'
  readonly without: readonly Claim[]
}

/** A level that does otherwise at one site than all else there. */
export interface OddAtSite extends Evident {
  readonly kind: 'odd at a site'
  readonly term: string
  readonly level: string
  readonly site: string
  readonly control: boolean
  /** All else is held against it. */
  readonly base: boolean
  readonly away: number
  readonly p: number
}

export type Claim = Difference | Whole | Others | Dependence | Ladder | Trend | Weighted | Described | Worth | Alike | OnePlot | OddAtSite
