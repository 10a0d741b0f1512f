import { formatNumber, formatP, formatPlain, formatQuantity, plural, shown, withUnit, type UnitSystem } from '../quantity/index.ts'
import { tUpperQuantile } from '../statistics/index.ts'
import { nutrientOf, type Factor, type Treatments, type Trial } from '../trial/index.ts'
import type { Analysis, ComparisonRow, NotTested, Sentence, TermResult } from './result.ts'
import { capital, listed } from './words.ts'

/** Everything a sentence needs to speak of one factor. */
interface Telling {
  readonly analysis: Omit<Analysis, 'sentences'>
  readonly term: TermResult
  /** Said before the lead where several factors are spoken of. */
  readonly opening: string
  readonly better: 'more' | 'less' | 'neither'
  /** The smallest difference worth knowing, in the trait's unit and as its reader would say it. */
  readonly smallest: { readonly value: number; readonly said: string } | null
  readonly speak: (level: string) => string
  /** A value in the reader's unit; a difference, which of a share is of percentage points; and without the unit. */
  readonly value: (value: number, digits?: number) => string
  readonly amount: (value: number, digits?: number) => string
  readonly number: (value: number, digits?: number) => string
  /** Levels from the lowest amount up; null when they are no amounts. */
  readonly ladder: readonly string[] | null
}

/** What a trial says about one trait, in the words of its reader: what depends on what before what it changes, then a factor at a time. */
export function sentencesFor({
  analysis,
  treatments,
  better,
  smallest,
  system,
}: {
  analysis: Analysis
  treatments: Treatments
  better: 'more' | 'less' | 'neither'
  smallest: Trial['traits']['smallestDifference']
  system: UnitSystem
}): Sentence[] {
  const { unit } = analysis.trait
  const single = Object.values(analysis.terms).filter((term) => term.factors.length === 1)
  const called = (key: string): string => treatments.factors.find((factor) => factor.key === key)?.name.toLowerCase() ?? key
  const each = single.flatMap((term) => {
    const factor = treatments.factors.find((one) => one.key === term.term)
    const amountOf = (key: string): number => factor?.levels.find((level) => level.key === key)?.amount ?? 0
    return tell({
      analysis,
      term,
      opening: single.length > 1 ? `${capital(called(term.term))}: ` : '',
      better,
      smallest: smallest?.unit === unit ? { value: smallest.value, said: typed(smallest.value, unit, system) } : null,
      speak: (key) => spokenLevel(treatments, term.term, key, system),
      value: (value, digits = 2) => formatQuantity(value, unit, system, { digits }),
      amount: (value, digits = 2) => inPoints(formatQuantity(value, unit, system, { digits }), unit),
      number: (value, digits = 2) => formatNumber(shown(value, unit, system).value, digits),
      ladder: factor?.measure ? term.means.map((mean) => mean.level).sort((a, b) => amountOf(a) - amountOf(b)) : null,
    })
  })
  return withJoint(analysis, each, called)
}

/** Shares differ by percentage points: per cent of a share would be another figure. */
function inPoints(text: string, unit: string): string {
  return unit === '%' ? text.replace(/ %$/, ' percentage points') : text
}

/** A value somebody typed, without the zeros of a measured one. */
function typed(value: number, unit: string, system: UnitSystem): string {
  const out = shown(value, unit, system)
  return inPoints(withUnit(formatPlain(out.value, 3), out.unit), unit)
}

/** How a level is spoken of: `no nitrogen`, `120 kg N/ha`, or its name. */
export function spoken(factor: Factor, key: string, system: UnitSystem): string {
  const level = factor.levels.find((each) => each.key === key)
  if (!level) return key
  if (factor.kind !== 'rate' || level.amount === null) return level.name
  if (level.amount === 0) return `no ${factor.name.toLowerCase()}`
  const out = shown(level.amount, factor.measure, system)
  return withUnit(formatPlain(out.value, 3), out.unit, nutrientOf(factor) ?? undefined)
}

/** A term of the analysis as its reader calls it: factors by their names, joined by ×. */
export function termInWords(treatments: Treatments, term: string): string {
  return term
    .split(':')
    .map((key) => {
      if (key === 'outside') return 'outside against the combinations'
      return treatments.factors.find((factor) => factor.key === key)?.name ?? key
    })
    .join(' × ')
}

