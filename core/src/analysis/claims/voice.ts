import {
  formatConfidence,
  formatFixed,
  formatP,
  formatPlain,
  formatTogether,
  plural,
  shown,
  withUnit,
  type UnitSystem,
} from '../../quantity/index.ts'
import type { Analysis } from '../result.ts'
import { listed } from '../words.ts'
import type { At, Side } from './claim.ts'
import type { FactorWords } from './vocabulary.ts'

/** How a difference in the trait is put: so much more of it, so many fewer, or so much higher. */
type Manner = 'amount' | 'count' | 'points' | 'height'

/** Names, numbers and units of one analysis in the words of whoever reads it. */
export class Voice {
  readonly analysis: Omit<Analysis, 'sentences'>
  readonly system: UnitSystem
  readonly trait: string
  readonly confidence: string
  private readonly manner: Manner
  private readonly shared: ReadonlySet<string>

  constructor(analysis: Omit<Analysis, 'sentences'>, system: UnitSystem) {
    const { trait, vocabulary, significance } = analysis
    this.analysis = analysis
    this.system = system
    this.trait = quotedIf(vocabulary.trait.said, readsAsWords(vocabulary.trait.said))
    this.confidence = `${formatConfidence(significance)} %`
    this.manner = mannerOf(vocabulary.trait.said, trait.unit, trait.kind)
    this.shared = sharedNames(Object.values(vocabulary.factors))
  }

  /** A factor by its name; of a term of several, all of them. */
  factor(key: string): string {
    const parts = key.split(':')
    if (parts.length > 1 && !(key in this.analysis.vocabulary.factors)) return parts.map((part) => this.factor(part)).join(' × ')
    const name = this.analysis.vocabulary.factors[key]?.name ?? key
    return quotedIf(name, WORDS.has(name.toLowerCase()) || BENDING.test(name))
  }

  /** Factors of a term by their names. */
  factors(keys: readonly string[]): string {
    return listed(keys.map((key) => this.factor(key)))
  }

  /** A level as it is spoken of in the middle of a sentence. */
  level(factor: string, key: string): string {
    const words = this.analysis.vocabulary.factors[factor]
    const said = words?.levels[key]
    if (!words || !said) return quotedIf(key, readsAsWords(key))
    const parts = Object.entries(words.parts)
    // A combination is told by its parts.
    if (parts.length > 1 && parts.every(([, of]) => of[key] !== undefined))
      return parts.map(([part, of]) => this.level(part, of[key]!)).join(' with ')
    const own = this.named(words, said)
    const carried = words.carries.flatMap((each) =>
      each.levels[key] ? [{ ...each, said: this.named({ ...words, name: each.name }, each.levels[key]) }] : [],
    )
    const beside = carried.filter((each) => each.both).map((each) => each.said)
    const around = carried.filter((each) => !each.both).map((each) => each.said)
    return [own, ...beside].join(' with ') + (around.length > 0 ? ` (${around.join(', ')})` : '')
  }

  private named({ name, of }: Pick<FactorWords, 'name' | 'of'>, said: FactorWords['levels'][string]): string {
    if (said.amount) {
      const { value, unit, of: what } = said.amount
      if (value === 0) return `no ${name}`
      const out = shown(value, unit, this.system)
      return withUnit(formatPlain(out.value, 3), out.unit, what)
    }
    // Times and places are said with their preposition, and need no more.
    if (of !== 'treatment') return quotedIf(said.name, /^\s|\s$|[:;,]/.test(said.name))
    if (!readsAsWords(said.name) && !this.shared.has(said.name.toLowerCase())) return said.name
    return `${name} ${quotedIf(said.name, readsAsWords(said.name))}`
  }

  /** So many levels of a factor: 8 lines, 3 levels of nitrogen. */
  levels(factor: string, count: number): string {
    const name = this.factor(factor)
    const last = name.split(/\s/).at(-1)!.toLowerCase()
    return KINDS_OF_LEVEL.has(last) ? `${count} ${plural(name, count)}` : `${count} ${plural('level', count)} of ${name}`
  }

  /** Levels of a term's factors, `a with b`; where it was, by its preposition. */
  cell(term: string, level: string): string {
    const keys = term.split(':')
    const levels = keys.length === 1 ? [level] : level.split(':')
    const parts = keys.map((key, i) => ({ key, level: levels[i] ?? level, said: this.level(key, levels[i] ?? level) }))
    const own = parts.filter(({ key }) => this.kindOf(key) === 'treatment').map((each) => each.said)
    const around = parts.filter(({ key }) => this.kindOf(key) !== 'treatment').map(({ key, level }) => this.at([{ factor: key, level }]))
    return [own.join(' with '), ...around].filter(Boolean).join(' ')
  }

  side({ term, levels }: Side): string {
    if (levels.length === 1) return this.cell(term, levels[0]!)
    return levels.length > 6
      ? `the mean of ${levels.length} others`
      : `the mean of ${listed(levels.map((level) => this.cell(term, level)))}`
  }

  kindOf(factor: string): FactorWords['of'] {
    return this.analysis.vocabulary.factors[factor]?.of ?? 'treatment'
  }

