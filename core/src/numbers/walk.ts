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
      const samples = samplesWanted(book, unit, trait, visit, standing.length)
      return Array.from({ length: samples }, (_, i): Field => ({
        unit: unit.id,
        code: unit.code,
        kind: unit.kind,
        trait: trait.key,
        sample: i + 1,
        samples,
        readings: standing.filter((reading) => reading.sample === i + 1),
      }))
    }),
  )
}

/** Of what is gone only what was read all the same. */
function samplesWanted(book: TrialBook, unit: Unit, trait: Trait, visit: string, read: number): number {
  return book.gone(unit.id, visit) ? (read > 0 ? trait.samples : 0) : book.samplesAt(unit.id, trait, visit)
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
      const read = book.filled(unit.id, trait.key, visit)
      const wanted = samplesWanted(book, unit, trait, visit, read)
      of += wanted
      filled += Math.min(wanted, read)
    }
  }
  return { filled, of }
}

/** How far the walk of a site has come, and the first stop where something is still to be read; kept up to date stop by stop. */
export class WalkTally {
  readonly #book: TrialBook
  readonly #traits: readonly Trait[]
  readonly #visit: string
  readonly #stops: readonly Unit[]
  readonly #place: ReadonlyMap<string, number>
  readonly #done: Uint8Array
  #count = 0

  constructor(book: TrialBook, traits: readonly Trait[], site: string, visit: string) {
    this.#book = book
    this.#traits = traits
    this.#visit = visit
    this.#stops = book.walked(site, visit)
    this.#place = new Map(this.#stops.map((stop, i) => [stop.id, i]))
    this.#done = new Uint8Array(this.#stops.length)
    this.touch(this.#stops.map((stop) => stop.id))
  }

  /** These units may have been read since; those that are no stops are passed over. */
  touch(units: Iterable<string>): void {
    for (const id of units) {
      const place = this.#place.get(id)
      if (place === undefined) continue
      const { filled, of } = tallyAt(this.#book, this.#traits, this.#stops[place]!, this.#visit)
      const done = filled >= of ? 1 : 0
      this.#count += done - this.#done[place]!
      this.#done[place] = done
    }
  }

  told(): { readonly done: number; readonly of: number; readonly firstOpen: string | null } {
    return { done: this.#count, of: this.#stops.length, firstOpen: this.#stops[this.#done.indexOf(0)]?.id ?? null }
  }
}