/** A treatment in the same words: of one factor its level, of several or outside them its name. */
export function spokenTreatment(treatments: Treatments, key: string, system: UnitSystem): string {
  const treatment = treatments.list.find((each) => each.key === key)
  if (!treatment) return key
  const [factor] = treatments.factors
  const level = treatments.factors.length === 1 ? treatment.levels[factor!.key] : undefined
  return level === undefined ? treatment.name : spoken(factor!, level, system)
}

function spokenLevel(treatments: Treatments, factorKey: string, key: string, system: UnitSystem): string {
  const factor = treatments.factors.find((each) => each.key === factorKey)
  return factor ? spoken(factor, key, system) : spokenTreatment(treatments, key, system)
}

/** What any layout says, a factor at a time and in the words of the file; interactions before what they change. */
export function plainSentences(analysis: Omit<Analysis, 'sentences'>): Sentence[] {
  const { unit } = analysis.trait
  const terms = Object.values(analysis.terms)
  const single = terms.filter((term) => term.factors.length === 1)
  const each = single.flatMap((term) =>
    tell({
      analysis,
      term,
      opening: `${term.term}: `,
      better: 'neither',
      smallest: null,
      speak: (level) => level,
      value: (value, digits = 2) => withUnit(formatNumber(value, digits), unit),
      amount: (value, digits = 2) => inPoints(withUnit(formatNumber(value, digits), unit), unit),
      number: (value, digits = 2) => formatNumber(value, digits),
      ladder: null,
    }),
  )
  return [...plannedSentences(analysis), ...withJoint(analysis, each, (key) => key)]
}

/** Comparisons planned beforehand, before what is picked out afterwards. */
function plannedSentences({ contrasts, options, trait: { unit }, significance, scale }: Omit<Analysis, 'sentences'>): Sentence[] {
  const out = (value: number): string => (scale ? formatNumber(value, 3) : inPoints(withUnit(formatNumber(value, 2), unit), unit))
  return contrasts
    .filter((row) => row.site === null && options.contrasts.some((asked) => asked.name === row.name))
    .map(({ name, estimate, lower, upper, p, evidence }) => {
      const limits = `${formatNumber(100 * (1 - significance), 3)} % interval ${formatNumber(lower, 2)} to ${out(upper)}${scale ? ` on the ${scale.name} scale` : ''}; p ${formatP(p)}`
      const text =
        p < significance
          ? `${name}, as planned: ${out(estimate)} (${limits}).`
          : `${name}, as planned: not told apart; ${out(estimate)} was seen (${limits}), and a true difference anywhere in that interval could have gone unseen.`
      return { text: capital(text), evidence: evidence.kind, why: evidence.why }
    })
}

/** What depends on what: before the factors where it matters, after them where no sign of it was seen. */
function withJoint(analysis: Omit<Analysis, 'sentences'>, each: readonly Sentence[], called: (key: string) => string): Sentence[] {
  if (analysis.kind === 'described') return [...each]
  const joint = analysis.tests.flatMap((test) => {
    const term = analysis.terms[test.term]
    return test.term.includes(':') && term && Number.isFinite(test.p) ? [together(test.p, term, analysis.significance, called)] : []
  })
  const plain = ({ text, evidence, why }: Sentence): Sentence => ({ text, evidence, why })
  return [...joint.filter((row) => row.matters).map(plain), ...each, ...joint.filter((row) => !row.matters).map(plain)]
}

function together(p: number, term: TermResult, significance: number, called: (key: string) => string): Sentence & { matters: boolean } {
  const names = listed(term.factors.map(called))
  const matters = p < significance
  const text = matters
    ? `The effects of ${names} depend on each other (p ${formatP(p)}): read them together, not their averages.`
    : `No sign that the effects of ${names} depend on each other was seen (p ${formatP(p)}); that does not show that they do not.`
  return { text, matters, evidence: term.evidence.kind, why: term.evidence.why }
}

