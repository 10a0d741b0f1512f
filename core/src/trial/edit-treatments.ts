import { MONTHS } from './day.ts'
import { findUnit, formatPlain, parseQuantity, shownUnit, type UnitSystem } from '../quantity/index.ts'
import { nutrientOf, type Factor, type Level } from './factor.ts'
import { Nutrient, nutrientName } from './nutrient.ts'
import { crossFactors, isInside, withList, type Treatment, type Treatments } from './treatment.ts'

/** Whether a factor still has the name its nutrient gave it, or none: then another nutrient names it anew. */
export function hasGivenName({ name }: Pick<Factor, 'name'>): boolean {
  return name === '' || Nutrient.options.some((each) => nutrientName(each) === name)
}

/** Code and name that follow from an amount, the code kept apart from those already used. */
export function nameAmount(factor: Factor, amount: number, taken: ReadonlySet<string>): Pick<Level, 'code' | 'name'> {
  const plain = formatPlain(amount, 4)
  const nutrient = nutrientOf(factor)
  const letter = nutrient ?? (factor.kind === 'timing' ? (factor.measure === 'wk' ? 'W' : 'D') : 'R')
  if (factor.kind === 'timing' && factor.after)
    return { code: freeCode(`${letter}${plain}`, taken), name: `${plain} ${factor.measure} after ${factor.after}`.slice(0, 80) }
  const measure = nutrient ? factor.measure.replace(/^(\w+)/, `$1 ${nutrient}`) : factor.measure
  const of = factor.of && factor.of.what !== 'nutrient' ? ` of ${factor.of.name}` : ''
  return { code: freeCode(`${letter}${plain}`, taken), name: `${plain} ${measure}${of}`.trim().slice(0, 80) }
}

function freeCode(wanted: string, taken: ReadonlySet<string>): string {
  const code = wanted.slice(0, 8)
  if (!taken.has(code)) return code
  for (let n = 2; ; n++) {
    const other = `${code.slice(0, 7 - String(n).length)}.${n}`
    if (!taken.has(other)) return other
  }
}

function freeKey(taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) if (!taken.has(`l${n}`)) return `l${n}`
}

export type TypedLevels = { ok: true; levels: Level[] } | { ok: false; problem: string }

/**
 * Levels as somebody types them in one line: amounts (`0 60 120`, `0, 30, 60 kg/ha`), or names parted
 * by commas (`early, main, late`). A level that stands already keeps its key, so that what follows from it stays.
 */
export function levelsFromText(factor: Factor, typed: string, system: UnitSystem): TypedLevels {
  const amounts = factor.measure !== ''
  const parts = amounts ? amountsIn(typed) : namesIn(factor, typed)
  const words = parts.filter(Boolean)
  if (words.length === 0)
    return {
      ok: false,
      problem: amounts ? 'Type amounts, for example 0 60 120.' : 'Type names with commas between, for example early, main, late.',
    }
  const levels: Level[] = []
  const codes = new Set<string>()
  const keys = new Set<string>()
  for (const word of words) {
    let level: Pick<Level, 'code' | 'name' | 'amount' | 'passes'>
    if (amounts) {
      const read = parseQuantity(word, factor.measure, shownUnit(factor.measure, system))
      if (!read.ok) return { ok: false, problem: read.problem }
      if (read.value < 0) return { ok: false, problem: `“${word}” is below zero.` }
      const amount = Number(read.value.toPrecision(9))
      if (levels.some((each) => each.amount === amount)) return { ok: false, problem: `“${word}” stands there twice.` }
      level = { ...nameAmount(factor, amount, codes), amount }
    } else {
      const name = word.slice(0, 80)
      if (levels.some((each) => each.name.toLowerCase() === name.toLowerCase()))
        return { ok: false, problem: `“${name}” stands there twice.` }
      const passes = factor.kind === 'practice' ? passesIn(word) : null
      level = { code: freeCode(passes ? codeOfPasses(passes) : codeFrom(name), codes), name, amount: null, ...(passes ? { passes } : {}) }
    }
    const known = factor.levels.find((each) =>
      amounts ? each.amount === level.amount : each.name.toLowerCase() === level.name.toLowerCase(),
    )
    const key = known && !keys.has(known.key) ? known.key : freeKey(new Set([...keys, ...factor.levels.map((each) => each.key)]))
    keys.add(key)
    codes.add(level.code)
    const { second, class: member } = known ?? {}
    levels.push({ key, ...level, ...(second ? { second } : {}), ...(member ? { class: member } : {}) })
  }
  return { ok: true, levels }
}

