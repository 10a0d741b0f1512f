import { formatPlain } from './format.ts'
import { OXIDES } from './oxides.ts'
import { convert, findUnit, sameDimension, unitOf } from './unit.ts'

export type ParsedQuantity =
  | {
      ok: true
      /** In the stored unit. */
      value: number
      typedValue: number
      typedUnit: string
    }
  | { ok: false; problem: string }

const NUMBER = /^([+\-\u2212]?(?:\d[\d\s\u202f\u00a0]*)?(?:[.,]\d+)?(?:e[+\-\u2212]?\d+)?)\s*(.*)$/i
/** Names of nutrients people write inside a rate (`kg N/ha`); they label the rate and do not change its unit. */
const NUTRIENT = /\s+(n|p|k|s|mg|ca|zn|b|fe|mn|cu|na|cl|p2o5|k2o|so3|mgo|cao)\s*(?=\/)/i

/**
 * Reads what a person typed into a field whose numbers are stored in `stored` and shown in
 * `assumed`: `120`, `120 kg/ha`, `107 lb/ac`, `1,5 t/ha`, `120 kg N/ha`.
 * A lone comma is a decimal comma; blanks inside digits are ignored.
 */
export function parseQuantity(text: string, stored: string, assumed: string = stored): ParsedQuantity {
  const trimmed = text.trim()
  const match = NUMBER.exec(trimmed)
  const digits =
    match?.[1]
      ?.replace(/[\s\u202f\u00a0]/g, '')
      .replace(/\u2212/g, '-')
      .replace(',', '.') ?? ''
  const typedValue = Number(digits)
  if (digits === '' || !Number.isFinite(typedValue)) {
    return { ok: false, problem: trimmed === '' ? 'Nothing typed.' : `“${clip(trimmed)}” is not a number.` }
  }
  const typedRest = match?.[2] ?? ''
  const oxide = asOxide(typedValue, typedRest)
  if (oxide) return { ok: false, problem: oxide }
  const rest = typedRest.replace(NUTRIENT, '')
  const unit = rest.trim() === '' ? unitOf(assumed) : findUnit(rest, stored)
  const byEye = unit ? null : takenByEye(rest)
  if (byEye) return { ok: false, problem: byEye }
  if (!unit) return { ok: false, problem: `“${clip(rest.trim())}” is not a unit known here. Try ${unitHint(stored, assumed)}.` }
  if (!sameDimension(unit.dimension, unitOf(stored).dimension)) {
    return {
      ok: false,
      problem: `${unit.symbol || 'A plain number'} cannot be a value in ${stored || 'no unit'}. Try ${unitHint(stored, assumed)}.`,
    }
  }
  return { ok: true, value: convert(typedValue, unit.symbol, stored), typedValue, typedUnit: unit.symbol }
}

/** Why a measure that is taken by eye is refused, and what to do instead. */
function takenByEye(text: string): string | null {
  const found = /\b(tsp|teaspoons?|tbsp|tablespoons?|cups?|scoops?|handfuls?|pinch(?:es)?|capfuls?|caps?|drops?|dash(?:es)?)\b/i.exec(
    text,
  )?.[1]
  return found
    ? `“${found.toLowerCase()}” is no measure here: what it holds differs with the spoon, the hand and how the product lies in it. Weigh it, or measure its volume in mL.`
    : null
}

/** Amounts are of elements: what an amount of an oxide is as its element, in words, so that nobody has to work it out. */
function asOxide(value: number, rest: string): string | null {
  const typed = NUTRIENT.exec(rest)?.[1]?.toUpperCase()
  const name = Object.keys(OXIDES).find((each) => each.toUpperCase() === typed)
  if (name === undefined) return null
  const { element, share } = OXIDES[name]!
  const unit = rest.replace(NUTRIENT, '').trim()
  const told = (what: string): string => unit.replace('/', ` ${what}/`)
  return `Amounts here are of the element: ${formatPlain(value, 6)} ${told(name)} is ${formatPlain(value * share, 4)} ${told(element)}. Type that.`
}

function unitHint(stored: string, assumed: string): string {
  return stored === assumed ? stored || 'a number alone' : `${assumed} or ${stored}`
}

function clip(text: string): string {
  return text.length > 30 ? `${text.slice(0, 30)}…` : text
}