function tell(telling: Telling): Sentence[] {
  const { analysis, term } = telling
  if (analysis.kind === 'described') return [describe(telling)]
  const all = leadingRows(term)
  const rows = all.every((row) => Number.isFinite(row.p)) ? all : all.filter((row) => Number.isFinite(row.p))
  // Compared, but with nothing to judge chance by at the units it was applied to.
  if (rows.length === 0) return leadingRows(term).length > 0 ? [describe(telling)] : kept(telling)
  const first = lead(telling, rows)
  // Where sites differ in what a factor does, its average is of what differs.
  const bySite = analysis.tests.find((test) => test.term === `site:${term.term}`)
  const differing = bySite && bySite.p < analysis.significance ? 'averaged over sites that differ in it, ' : ''
  const rest = [...alike(telling, rows), ...beyond(telling), ...worthKnowing(telling, rows)]
  const said =
    differing && !telling.opening ? capital(differing) + uncapital(first.text, telling) : telling.opening + differing + first.text
  return [{ ...first, text: said }, ...rest]
}

/** A sentence that begins with a level keeps it as it is written. */
function uncapital(text: string, { term, speak }: Telling): string {
  return term.means.some((mean) => text.startsWith(speak(mean.level))) ? text : text.charAt(0).toLowerCase() + text.slice(1)
}

/** Pairs that were not compared, as asked, since their F is not significant. */
function kept(telling: Telling): Sentence[] {
  const { analysis, term, opening, amount, speak } = telling
  const test = analysis.tests.find((each) => each.term === term.term)
  const sorted = [...term.means].sort((a, b) => b.mean - a.mean)
  const [top, last] = [sorted[0], sorted.at(-1)]
  if (!test || !top || !last || top === last) return []
  const seen = analysis.scale ? '' : `, ${amount(top.mean - last.mean)}`
  const open = Number.isFinite(term.lsd.mean) && !analysis.scale ? ` One pair alone is told apart from ${amount(term.lsd.mean)} on.` : ''
  const text = `${opening}No sign of a difference in ${trait(telling)} was seen (F ${formatNumber(test.f, 3)}, p ${formatP(test.p)}), and pairs were not compared, as asked; that does not show that there is none. The widest difference seen was between ${speak(top.level)} and ${speak(last.level)}${seen}.${open}`
  return [{ text, evidence: term.evidence.kind, why: term.evidence.why }]
}

/** The comparisons that lead: against the control where there is one, else of the method asked for. */
function leadingRows({ comparisons }: TermResult): readonly ComparisonRow[] {
  return comparisons.dunnett ?? comparisons.tukey ?? Object.values(comparisons)[0] ?? []
}

function interval({ analysis, number, amount }: Telling, low: number, high: number): string {
  const percent = `${formatNumber(100 * (1 - analysis.significance), 2)} % interval`
  if (!Number.isFinite(low)) return `${percent} up to ${amount(high)}`
  if (!Number.isFinite(high)) return `${percent} from ${amount(low)} up`
  return `${percent} ${number(low)} to ${amount(high)}`
}

function describe(telling: Telling): Sentence {
  const { analysis, term, value, speak } = telling
  const unit = analysis.tests.find((test) => test.term === term.term)?.stratum ?? analysis.unit
  const sorted = [...term.means].sort((a, b) => b.mean - a.mean)
  const [top, last] = [sorted[0], sorted.at(-1)]
  const repeated = term.means.some((mean) => mean.n > 1)
  const { why, open } = untested(analysis.notTested?.reason ?? 'no error df', plural(unit), repeated)
  if (!top || !last || top === last)
    return { text: `${telling.opening}There are not yet two treatments with values to set side by side.`, evidence: 'look', why }
  const text = `${telling.opening}${telling.opening ? trait(telling) : capital(trait(telling))} was ${value(top.mean, 3)} with ${speak(top.level)} and ${value(last.mean, 3)} with ${speak(last.level)}. This describes these ${plural(unit)}; ${open}`
  return { text, evidence: 'look', why }
}

/** Why nothing was tested, and what that leaves open. */
function untested(reason: NotTested['reason'], units: string, repeated: boolean): { readonly why: string; readonly open: string } {
  switch (reason) {
    case 'no error':
      return {
        why: 'no error to judge chance by',
        open: 'those treated alike do not differ at all, so nothing tells what chance would do. Check the values.',
      }
    case 'constant':
      return { why: 'all values are alike', open: 'all values are alike, so there is nothing to test.' }
    case 'one level':
      return { why: 'one level only', open: 'with values for one level only there is nothing to compare.' }
    case 'unbalanced errors':
      return {
        why: 'errors not balanced',
        open: `with ${units} lost or treatments unevenly spread over the larger units, it is not told here from what chance would do.`,
      }
    case 'no error df':
      if (repeated)
        return {
          why: 'nothing left to judge chance by',
          open: `they are repeated, yet nothing is left after what was taken out to judge chance differences between ${units} by.`,
        }
      return {
        why: 'no replication to judge chance by',
        open: `without replication it cannot be told from the difference two ${units} would show anyway.`,
      }
  }
}