/** Levels of these names, or of these amounts in the factor's measure; they differ. */
export function levelsNamed(factor: Factor, values: readonly (string | number)[]): Level[] {
  const codes = new Set<string>()
  return values.map((value, i): Level => {
    const named =
      typeof value === 'number'
        ? { ...nameAmount(factor, value, codes), amount: value }
        : { code: freeCode(codeFrom(value), codes), name: value.slice(0, 80), amount: null }
    codes.add(named.code)
    return { key: `l${i + 1}`, ...named }
  })
}

/** Names parted by commas or lines; of times also a date with “every n d × k”. */
function namesIn(factor: Factor, typed: string): string[] {
  const series =
    factor.kind === 'timing' ? /^(.+?)\s+every\s+(\d+)\s*(?:d|days?)\s*[×x*,]?\s*(\d+)\s*(?:times)?$/i.exec(typed.trim()) : null
  const first = series && dayIn(series[1]!)
  if (series && first !== null) {
    const count = Math.min(60, Number(series[3]))
    return Array.from({ length: count }, (_, i) => dayName(first + i * Number(series[2])))
  }
  return typed.split(/[,;\n]/).map((part) => part.trim())
}

const LENGTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]

/** A date as typed (2027-04-10, 10 April) as a day of a common year, from 0; null when it is none. */
function dayIn(text: string): number | null {
  const iso = /^\d{4}-(\d{2})-(\d{2})$/.exec(text.trim())
  const spoken = /^(\d{1,2})\.?\s+([a-z]{3,})$/i.exec(text.trim())
  const month = iso ? Number(iso[1]) - 1 : spoken ? MONTHS.findIndex((each) => each.toLowerCase().startsWith(spoken[2]!.toLowerCase())) : -1
  const day = Number(iso ? iso[2] : spoken?.[1])
  if (month < 0 || month > 11 || !(day >= 1) || day > LENGTHS[month]!) return null
  return LENGTHS.slice(0, month).reduce((sum, each) => sum + each, 0) + day - 1
}

function dayName(day: number): string {
  let left = day % 365
  const month = LENGTHS.findIndex((length) => {
    if (left < length) return true
    left -= length
    return false
  })
  return `${left + 1} ${MONTHS[month]}`
}

/** Passes in their order, parted by “>”: `plough 25 cm > harrow 8 cm > roll`. Null for a practice without any named. */
function passesIn(typed: string): Level['passes'] | null {
  const parts = typed
    .split('>')
    .map((part) => part.trim())
    .filter(Boolean)
  if (parts.length < 2 && !/\d\s*cm$/i.test(typed)) return null
  return parts.slice(0, 12).map((part) => {
    const depth = /^(.*?)[\s,]+(\d+(?:[.,]\d+)?)\s*cm$/i.exec(part)
    return depth ? { tool: depth[1]!.slice(0, 60), depth: Number(depth[2]!.replace(',', '.')) } : { tool: part.slice(0, 60), depth: null }
  })
}

