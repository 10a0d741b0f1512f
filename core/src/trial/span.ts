import { z } from 'zod'
import { MONTHS, dayAfter, dayInWords, dayNumber } from './day.ts'
import { day, words } from './text.ts'

/** When something happened: a day, or the days within which it did, with what was typed for it. */
export const Span = z
  .object({ from: day, to: day, typed: words().max(80) })
  .refine(({ from, to }) => from <= to, 'It ends before it begins.')
export type Span = z.infer<typeof Span>

/** “on 3 March 2026”; “between 1 and 7 March 2026”. */
export function spanInWords({ from, to }: Pick<Span, 'from' | 'to'>): string {
  if (from === to) return `on ${dayInWords(from)}`
  const [a, b] = [dayInWords(from), dayInWords(to)]
  const shared = a.split(' ').slice(1).join(' ') === b.split(' ').slice(1).join(' ')
  const year = a.split(' ')[2] === b.split(' ')[2]
  return `between ${shared ? a.split(' ')[0] : year ? a.split(' ').slice(0, 2).join(' ') : a} and ${b}`
}

/** Days from one span to a later one: the fewest and the most they can be. */
export function daysBetween(from: Pick<Span, 'from' | 'to'>, to: Pick<Span, 'from' | 'to'>): { least: number; most: number } {
  return { least: dayNumber(to.from) - dayNumber(from.to), most: dayNumber(to.to) - dayNumber(from.from) }
}

/** “31 days”, “31 to 37 days”. */
export function agesInWords({ least, most }: { least: number; most: number }): string {
  return least === most ? `${least} ${least === 1 ? 'day' : 'days'}` : `${least} to ${most} days`
}

/** A day that is known, which words such as “five days later” may be counted from. */
export interface KnownDay {
  readonly what: string
  readonly span: Pick<Span, 'from' | 'to'>
}

/** What typed words mean; where they may mean several things, what they may, to be asked. */
export type SpanRead =
  | { readonly ok: true; readonly span: Span }
  | { readonly ok: false; readonly problem: string; readonly choices: readonly { readonly label: string; readonly span: Span }[] }

interface Days {
  readonly from: string
  readonly to: string
}

/**
 * Reads when something happened as people write it: a date, “3–7 March 2026”, “first week of March”,
 * “late May”, “about 10 June”. A day without a year is of `year`. What can be read two ways, or is
 * counted from something (“five days later”), is set against the days that are known and asked about.
 */
export function readSpan(text: string, { year, known = [] }: { readonly year: number; readonly known?: readonly KnownDay[] }): SpanRead {
  const typed = text.trim().replace(/\s+/g, ' ')
  const said = typed.toLowerCase().replace(/^(?:on|in|at) /, '')
  const made = (days: Days): SpanRead => ({ ok: true, span: { ...days, typed } })
  if (said === '') return no('Say when: a date, or “first week of March”.')
  const relative = readRelative(said)
  if (relative) return against(relative, known, typed)
  const either = readEither(said)
  if (either)
    return {
      ok: false,
      problem: `“${typed}” can be read two ways.`,
      choices: either.map((each) => ({ label: dayInWords(each), span: { from: each, to: each, typed } })),
    }
  const range = readRange(said, year)
  const found = range ?? readDays(said, year)
  if (!found) return no(`“${typed}” is not understood as a time. Write 2026-03-04, 4 March, 3–7 March or first week of March.`)
  return found.from > found.to ? no(`“${typed}” ends before it begins.`) : made(found)
}

function no(problem: string): SpanRead {
  return { ok: false, problem, choices: [] }
}

