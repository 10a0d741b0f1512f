import type { Factor, Structure, Unit } from '../trial/index.ts'

export interface DesignRequest {
  readonly factors: readonly Factor[]
  readonly replicates: number
  readonly seed: number
  readonly siteName: string
  /** Makes the ids of new units, so that nothing here depends on chance but the seed. */
  readonly newId: () => string
}

/** What a design yields: the unit structure and the units, plots in order of their numbers within blocks. */
export interface DesignedUnits {
  readonly structure: Structure
  readonly units: readonly Unit[]
}

/** One file a design, all of this shape. */
export interface Design {
  readonly key: string
  readonly name: string
  /** In words for the person: what it is for. */
  readonly about: string
  /** What is missing or impossible, each said so that it can be mended; empty when it can be laid out. */
  problems(request: Pick<DesignRequest, 'factors' | 'replicates'>): string[]
  /** Degrees of freedom left to judge the treatments by, with nothing lost. */
  errorDf(request: Pick<DesignRequest, 'factors' | 'replicates'>): number
  randomise(request: DesignRequest): DesignedUnits
}