  preposition(factor: string): string {
    return this.kindOf(factor) === 'place' ? 'at' : this.kindOf(factor) === 'time' ? (factor === 'season' ? 'in' : 'at') : 'with'
  }

  /** `at Hill, with var1`. */
  at(scope: readonly At[]): string {
    const around = scope.map(({ factor, level }) => this.around(factor, level))
    return around
      .map(({ preposition, said }, i) => {
        const again = i > 0 && around[i - 1]!.preposition === preposition
        return again || preposition === '' ? said : `${preposition} ${said}`
      })
      .join(' and ')
  }

  /** A level with its preposition; a visit called “At sale” has its own. */
  private around(factor: string, level: string): { preposition: string; said: string } {
    const said = this.level(factor, level)
    // A bare number is no name of a place or a time.
    const bare = this.kindOf(factor) !== 'treatment' && !/\p{L}/u.test(said) && factor !== 'season' ? `${this.factor(factor)} ` : ''
    const own = this.kindOf(factor) !== 'treatment' && /^(at|in|on|by|before|after|during|with)\s/i.test(said)
    return own
      ? { preposition: '', said: said.charAt(0).toLowerCase() + said.slice(1) }
      : { preposition: this.preposition(factor), said: `${bare}${said}` }
  }

  /** Numbers in the reader's unit, all to the place their error tells; the last with the unit. */
  together(values: readonly number[], se: number): string[] {
    const { unit } = this.analysis.trait
    const out = values.map((value) => shown(value, unit, this.system).value)
    const error = Math.abs(shown(se, unit, this.system).value - shown(0, unit, this.system).value)
    return formatTogether(out, error)
  }

  /** A value as it was read, in the reader's unit. */
  read(value: number): string {
    return formatPlain(shown(value, this.analysis.trait.unit, this.system).value, 5)
  }

  /** A value of the trait with its unit. */
  value(text: string): string {
    return withUnit(text, spelled(this.unit()))
  }

  unit(): string {
    return shown(0, this.analysis.trait.unit, this.system).unit
  }

  /** A difference with its unit: of shares in percentage points. */
  amount(text: string): string {
    if (this.unit() === '%') return `${text} percentage ${Math.abs(Number(text)) === 1 ? 'point' : 'points'}`
    if (this.analysis.trait.kind === 'score' || this.unit() === 'score') return `${text} ${Math.abs(Number(text)) === 1 ? 'step' : 'steps'}`
    return this.value(text)
  }

  /** What somebody typed, as it was typed. */
  typed(value: number): string {
    return this.amount(formatPlain(shown(value, this.analysis.trait.unit, this.system).value, 6))
  }

  /** `2.7 t/ha more yield`, `3.2 fewer weeds per m²`, `1.2 °C higher temperature`. */
  more(text: string, up: boolean): string {
    switch (this.manner) {
      case 'count':
        return `${text} ${up ? 'more' : 'fewer'} ${this.trait}${per(this.unit(), this.trait)}`
      case 'height':
        return `${this.amount(text)} ${up ? 'higher' : 'lower'} ${this.trait}`
      default:
        return `${this.amount(text)} ${up ? 'more' : 'less'} ${this.trait}`
    }
  }

  /** The same without the trait, after it was named: `2.7 t/ha more`, `3.2 fewer`. */
  moreOnly(text: string, up: boolean): string {
    if (this.manner === 'count') return `${text} ${up ? 'more' : 'fewer'}`
    return `${this.amount(text)} ${this.manner === 'height' ? (up ? 'higher' : 'lower') : up ? 'more' : 'less'}`
  }

  /** The size behind a number in an interval: its unit, or nothing where the noun has said it. */
  inInterval(text: string): string {
    return this.manner === 'count' ? text : this.amount(text)
  }

  /** `gave more weeds`, without a number. */
  moreOf(up: boolean): string {
    return { amount: up ? 'more' : 'less', points: up ? 'more' : 'less', count: up ? 'more' : 'fewer', height: up ? 'higher' : 'lower' }[
      this.manner
    ]
  }

  /** Whether a treatment can be said to give so much more of it. */
  get given(): boolean {
    return this.manner !== 'height'
  }

  /** The verb of the trait. */
  get be(): string {
    return this.manner === 'count' ? 'were' : 'was'
  }

  get counted(): boolean {
    return this.manner === 'count'
  }

  p(p: number): string {
    return `p ${formatP(p)}`
  }

  times(value: number): string {
    return `${value >= 100 ? formatFixed(value, 0) : value >= 10 ? formatFixed(value, 1) : value >= 0.1 ? formatFixed(value, 2) : formatPlain(value, 2)} times`
  }
}

/** Words that would read as part of a sentence where they are the name of a level. */
const WORDS = new Set(
  `a an the no not none nothing never yes true false and or but with without than then of to by in on at from for as is was were be
  been more less fewer most least much many few little some any all both each every either neither same other others another different
  difference significant equal alike better best worse worst higher lower high low medium normal full half double top bottom good bad new
  old early late first last second once twice one two three four only also too before after over under up down out off always sometimes
  large small rich plain big wide narrow deep shallow thick thin wet dry warm cold mean average effect gave na n/a nan null undefined infinity unknown`
    .split(/\s+/)
    .filter(Boolean),
)
/** Words that bend a sentence wherever they stand in a name. */
const BENDING = /\b(than|gave|not|more|less|fewer|significant(ly)?|and|or|percent|against)\b/i

