import type { Remaining } from '@canter/core/amounts'
import type { Analysis } from '@canter/core/analysis'
import { measureOf, type UnitView } from '@canter/core/numbers'
import { formatNumber, formatPlain, shown, withUnit, type UnitSystem } from '@canter/core/quantity'
import type { DerivedTrait, Trait, Unit } from '@canter/core/trial'
import type { OpenGround } from '../../data/open-trial.ts'
import { inkOn, type TreatmentColour } from '@canter/core/ground'
import type { PlotLook } from '../plan.tsx'

/** What a colouring may look at. */
export interface Ground {
  readonly open: OpenGround
  readonly views: ReadonlyMap<string, UnitView>
  readonly trait: Trait | DerivedTrait
  readonly analysis: Analysis | null
  readonly colours: ReadonlyMap<string, TreatmentColour>
  readonly system: UnitSystem
  /** The pass that is looked at, if one was chosen. */
  readonly pass: string | null
  /** Of plots that are not whole any more what remains, and since when. */
  readonly left: Remaining
}

/** What the colours mean: a ramp with its ends, swatches with their names, or the treatments. */
export type Key =
  | { readonly kind: 'ramp'; readonly name: string; readonly low: string; readonly high: string; readonly stops: string }
  | { readonly kind: 'swatches'; readonly swatches: readonly { readonly fill: string; readonly name: string }[] }
  | { readonly kind: 'treatments'; readonly note?: string }

export interface Look {
  readonly of: (unit: Unit) => PlotLook
  readonly key: Key
  /** What the look of a unit rests on in the views of the others, as the ends of a scale: while it is the same, a change of one unit is seen on that unit alone. */
  readonly rests?: string
}

/** One file a way of colouring the plan, all of this shape; the list is in `index.ts`. */
export interface Colouring {
  readonly key: string
  readonly name: string
  /** Whether it needs the analysis of the trait shown. */
  readonly analysed: boolean
  /** Whether there is anything to show by it. */
  readonly available: (open: OpenGround) => boolean
  readonly look: (ground: Ground) => Look
}

/** How a unit looks by what it is and what it got: what every colouring starts from. */
export function base({ open, views, colours }: Ground, unit: Unit): PlotLook {
  const treatment = open.treatmentOf(unit.id)
  const colour = treatment ? colours.get(treatment.key) : undefined
  const view = views.get(unit.id)
  const missing = view?.state === 'missing'
  const said = [view?.leftOut ? ', left out' : '', missing ? ', missing' : '', view?.flagged ? ', flagged' : ''].join('')
  const happened = (view?.happened ?? []).map((kind) => `, ${kind}`).join('')
  return {
    fill: colour?.fill ?? '#fffefb',
    ink: colour?.ink ?? '#1d201d',
    hatched: colour?.hatched ?? false,
    lines: codeLines(treatment?.code),
    crossed: (view?.leftOut ?? false) || (view?.gone ?? false) || missing,
    ringed: false,
    about: `${capital(unit.kind)} ${unit.code}, ${treatment?.name ?? 'no treatment yet'}${said}${happened}`,
  }
}

/** The same under another fill and other lines. */
export function painted(ground: Ground, unit: Unit, fill: string, lines: readonly string[], more: Partial<PlotLook> = {}): PlotLook {
  const from = base(ground, unit)
  return { ...from, fill, ink: inkOn(fill), hatched: false, lines, ...more, about: [from.about, ...lines].join(', ') }
}

/** A code as it stands on a plot: one line a factor, so that it can be read on a narrow one. */
export function codeOf({ open }: Ground, unit: Unit): string[] {
  return codeLines(open.treatmentOf(unit.id)?.code)
}

export function codeLines(code: string | undefined): string[] {
  return code ? code.split('·') : []
}

/** A number of the trait in the reader's measure, without it. */
export function traitNumber({ trait, system }: Pick<Ground, 'trait' | 'system'>, value: number): string {
  const out = shown(value, measure(trait), system).value
  return measure(trait) === 'score' ? formatPlain(out, 2) : formatNumber(out, 3)
}

export function rampKey(ground: Ground, low: number, high: number): Key {
  const number = (value: number): string => traitNumber(ground, value)
  const unit = shown(1, measure(ground.trait), ground.system).unit
  return { kind: 'ramp', name: ground.trait.name, low: number(low), high: withUnit(number(high), unit), stops: '#f6efe2, #c78fae, #5c1a49' }
}

/** The measure of what a trait comes to. */
export function measure(trait: Trait | DerivedTrait): string {
  if (!('kind' in trait)) return trait.unit
  return measureOf(trait)
}

export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
