import type { DesignChoice, Ground, Structure, Treatments, Unit, UnitKind } from '../trial/index.ts'
import type { SearchWatch } from './exchange-search.ts'
import type { Chance } from './random.ts'

/** What a design is asked about: what is to be compared, and how the site wants it laid out. */
export interface DesignQuestion {
  readonly treatments: Treatments
  readonly choice: DesignChoice
}

export type SettingValue = DesignChoice['settings'][string]

/** Something a design asks besides its replicates; the form and the command line follow from it. */
export interface DesignSetting {
  readonly key: string
  readonly name: string
  readonly kind: 'count' | 'yes' | 'choice'
  /** What it is for, in a few words. */
  readonly about: string
  /** What is taken where nothing was said. */
  usual(question: DesignQuestion): SettingValue
  /** Of a count: least and most. */
  range?(question: DesignQuestion): readonly [number, number]
  /** Of a choice. */
  options?(question: DesignQuestion): readonly { readonly value: string; readonly name: string }[]
}

export interface DesignRequest extends DesignQuestion {
  readonly chance: Chance
  /** How many of a kind the ground has side by side, where it says so, and whether every other row of plots runs back. */
  readonly across: Ground['across']
  readonly toAndFro: boolean
  /** Whether a plan that has to be searched is searched, and who is told meanwhile; null for an outline. */
  readonly searching: { readonly watch: SearchWatch | null } | null
  readonly seed: number
  /** By which draw: `DRAW`, or that of an older plan that is made again. */
  readonly draw: number
  readonly siteName: string
  /** Stands before every code where a trial has several sites, so that no two stakes are alike. */
  readonly prefix: string
  /** Makes the ids of new units, so that nothing here depends on chance but the seed. */
  readonly newId: () => string
}

/** What a design yields: the unit structure, and the units with their place in the grid of what holds them. */
export interface DesignedUnits {
  readonly structure: Structure
  readonly units: readonly Unit[]
}

/** What is left to judge by, with nothing lost. */
export interface DesignFigures {
  /** Treated units at the site. */
  readonly units: number
  /** How often each treatment stands, in the order of the list. */
  readonly times: readonly number[]
  /** By the kind of unit whose differences are the error, coarse to fine: degrees of freedom, and the factors held against it. */
  readonly errors: readonly { readonly unit: UnitKind; readonly df: number; readonly factors: readonly string[] }[]
  /** Of comparisons between treatments, against complete blocks with the same error; 1 when nothing is given away, null where the plan has to be searched first. */
  readonly efficiency: number | null
}

/** A larger unit that a design can put factors on. */
export interface DesignSize {
  readonly kind: UnitKind
  readonly name: string
}

/** One file a design, all of this shape; the list is in `index.ts`. */
export interface Design {
  readonly key: string
  readonly name: string
  /** In words for the person: what it is for, and what it costs. */
  readonly about: string
  /** What one of its replicates is. */
  readonly repeat: string
  /** How treatments were dealt out, for the plan and the report. */
  readonly dealt: string
  /** Units larger than the treated one that factors can be put on; none for most designs. */
  readonly sizes: readonly DesignSize[]
  /** Whether every factor must be put on one of these, or the rest go on the treated unit. */
  readonly everyFactorSized: boolean
  readonly settings: readonly DesignSetting[]
  /** Whether its plans are searched, which takes seconds. */
  readonly searched?: boolean
  /** What is missing or impossible, each said so that it can be mended; empty when it can be laid out. */
  problems(question: DesignQuestion): string[]
  figures(question: DesignQuestion): DesignFigures
  deal(request: DesignRequest): DesignedUnits
}