const NUMBERS = ['zero', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten', 'eleven', 'twelve']
const ORDINALS = ['first', 'second', 'third', 'fourth']

function monthOf(name: string): number {
  return name.length < 3 ? -1 : MONTHS.findIndex((each) => each.toLowerCase().startsWith(name.replace(/\.$/, '')))
}

function isDay(year: number, month: number, date: number): string | null {
  if (month < 1 || month > 12 || date < 1 || date > lastOf(year, month)) return null
  return `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(date).padStart(2, '0')}`
}

function lastOf(year: number, month: number): number {
  const first = (y: number, m: number): string => `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-01`
  return dayNumber(month === 12 ? first(year + 1, 1) : first(year, month + 1)) - dayNumber(first(year, month))
}

/** One day, or a part of a month. */
function readDays(said: string, year: number): Days | null {
  const about = /^(?:about|around|circa|ca\.?|roughly) (.+)$/.exec(said)
  if (about) {
    const days = readDays(about[1]!, year)
    return days && { from: dayAfter(days.from, -3), to: dayAfter(days.to, 3) }
  }
  const one = readDay(said, year)
  if (one) return { from: one, to: one }
  const part =
    /^(?:the )?(early|mid(?:dle of)?|late|beginning of|start of|end of)[ -]([a-z.]+)(?: (\d{4}))?$/.exec(said) ??
    /^(?:the )?(?:(first|second|third|fourth|last|\d)(?:st|nd|rd|th)? week (?:of|in)) ([a-z.]+)(?: (\d{4}))?$/.exec(said) ??
    /^()([a-z.]+)(?: (\d{4}))?$/.exec(said)
  if (!part) return null
  const month = monthOf(part[2]!) + 1
  const own = part[3] ? Number(part[3]) : year
  if (month === 0) return null
  const last = lastOf(own, month)
  const [a, b] = partOf(part[1] ?? '', last)
  const [from, to] = [isDay(own, month, a), isDay(own, month, b)]
  return from && to ? { from, to } : null
}

function partOf(name: string, last: number): readonly [number, number] {
  if (name === '') return [1, last]
  if (name === 'early' || name === 'beginning of' || name === 'start of') return [1, 10]
  if (name.startsWith('mid')) return [11, 20]
  if (name === 'late' || name === 'end of') return [21, last]
  if (name === 'last') return [last - 6, last]
  const n = /^\d$/.test(name) ? Number(name) : ORDINALS.indexOf(name) + 1
  return n > 4 ? [29, last] : [7 * n - 6, 7 * n]
}

function readDay(said: string, year: number): string | null {
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(said)
  if (iso) return isDay(Number(iso[1]), Number(iso[2]), Number(iso[3]))
  const dotted = /^(\d{1,2})\.(\d{1,2})\.(\d{4})?$/.exec(said)
  if (dotted) return isDay(dotted[3] ? Number(dotted[3]) : year, Number(dotted[2]), Number(dotted[1]))
  // With strokes the month may come first: where only one of the two can be a month, that is it.
  const stroked = /^(\d{1,2})\/(\d{1,2})\/(\d{4})$/.exec(said)
  if (stroked) {
    const [a, b] = [Number(stroked[1]), Number(stroked[2])]
    return a > 12 || a === b ? isDay(Number(stroked[3]), b, a) : b > 12 ? isDay(Number(stroked[3]), a, b) : null
  }
  const named = /^(?:the )?(\d{1,2})(?:st|nd|rd|th)?(?: of)? ([a-z.]+),?(?: (\d{4}))?$/.exec(said)
  if (named) return isDay(named[3] ? Number(named[3]) : year, monthOf(named[2]!) + 1, Number(named[1]))
  const turned = /^([a-z.]+) (\d{1,2})(?:st|nd|rd|th)?,?(?: (\d{4}))?$/.exec(said)
  return turned ? isDay(turned[3] ? Number(turned[3]) : year, monthOf(turned[1]!) + 1, Number(turned[2])) : null
}

/** 3/4/2026: both days it may be; null where it is one, or none. */
function readEither(said: string): string[] | null {
  const parts = /^(\d{1,2})\/(\d{1,2})\/(\d{4})$/.exec(said)
  if (!parts) return null
  const [a, b, year] = parts.slice(1).map(Number) as [number, number, number]
  const days = [isDay(year, b, a), isDay(year, a, b)].flatMap((each) => each ?? [])
  return a !== b && days.length === 2 ? days : null
}

function readRange(said: string, year: number): Days | null {
  const parts =
    /^(?:between |from )?(.+?)(?: to | and | until |\s*[–—]\s*| - )(.+)$/.exec(said) ?? /^(\d{1,2})-(\d{1,2} [a-z.]+.*)$/.exec(said)
  if (!parts) return null
  const to = readDays(parts[2]!, year)
  if (!to) return null
  // “3 to 7 March 2026”: what the first half does not say is as in the second.
  const [, ...rest] = dayInWords(to.to).split(' ')
  const from = /^\d{1,2}(?:st|nd|rd|th)?$/.test(parts[1]!)
    ? readDays(`${parts[1]} ${rest.join(' ').toLowerCase()}`, year)
    : readDays(parts[1]!, Number(rest[1]))
  return from && { from: from.from, to: to.to }
}

interface Relative {
  readonly days: number
  /** What it is counted from, as typed; empty: not said. */
  readonly event: string
}

function readRelative(said: string): Relative | null {
  if (/^(?:the )?same day$/.test(said)) return { days: 0, event: '' }
  if (/^(?:the )?(?:next day|day after)$/.test(said)) return { days: 1, event: '' }
  const parts = /^(?:about )?(\d+|[a-z]+) (day|week|month)s? (later|earlier|after|before)(?: (?:the )?(.+))?$/.exec(said)
  if (!parts) return null
  const count = /^\d+$/.test(parts[1]!) ? Number(parts[1]) : parts[1] === 'a' || parts[1] === 'an' ? 1 : NUMBERS.indexOf(parts[1]!)
  if (count < 0) return null
  const days = count * { day: 1, week: 7, month: 30 }[parts[2] as 'day' | 'week' | 'month']
  return { days: parts[3] === 'earlier' || parts[3] === 'before' ? -days : days, event: parts[4] ?? '' }
}

/** Counted from each day that is known, or from the one it names: never taken without being asked. */
function against({ days, event }: Relative, known: readonly KnownDay[], typed: string): SpanRead {
  const named = known.filter(({ what }) => event !== '' && what.toLowerCase().includes(event.replace(/(?:ing|ed)$/, '')))
  const from = named.length > 0 ? named : known
  if (from.length === 0) return no(`“${typed}”: later than what? No day of this trial is known yet. Write the date.`)
  return {
    ok: false,
    problem: event !== '' && named.length === 0 ? `“${event}” has no date here. Which day is meant?` : `“${typed}”: which day is meant?`,
    choices: from.map(({ what, span }) => {
      const at: Days = { from: dayAfter(span.from, days), to: dayAfter(span.to, days) }
      return { label: `${spanInWords(at).replace(/^on /, '')}, counted from ${what}`, span: { ...at, typed } }
    }),
  }
}