/** Amounts parted by blanks, commas or semicolons; a measure named once after the last goes for all. */
function amountsIn(typed: string): string[] {
  const multiples = /^([\d\s.,;]+)\s*[×x*]\s*(\d+(?:[.,]\d+)?)\s*(.*)$/i.exec(typed.trim())
  if (multiples) {
    const base = Number(multiples[2]!.replace(',', '.'))
    const parts = multiples[1]!.split(/[\s;]+|,(?=\s)/).filter(Boolean)
    const measure = multiples[3]!.trim()
    return amountsIn(`${parts.map((each) => formatPlain(Number(each.replace(',', '.')) * base, 9)).join(' ')} ${measure}`)
  }
  const match = /^([\d\s.,;]+)\s*([^\d\s.,;].*)?$/.exec(typed.trim())
  if (!match) return [typed.trim()]
  const numbers = match[1]!.split(/[\s;]+|,(?=\s)|,(?=\d{3}\b)/).filter(Boolean)
  const measure = match[2]?.trim()
  return measure && findUnit(measure.replace(/\s+(n|p|k|s|mg)\s*(?=\/)/i, ''))
    ? numbers.map((each) => `${each} ${measure}`)
    : measure
      ? [typed.trim()]
      : numbers
}

/** `P25H8`: the first letter of each tool with its depth. */
function codeOfPasses(passes: NonNullable<Level['passes']>): string {
  return passes.map(({ tool, depth }) => `${tool.charAt(0).toUpperCase()}${depth === null ? '' : formatPlain(depth, 2)}`).join('')
}

/** First letters of a name as a code for a stake. */
function codeFrom(name: string): string {
  const words = name
    .toUpperCase()
    .normalize('NFD')
    .replace(/[^A-Z0-9 ]/g, '')
    .split(' ')
    .filter(Boolean)
  if (words.length === 0) return 'T'
  return words.length === 1
    ? words[0]!.slice(0, 6)
    : words
        .map((word) => (/^\d/.test(word) ? word : word[0]))
        .join('')
        .slice(0, 8)
}

/**
 * The treatments after the factors have changed: every combination of the levels under the names made
 * of theirs, with what was said of those that stay (role, colour); combinations that had been dropped
 * stay dropped, and what stands outside stays outside. The only untreated level of a single rate is
 * the untreated control.
 */
export function withFactors(before: Treatments, factors: readonly Factor[]): Treatments {
  const sameFactors = before.factors.map((each) => each.key).join() === factors.map((each) => each.key).join()
  const keyOf = (levels: Treatment['levels']): string => factors.map((factor) => levels[factor.key]).join('|')
  const kept = new Set(before.list.filter((each) => isInside(each, before.factors)).map((each) => keyOf(each.levels)))
  const dropped = new Set(
    sameFactors
      ? crossFactors(before.factors)
          .map((each) => keyOf(each.levels))
          .filter((each) => !kept.has(each))
      : [],
  )
  const inside = crossFactors(factors, before.list).filter((each) => !dropped.has(keyOf(each.levels)))
  const outside = before.list
    .filter((each) => !isInside(each, before.factors))
    .map((each) => ({ ...each, levels: levelsLeft(each.levels, factors) }))
    .filter((each) => !isInside(each, factors))
  const list = uniqueCodes([...inside, ...outside])
  const [only] = factors
  if (factors.length === 1 && only!.kind === 'rate' && list.every((each) => each.role === 'none')) {
    const zero = only!.levels.find((level) => level.amount === 0)
    return withList(
      { ...before, factors: [...factors] },
      list.map((each) => (zero && each.levels[only!.key] === zero.key ? { ...each, role: 'untreated control' as const } : each)),
    )
  }
  return withList({ ...before, factors: [...factors] }, list)
}

function levelsLeft(levels: Treatment['levels'], factors: readonly Factor[]): Treatment['levels'] {
  return Object.fromEntries(
    Object.entries(levels).filter(([factor, level]) =>
      factors.some((each) => each.key === factor && each.levels.some((own) => own.key === level)),
    ),
  )
}

function uniqueCodes(list: readonly Treatment[]): Treatment[] {
  const taken = new Set<string>()
  return list.map((each) => {
    let code = each.code
    for (let n = 2; taken.has(code); n++) code = `${each.code.slice(0, 13)}.${n}`
    taken.add(code)
    return code === each.code ? each : { ...each, code }
  })
}
