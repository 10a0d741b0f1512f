import { formatNumber, formatPlain, formatQuantity, shown, withUnit, type UnitSystem } from '../quantity/index.ts'
import { tUpperQuantile } from '../statistics/index.ts'
import type { Factor, Trial } from '../trial/index.ts'
import type { EvidenceClass } from './evidence.ts'
import type { Analysis, ComparisonRow } from './result.ts'

export interface Sentence {
  readonly text: string
  readonly evidence: EvidenceClass
  readonly why: string
}

interface Telling {
  readonly analysis: Analysis
  readonly factor: Factor
  readonly better: 'more' | 'less' | 'neither'
  readonly smallest: Trial['smallestDifference']
  readonly system: UnitSystem
}

/** What the trial says about one trait, in plain words, most useful first. */
export function sentencesFor(telling: Telling): Sentence[] {
  const { analysis } = telling
  if (analysis.kind === 'described') return [describe(telling)]
  const rows = analysis.control ? analysis.comparisons.dunnett : analysis.comparisons.tukey
  if (rows.length === 0) return []
  return [lead(telling, rows), ...beyond(telling), ...worthKnowing(telling, rows)]
}

/** How a level is spoken of: `no nitrogen`, `120 kg N/ha`, or its name. */
export function spoken(factor: Factor, key: string, system: UnitSystem): string {
  const level = factor.levels.find((each) => each.key === key)
  if (!level) return key
  if (factor.unit === '' || level.amount === null) return level.name
  if (level.amount === 0) return `no ${factor.name.toLowerCase()}`
  const out = shown(level.amount, factor.unit, system)
  return withUnit(formatPlain(out.value, 3), out.unit, factor.nutrient ?? undefined)
}

function percent(significance: number): string {
  return `${formatNumber(100 * (1 - significance), 2)} %`
}

function amount({ analysis, system }: Telling, value: number, digits = 2): string {
  return formatQuantity(value, analysis.trait.unit, system, { digits })
}

function interval(telling: Telling, low: number, high: number): string {
  const { analysis, system } = telling
  return `${percent(analysis.significance)} interval ${formatNumber(shown(low, analysis.trait.unit, system).value, 2)} to ${amount(telling, high)}`
}

function describe(telling: Telling): Sentence {
  const { analysis, factor, system } = telling
  const sorted = [...analysis.means].sort((a, b) => b.mean - a.mean)
  const [top, last] = [sorted[0], sorted.at(-1)]
  const why = 'no replication to judge chance by'
  if (!top || !last || top === last)
    return { text: 'There are not yet two treatments with values to set side by side.', evidence: 'look', why }
  const text = `${capital(trait(telling))} was ${amount(telling, top.mean, 3)} with ${spoken(factor, top.level, system)} and ${amount(telling, last.mean, 3)} with ${spoken(factor, last.level, system)}. This describes these plots; without replication it cannot be told from the difference two plots would show anyway.`
  return { text, evidence: 'look', why }
}

function lead(telling: Telling, rows: readonly ComparisonRow[]): Sentence {
  const { analysis, factor, better, system } = telling
  const sign = better === 'less' ? -1 : 1
  // Against a control the gain counts; among all pairs, or without a better way, the size alone.
  const magnitude = (row: ComparisonRow): number =>
    analysis.control && better !== 'neither' ? sign * row.difference : Math.abs(row.difference)
  const largest = (of: readonly ComparisonRow[]): ComparisonRow => of.reduce((a, b) => (magnitude(b) > magnitude(a) ? b : a))
  const strongest = largest(rows)
  const found = rows.filter((row) => row.p < analysis.significance)
  const row = found.length > 0 ? largest(found) : strongest
  const flip = !analysis.control && row.difference < 0
  const [a, b] = flip ? [row.b, row.a] : [row.a, row.b]
  const [difference, low, high] = flip ? [-row.difference, -row.upper, -row.lower] : [row.difference, row.lower, row.upper]
  const against = spoken(factor, b, system)
  if (found.length === 0) {
    const text = `The trial did not separate ${analysis.control ? `any treatment from ${against}` : 'the treatments'} in ${trait(telling)}. The widest difference seen was ${amount(telling, difference)} (${spoken(factor, a, system)} less ${against}; ${interval(telling, low, high)}); a true difference anywhere in that interval could have gone unseen.`
    return { text, evidence: row.evidence.kind, why: row.evidence.why }
  }
  const more = difference >= 0 ? 'more' : 'less'
  const [from, to] = difference >= 0 ? [low, high] : [-high, -low]
  const text = `${capital(spoken(factor, a, system))} gave ${amount(telling, Math.abs(difference))} ${more} ${trait(telling)} than ${against} (${interval(telling, from, to)}).`
  return { text, evidence: row.evidence.kind, why: row.evidence.why }
}

/** On a ladder of rates: from where on no further gain was seen, and how large a one could have hidden. */
function beyond(telling: Telling): Sentence[] {
  const { analysis, factor, better, system } = telling
  if (factor.unit === '' || better === 'neither' || analysis.means.length < 3) return []
  const amountOf = (key: string): number => factor.levels.find((level) => level.key === key)?.amount ?? 0
  const ladder = [...analysis.means].sort((a, b) => amountOf(a.level) - amountOf(b.level))
  const sign = better === 'less' ? -1 : 1
  const gain = (from: string, to: string): { p: number; upper: number; row: ComparisonRow } => {
    const row = analysis.comparisons.lsd.find((each) => (each.a === to && each.b === from) || (each.a === from && each.b === to))!
    const difference = (row.a === to ? 1 : -1) * sign * row.difference
    return { p: difference > 0 ? row.p : 1, upper: difference + row.threshold, row }
  }
  for (let i = 0; i < ladder.length - 1; i++) {
    const gains = ladder.slice(i + 1).map((higher) => gain(ladder[i]!.level, higher.level))
    if (gains.some((each) => each.p < analysis.significance)) continue
    if (i === 0) return []
    const hidden = gains.reduce((a, b) => (b.upper > a.upper ? b : a))
    const text = `Beyond ${spoken(factor, ladder[i]!.level, system)} the trial saw no further gain; it could have missed one of up to ${amount(telling, Math.max(0, hidden.upper))}.`
    return [{ text, evidence: hidden.row.evidence.kind, why: hidden.row.evidence.why }]
  }
  return []
}

/** Where the smallest difference worth knowing lies against what the trial could tell apart. */
function worthKnowing(telling: Telling, rows: readonly ComparisonRow[]): Sentence[] {
  const { analysis, smallest, system } = telling
  if (!smallest || smallest.unit !== analysis.trait.unit) return []
  const seen = Math.max(...rows.map((row) => row.threshold))
  const enough = seen <= smallest.value
  const asked = formatQuantity(smallest.value, smallest.unit, system, { digits: 3, plain: true })
  const half = tUpperQuantile(analysis.significance / 2, analysis.residual.df) * analysis.sed.mean
  const text = enough
    ? `The smallest difference worth knowing was set at ${asked}; this trial tells apart ${amount(telling, seen)} or more, so it was sharp enough for its question.`
    : `The smallest difference worth knowing was set at ${asked}, but this trial tells apart only ${amount(telling, seen)} or more (±${amount(telling, half)} for one pair alone): smaller true differences stay open.`
  return [{ text, evidence: rows[0]!.evidence.kind, why: rows[0]!.evidence.why }]
}

function trait({ analysis }: Telling): string {
  return analysis.trait.name.charAt(0).toLowerCase() + analysis.trait.name.slice(1)
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
