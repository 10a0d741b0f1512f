import { formatPlain, plural } from '../../../quantity/index.ts'
import { listed } from '../../words.ts'
import type { Alike, Described, Worth } from '../claim.ts'
import type { Voice } from '../voice.ts'
import { carriedWith } from './difference.ts'

/** Levels up to which each is told with its value. */
const EACH = 4

export function described(voice: Voice, claim: Described): string {
  const { rows, unit, reason, single, all } = claim
  const units = plural(unit)
  if (rows.length === 0)
    return `what ${voice.factors(claim.term.split(':'))} does cannot be told from what is taken out with it, so nothing is claimed of it.`
  const means = rows.map((row) => row.mean)
  // Single values are told as they were read.
  const values = rows.every((row) => row.n === 1) ? means.map((mean) => voice.read(mean)) : voice.together(means, spreadOf(means))
  const each = rows.map((row, i) => ({ level: voice.cell(claim.term, row.level), value: voice.value(values[i]!) }))
  const list =
    all <= EACH
      ? listed(each.map(({ level: name, value }) => `${value} with ${name}`))
      : `between ${each[0]!.value} with ${each[0]!.level} and ${each.at(-1)!.value} with ${each.at(-1)!.level}, the ends of ${all}`
  if (single) return `on single ${units}, ${voice.trait} ${voice.be} ${list}: one of each is described, and tells nothing of chance.`
  const tail = rows.length < 2 && reason !== 'one level' ? 'with one treatment only there is nothing to compare' : open(voice, claim, units)
  return `${voice.trait} ${voice.be} ${list}. This describes these ${units}: ${tail}.${carriedWith(voice, claim.term)}`
}

/** Figures of what is described: to a hundredth of how far they lie apart. */
function spreadOf(values: readonly number[]): number {
  const range = Math.max(...values) - Math.min(...values)
  return range > 1e-6 * Math.abs(values[0] ?? 0) ? range / 40 : Math.abs(values[0] ?? 0) / 100
}

/** What is left open where nothing was tested, and why. */
function open(voice: Voice, { reason, term }: Described, units: string): string {
  switch (reason) {
    case 'no replication':
      return `without replication a difference cannot be told from the one two ${units} would show anyway`
    case 'single':
      return `what chance does between ${units} is not known, so nothing is claimed of it`
    case 'nothing left':
      return `they are repeated, yet nothing is left to judge chance differences between ${units} by`
    case 'no error':
    case 'no spread':
      return `those treated alike do not differ at all, so nothing tells what chance would do; check the values`
    case 'constant':
      return 'all values are alike, so there is nothing to test'
    case 'one level':
      return `with values for one level of ${voice.factor(term)} only there is nothing to compare`
    case 'confounded':
      return `what ${voice.factor(term)} does cannot be told from what it stood in`
  }
}

export function worth(voice: Voice, { smallest, verdict, oriented, of }: Worth): string {
  const what = oriented ? 'an improvement' : 'a difference'
  const set = `${of === null ? '' : `of ${voice.factor(of)}: `}the smallest difference worth knowing was set at ${voice.typed(smallest)}`
  switch (verdict) {
    case 'surpassed':
      return `${set}: the whole interval of what was found lies beyond it.`
    case 'may be':
      return `${set}: what was found may be smaller or larger than that.`
    case 'below':
      return `${set}: what was found is real but smaller than that, by its whole interval.`
    case 'none left':
      return `${set}: every interval stays below it, so ${what} worth knowing is all but ruled out.`
    case 'open':
      return `${set}: ${what} of that size, not told apart here, is not ruled out.`
  }
}

export function alike(voice: Voice, { term, margin, pairs, shown: found }: Alike): string {
  const typed =
    margin.as === 'difference'
      ? `by less than ${voice.typed(margin.typed)}`
      : margin.as === 'ratio'
        ? `by a factor below ${formatPlain(margin.ratio, 3)} either way`
        : `by less than ${formatPlain(margin.typed, 6)} on the ${voice.analysis.scale!.name} scale, about ${voice.amount(formatPlain(margin.around!.difference, 2))} around a mean of ${voice.value(formatPlain(margin.around!.mean, 3))}`
  if (found.length === 0) {
    return pairs === 1
      ? `the two were not shown to differ in ${voice.trait} ${typed}.`
      : `of ${pairs} pairs none was shown to differ in ${voice.trait} ${typed}.`
  }
  const named = found.slice(0, 5).map((pair) => `${voice.cell(term, pair.a)} and ${voice.cell(term, pair.b)}`)
  const more = found.length - named.length
  return `shown to differ in ${voice.trait} ${typed}: ${named.join('; ')}${more > 0 ? ` and ${more} more ${plural('pair', more)}` : ''}.`
}
