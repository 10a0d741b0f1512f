import { visitsOf, type Reading, type Trait, type Unit } from '../trial/index.ts'
import type { BookTrial, TrialBook } from './trial-book.ts'

/** One thing to be read where one stands: a trait of a unit, and of a sample of it. */
export interface Field {
  readonly unit: string
  readonly code: string
  readonly kind: Unit['kind']
  readonly trait: string
  readonly sample: number
  /** Of several samples. */
  readonly samples: number
  /** Readings that stand, of any observer; two of one observer are a conflict. */
  readonly readings: readonly Reading[]
}

/** Traits taken at a visit, in their order; only one where that is asked. */
export function traitsAt({ traits }: BookTrial, visit: string, only?: string | null): Trait[] {
  return traits.observed.filter((trait) => visitsOf(traits, trait.key).includes(visit) && (!only || trait.key === only))
}

/** Everything that is read at one stop of the walk: on the unit itself, on the plants in it, sample by sample. */
export function fieldsAt(book: TrialBook, traits: readonly Trait[], stop: Unit, visit: string): Field[] {
  return traits.flatMap((trait) =>
    book.readOn(stop, trait).flatMap((unit) => {
      const standing = [...book.standing(unit.id, trait.key, visit).values()].flat()
      return Array.from({ length: trait.samples }, (_, i): Field => ({
        unit: unit.id,
        code: unit.code,
        kind: unit.kind,
        trait: trait.key,
        sample: i + 1,
        samples: trait.samples,
        readings: standing.filter((reading) => reading.sample === i + 1),
      }))
    }),
  )
}

export interface StopTally {
  /** Things to be read at the stop, and those that have a value or a reason. */
  readonly filled: number
  readonly of: number
}

export function tallyAt(book: TrialBook, traits: readonly Trait[], stop: Unit, visit: string): StopTally {
  let [filled, of] = [0, 0]
  for (const trait of traits) {
    for (const unit of book.readOn(stop, trait)) {
      of += trait.samples
      filled += Math.min(trait.samples, book.filled(unit.id, trait.key, visit))
    }
  }
  return { filled, of }
}

/** How far the walk of a site has come, and the first stop where something is still to be read. */
export function walkTally(
  book: TrialBook,
  traits: readonly Trait[],
  site: string,
  visit: string,
): { readonly done: number; readonly of: number; readonly firstOpen: string | null } {
  let done = 0
  let firstOpen: string | null = null
  const stops = book.walked(site)
  for (const stop of stops) {
    const { filled, of } = tallyAt(book, traits, stop, visit)
    if (filled >= of) done++
    else firstOpen ??= stop.id
  }
  return { done, of: stops.length, firstOpen }
}