function lead(telling: Telling, rows: readonly ComparisonRow[]): Sentence {
  const { analysis, better, term, speak } = telling
  const against = term.comparisons.dunnett !== undefined
  const sign = better === 'less' ? -1 : 1
  // Against a control the gain counts; among all pairs, or without a better way, the size alone.
  const magnitude = (row: ComparisonRow): number => (against && better !== 'neither' ? sign * row.difference : Math.abs(row.difference))
  const largest = (of: readonly ComparisonRow[]): ComparisonRow => of.reduce((a, b) => (magnitude(b) > magnitude(a) ? b : a))
  const found = rows.filter((row) => row.p < analysis.significance)
  const row = largest(found.length > 0 ? found : rows)
  const [a, b, size] = !against && row.difference < 0 ? [row.b, row.a, flipped(row)] : [row.a, row.b, row]
  const [first, second] = [speak(a), speak(b)]
  const { kind: evidence, why } = row.evidence
  if (found.length === 0) {
    const bent = analysis.scale !== null && size.ratio === null
    const widest = bent
      ? `was between ${first} and ${second}, ${backOf(telling, a, b)} (${limits(telling, size)})`
      : `was ${seen(telling, size)} (${size.ratio ? `${first} over ${second}` : `${first} less ${second}`}; ${limits(telling, size)})`
    const text = `The trial did not separate ${against ? `any treatment from ${second}` : 'the treatments'} in ${trait(telling)}. The widest difference seen ${widest}; ${unseen(telling, size)}.`
    return { text, evidence, why }
  }
  // The widest of many pairs is wide by chance too: a method that allows for it says so by its interval.
  const picked =
    term.comparisons.dunnett === undefined && term.comparisons.tukey === undefined && term.comparisons.lsd === rows && rows.length > 1
      ? ` It is the widest of ${rows.length} pairs, judged as if it alone had been looked at.`
      : ''
  return {
    text: `${telling.opening ? first : capital(first)} gave ${gain(telling, a, b, size)} ${trait(telling)} ${size.ratio ? 'of' : 'than'} ${second} (${gainLimits(telling, size)}).${picked}`,
    evidence,
    why,
  }
}

/** The same comparison read the other way round. */
function flipped(row: ComparisonRow): ComparisonRow {
  const { ratio } = row
  return {
    ...row,
    a: row.b,
    b: row.a,
    difference: -row.difference,
    lower: -row.upper,
    upper: -row.lower,
    t: -row.t,
    ratio: ratio && { estimate: 1 / ratio.estimate, lower: 1 / ratio.upper, upper: 1 / ratio.lower },
  }
}

/** Limits; those of the pair alone where a stepwise method has none, and p where the scale has none in the trait's unit. */
function limits(telling: Telling, row: ComparisonRow): string {
  if (row.ratio && Number.isFinite(row.lower)) return `${formatNumber(row.ratio.lower, 3)} to ${formatNumber(row.ratio.upper, 3)} times`
  if (telling.analysis.scale) return `p ${formatP(row.p)}`
  if (!Number.isNaN(row.lower)) return interval(telling, row.lower, row.upper)
  const half = tUpperQuantile(telling.analysis.significance / 2, row.df) * row.sed
  return `p ${formatP(row.p)}; of this pair alone ${interval(telling, row.difference - half, row.difference + half)}`
}

/** What a difference that was not told apart leaves open. */
function unseen({ analysis }: Telling, row: ComparisonRow): string {
  return analysis.scale && !(row.ratio && Number.isFinite(row.lower))
    ? 'that does not show that there is none'
    : 'a true difference anywhere in that interval could have gone unseen'
}

function seen({ amount }: Telling, row: ComparisonRow): string {
  return row.ratio ? `${formatNumber(row.ratio.estimate, 3)} times` : amount(row.difference)
}