/** Factors whose levels are called by the name of the factor. */
const KINDS_OF_LEVEL = new Set(
  'treatment variety cultivar line entry clone genotype hybrid product stock species strain site date season'.split(' '),
)
/** Short words that begin a sentence like any other; other short names are symbols. */
const SHORT = /^(?!adf|ndf|nir|lai|gdd|mic|oil)[a-z]{3}$/

/** Whether a name, read inside a sentence, could be taken for its words, numbers or punctuation. */
function readsAsWords(name: string): boolean {
  return (
    WORDS.has(name.trim().toLowerCase()) ||
    BENDING.test(name) ||
    !/\p{L}/u.test(name) ||
    /^\s|\s$|[:;,“”"()?!]|\.\s|\.$|\bp\s*[<=]/u.test(name)
  )
}

/** A name in a list or beside its kind: in quotes where it is a word, or has the signs of a sentence in it. */
export function listedName(name: string): string {
  return quotedIf(name, WORDS.has(name.trim().toLowerCase()) || BENDING.test(name) || /^\s|\s$|[:;,“”"()?!]|\.$/.test(name))
}

function quotedIf(name: string, quoted: boolean): string {
  return quoted ? `“${name.replace(/[“”]/g, '"')}”` : name
}

/** Names that levels of two factors share, or that differ in case only. */
function sharedNames(factors: readonly FactorWords[]): ReadonlySet<string> {
  const seen = new Map<string, number>()
  for (const { levels } of factors)
    for (const { name } of Object.values(levels)) seen.set(name.toLowerCase(), (seen.get(name.toLowerCase()) ?? 0) + 1)
  return new Set([...seen].filter(([, count]) => count > 1).map(([name]) => name))
}

/** Units in which something is counted, and not measured. */
const COUNTING = /^(|\/.*|per .*|no\.?.*|number.*|count.*|.*\bm-?\^?-2|d|days?|wk|weeks?)$/i
const MASSES = /^(µg|mg|g|kg|t|ton|tonnes?|lb|oz|cwt|mL|L|gal|fl oz|money|€|\$)(\b|\/|$)/

function mannerOf(name: string, unit: string, kind: Analysis['trait']['kind']): Manner {
  if (kind === 'score') return 'height'
  if (unit === '%') return 'points'
  if ((kind === 'count' || COUNTING.test(unit)) && isSeveral(name) && !MASSES.test(unit)) return 'count'
  return MASSES.test(unit) ? 'amount' : 'height'
}

/** Whether the noun of a name stands in the plural: weeds, shoots per pot, days to flower. */
function isSeveral(name: string): boolean {
  const [head = ''] = name.split(/\s+(?:per|to|of|in|at|on|by|with|after|before|from)\s+/i)
  const words = head.split(/[\s_]+/)
  const noun = words.length > 1 && STATES.test(words.at(-1)!) ? words[0]! : words.at(-1)!
  return /\p{Ll}{2,}$/u.test(noun) && /s$/i.test(noun) && !/(ss|us|is)$/i.test(noun) && plural(noun) === noun && plural(noun, 1) !== noun
}

/** What is said of plants and fruits after their name: whips alive, leaves damaged. */
const STATES = /(?:ed|alive|dead|open|left|lost|found|missing|late|healthy|sound)$/

/** `per m²` for `/m²`. */
function spelled(unit: string): string {
  const found = /^(?:no\.?|nr\.?|number|count)?\s*\/\s*(.+)$/i.exec(unit) ?? /^(?:no\.?\s*)?(m|ha|cm|plot)\s*\^?-(?:1|2)$/i.exec(unit)
  if (!found) return unit
  return `per ${found[1]!.replace(/^m2$|^m\^2$/, 'm²')}${/-2$/.test(unit) && !found[1]!.includes('²') ? '²' : ''}`
}

/** What a count is per, unless its noun says it. */
function per(unit: string, noun: string): string {
  const out = spelled(unit)
  if (out === '' || /^(d|days?|wk|weeks?|no\.?|number|counts?)$/i.test(out) || noun.includes(out)) return ''
  if (out.startsWith('per ')) return ` ${out}`
  // Of plants per m² the plants are said already.
  const [counted, of] = out.split('/')
  return of && noun.toLowerCase().includes(counted!.toLowerCase()) ? ` per ${of}` : ` (${out})`
}

/** The first letter of a sentence, unless it belongs to a name that is written so. */
export function opened(text: string): string {
  const [word = ''] = /^[\p{L}\d-]+/u.exec(text) ?? []
  return /^\p{Ll}{4,}$/u.test(word) || (SHORT.test(word) && /[aeiouy]/.test(word)) || WORDS.has(word)
    ? text.charAt(0).toUpperCase() + text.slice(1)
    : text
}