function gain(telling: Telling, a: string, b: string, row: ComparisonRow): string {
  if (row.ratio) return `${formatNumber(row.ratio.estimate, 3)} times the`
  if (telling.analysis.scale) return `${row.difference >= 0 ? 'more' : 'less'} (${backOf(telling, a, b)}) in`
  return `${telling.amount(Math.abs(row.difference))} ${row.difference >= 0 ? 'more' : 'less'}`
}

function gainLimits(telling: Telling, row: ComparisonRow): string {
  return row.ratio || row.difference >= 0 ? limits(telling, row) : limits(telling, flipped(row))
}

/** Both means on the scale of the response: a difference on a bent scale has no unit of its own. */
function backOf({ term, number, value }: Telling, a: string, b: string): string {
  const mean = (level: string): number => term.means.find((each) => each.level === level)?.back?.mean ?? NaN
  return `${number(mean(a), 3)} and ${value(mean(b), 3)}`
}

/** Pairs shown to be closer than the margin that was asked for. */
function alike(telling: Telling, rows: readonly ComparisonRow[]): Sentence[] {
  const tested = rows.filter((row) => row.equivalence)
  if (tested.length === 0) return []
  const { amount, speak } = telling
  const margin = amount(tested[0]!.equivalence!.margin, 3)
  const same = tested.filter((row) => row.equivalence!.equivalent)
  const shown = same.slice(0, 5).map((row) => `${speak(row.a)} and ${speak(row.b)}`)
  const text =
    same.length === 0
      ? `No pair of ${tested.length} was shown to differ by less than ${margin}.`
      : `Shown to differ by less than ${margin}: ${shown.join('; ')}${same.length > shown.length ? ` and ${same.length - shown.length} more` : ''}.`
  const { kind, why } = (same[0] ?? tested[0]!).evidence
  return [{ text, evidence: kind, why }]
}

/** On a ladder of rates: from where on no further gain was seen, and how large a one could have hidden. */
function beyond(telling: Telling): Sentence[] {
  const { analysis, better, ladder, term, amount, speak } = telling
  const pairs = term.comparisons.lsd
  if (!ladder || !pairs || better === 'neither' || ladder.length < 3 || analysis.scale) return []
  const sign = better === 'less' ? -1 : 1
  const gainFrom = (from: string, to: string): { p: number; upper: number; row: ComparisonRow } => {
    const row = pairs.find((each) => (each.a === to && each.b === from) || (each.a === from && each.b === to))!
    const difference = (row.a === to ? 1 : -1) * sign * row.difference
    return { p: difference > 0 ? row.p : 1, upper: difference + row.threshold, row }
  }
  for (let i = 0; i < ladder.length - 1; i++) {
    const gains = ladder.slice(i + 1).map((higher) => gainFrom(ladder[i]!, higher))
    if (gains.some((each) => each.p < analysis.significance)) continue
    if (i === 0) return []
    const hidden = gains.reduce((a, b) => (b.upper > a.upper ? b : a))
    const text = `Beyond ${speak(ladder[i]!)} the trial saw no further gain; it could have missed one of up to ${amount(Math.max(0, hidden.upper))}.`
    return [{ text, evidence: hidden.row.evidence.kind, why: hidden.row.evidence.why }]
  }
  return []
}

/** Where the smallest difference worth knowing lies against what the trial could tell apart. */
function worthKnowing({ smallest, term, amount, opening }: Telling, rows: readonly ComparisonRow[]): Sentence[] {
  if (!smallest) return []
  const apart = Math.max(...rows.map((row) => row.threshold))
  const asked = smallest.said
  const text =
    apart <= smallest.value
      ? `${opening}${opening ? 'the' : 'The'} smallest difference worth knowing was set at ${asked}; this trial tells apart ${amount(apart)} or more, so it was sharp enough for its question.`
      : `${opening}${opening ? 'the' : 'The'} smallest difference worth knowing was set at ${asked}, but this trial tells apart only ${amount(apart)} or more (±${amount(term.lsd.mean)} for one pair alone): smaller true differences stay open.`
  return [{ text, evidence: rows[0]!.evidence.kind, why: rows[0]!.evidence.why }]
}

function trait({ analysis }: Telling): string {
  const { name } = analysis.trait
  // Symbols and abbreviations (Ca, Brix, pH) stay as they are written.
  return /^\p{Lu}\p{Ll}{3,}/u.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name
}
