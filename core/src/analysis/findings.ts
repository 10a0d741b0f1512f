import { formatNumber, formatP, withUnit } from '../quantity/index.ts'
import { plural } from '../quantity/index.ts'
import { describeSample, pooledTest, welchTest } from '../statistics/index.ts'
import { sentencesOf } from './claims/text.ts'
import { listedName } from './claims/voice.ts'
import { neighbours } from './neighbours.ts'
import { holderOf } from './observations.ts'
import type { AnalysisRequest } from './request.ts'
import type { Analysis, CautionKind, ResidualRow } from './result.ts'
import { capital, listed } from './words.ts'
import { inOwnAxes } from '../trial/index.ts'

/** Beyond this many standard errors, found without it, a value is named. */
const FAR = 3.5
/** As many equal values one after another look copied. */
const RUN = 4

/** Cautions that are a finding about the data, and not about the layout. */
const OF_THE_DATA: ReadonlySet<CautionKind> = new Set(['heterogeneous', 'confounded', 'ground trend', 'samples', 'missing'])

/**
 * What is odd in the data, before they are believed: levels that are one by mistake written as
 * two, uneven replication, slipped decimals, copied values, units far from the rest, edges, and
 * what the residuals say of the model. In words, the gravest first; empty when nothing stands out.
 */
export function findings(request: AnalysisRequest, analysis: Analysis): string[] {
  const rows = inOrder(request, analysis.residuals)
  const named = namesOf(request, rows)
  return [
    ...lookalikes(request),
    ...slippedDecimals(rows, analysis, named),
    ...farFromTheRest(rows, analysis, named),
    ...oddAtOneSite(analysis),
    ...copied(rows, analysis, named),
    ...steps(rows, analysis),
    ...replication(request, analysis),
    ...edges(request, rows, analysis),
    ...model(analysis),
    ...analysis.cautions.filter((caution) => OF_THE_DATA.has(caution.kind)).map((caution) => caution.text),
  ]
}

/** A unit as it is called: with its site where there are several. */
type Named = (unit: string) => string

function namesOf({ units }: AnalysisRequest, rows: readonly ResidualRow[]): Named {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const siteOf = (id: string): string | undefined => {
    const site = index.get(holderOf(index.get(id)!, 'site', index) ?? '')
    return site?.code
  }
  const sites = new Set(rows.map((row) => siteOf(row.unit)))
  return (id) => `${listedName(index.get(id)?.code ?? id)}${sites.size > 1 ? ` at ${siteOf(id)}` : ''}`
}

/** A treatment that does otherwise at one site than site and treatment explain. */
function oddAtOneSite(analysis: Analysis): string[] {
  return analysis.claims.flatMap((claim) =>
    claim.kind === 'odd at a site'
      ? sentencesOf(analysis, 'metric', [claim]).map(({ text }) => `${text} Look at its ${plural(analysis.unit)} there.`)
      : [],
  )
}

function inOrder({ units }: AnalysisRequest, rows: readonly ResidualRow[]): ResidualRow[] {
  const turn = new Map(units.map((unit, i) => [unit.id, unit.walk ?? i]))
  return [...rows].sort((a, b) => turn.get(a.unit)! - turn.get(b.unit)!)
}

/** Levels that differ only in case, spaces or marks. */
function lookalikes({ factors }: AnalysisRequest): string[] {
  return factors.flatMap((factor) => {
    const bare = new Map<string, string[]>()
    for (const level of factor.levels) {
      const key = level.toLowerCase().replace(/[\s._-]+/g, '')
      bare.set(key, [...(bare.get(key) ?? []), level])
    }
    return [...bare.values()]
      .filter((each) => each.length > 1)
      .map((each) => `Levels of ${factor.key} that may be one: ${each.map((level) => `“${level}”`).join(', ')}.`)
  })
}

/** Values ten times, or a tenth of, what their treatment's others say, and far outside their spread. */
function slippedDecimals(rows: readonly ResidualRow[], { trait, unit }: Analysis, named: Named): string[] {
  return rows.flatMap((row) => {
    const others = rows.filter((each) => each !== row && each.level === row.level).map((each) => each.value)
    if (others.length < 2) return []
    const middle = median(others)
    const ratio = row.value / middle
    const spread = Math.max(...others) - Math.min(...others)
    const slipped = (ratio > 7 && ratio < 14) || (ratio > 1 / 14 && ratio < 1 / 7)
    if (!slipped || Math.abs(row.value - middle) <= 2 * spread) return []
    return [
      `${unit} ${named(row.unit)}: ${withUnit(String(row.value), trait.unit)} is about ${ratio > 1 ? 'ten times' : 'a tenth of'} the others of ${listedName(row.level)} (${formatNumber(middle, 3)}): has the decimal point slipped?`,
    ]
  })
}

function farFromTheRest(rows: readonly ResidualRow[], analysis: Analysis, called: Named): string[] {
  const { checks, unit, tests, terms } = analysis
  const explained = tests.some((test) => !(test.term in terms)) ? 'treatment and blocks explain' : 'treatment explains'
  const { outlier, influence } = checks
  // A single one of few degrees of freedom is far by chance.
  const named = outlier ? rows.filter((row) => Math.abs(row.deleted) > FAR || (outlier.p < 0.1 && row.unit === outlier.id)) : []
  const far = named.map((row) => {
    const size = sizeOf(row.residual, analysis)
    const p = row.unit === outlier?.id ? `, p ${formatP(outlier.p)} for the largest of all` : ''
    return `${unit} ${called(row.unit)} lies far from what its ${explained}: ${size} ${row.residual > 0 ? 'above' : 'below'} (t ${formatNumber(row.deleted, 3)}${p}). Look for a cause; the value alone is none.`
  })
  return influence && influence.cook > 1 && !named.some((row) => row.unit === influence.id)
    ? [...far, `${unit} ${called(influence.id)} alone moves the answer a good deal (Cook’s distance ${formatNumber(influence.cook, 2)}).`]
    : far
}

/** The size of a residual; on another scale it has no unit of the trait. */
function sizeOf(residual: number, { scale, trait }: Analysis): string {
  const size = formatNumber(Math.abs(residual), 2)
  return scale ? `${size} on the ${scale.name} scale` : withUnit(size, trait.unit)
}

function copied(rows: readonly ResidualRow[], { trait, unit }: Analysis, named: Named): string[] {
  // Counts and scores are often equal by themselves.
  if (trait.kind === 'count' || trait.kind === 'score') return []
  const found: string[] = []
  for (let i = 0; i < rows.length;) {
    let end = i
    while (end + 1 < rows.length && rows[end + 1]!.value === rows[i]!.value) end++
    if (end - i + 1 >= RUN)
      found.push(
        `${end - i + 1} ${plural(unit)} one after another (${named(rows[i]!.unit)} to ${named(rows[end]!.unit)}) have the same value, ${withUnit(String(rows[i]!.value), trait.unit)}: were they copied?`,
      )
    i = end + 1
  }
  return found
}

/** Values written in steps that are coarse beside the error. */
function steps(rows: readonly ResidualRow[], { errors, trait, scale }: Analysis): string[] {
  const error = errors.at(-1)
  const values = [...new Set(rows.map((row) => row.value))].sort((a, b) => a - b)
  if (!error || scale || values.length < 3 || trait.kind === 'count' || trait.kind === 'score') return []
  const step = Math.min(...values.slice(1).map((value, i) => value - values[i]!))
  const whole = values.every((value) => Math.abs((value - values[0]!) / step - Math.round((value - values[0]!) / step)) < 1e-6)
  return whole && step > Math.sqrt(error.ms)
    ? [`Values come in steps of ${withUnit(formatNumber(step, 2), trait.unit)}, coarser than the error: read them more finely if you can.`]
    : []
}

function replication({ factors }: AnalysisRequest, { terms, unit }: Analysis): string[] {
  const cells = terms[factors.map((factor) => factor.key).join(':')] ?? Object.values(terms).at(-1)
  if (!cells || cells.means.length === 0) return []
  const counts = cells.means.map((mean) => mean.n)
  const [least, most] = [Math.min(...counts), Math.max(...counts)]
  const possible = cells.factors.reduce((product, key) => product * (factors.find((factor) => factor.key === key)?.levels.length ?? 1), 1)
  const lacking = possible - cells.means.length
  return [
    ...(least === most ? [] : [`Replication is uneven: from ${least} to ${most} ${plural(unit)} of a treatment.`]),
    // A level of a single factor without a value is a caution already.
    ...(cells.factors.length > 1 && lacking > 0
      ? [`${lacking} of ${possible} combinations of ${listed(cells.factors)} ${lacking === 1 ? 'has' : 'have'} no value.`]
      : []),
  ]
}

/** Residuals of units at the edge of the plan against those inside. */
function edges({ units }: AnalysisRequest, rows: readonly ResidualRow[], analysis: Analysis): string[] {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const placed = rows.flatMap((row) => {
    const unit = index.get(row.unit)
    return unit?.place ? [{ ...inOwnAxes(unit.place), site: holderOf(unit, 'site', index) ?? '' }] : []
  })
  if (placed.length < rows.length) return []
  const around = new Int32Array(rows.length)
  for (const [a, b] of neighbours(placed)) {
    around[a]!++
    around[b]!++
  }
  // Of one row a plot inside has two neighbours, of two rows three.
  const most = new Map<string, number>()
  placed.forEach(({ site }, i) => most.set(site, Math.max(most.get(site) ?? 0, around[i]!)))
  const part = (edge: boolean): number[] =>
    rows.filter((_, i) => around[i]! < most.get(placed[i]!.site)! === edge).map((row) => row.residual)
  const [edge, inside] = [part(true), part(false)]
  if (edge.length < 2 || inside.length < 4) return []
  // Two ends of a row say nothing of their own spread: they are held against that of all.
  const { estimate, p } = (edge.length < 4 ? pooledTest : welchTest)(describeSample(edge), describeSample(inside))
  return p < 0.01
    ? [
        `${capital(plural(analysis.unit))} at the edge of the plan lie ${sizeOf(estimate, analysis)} ${estimate < 0 ? 'below' : 'above'} those inside (p ${formatP(p)}).`,
      ]
    : []
}

function model({ checks, trait }: Analysis): string[] {
  const { normality, nonAdditivity, boxCox } = checks
  const found: string[] = []
  if (normality && normality.p < 0.05)
    found.push(
      `Residuals do not look normal (Shapiro–Wilk p ${formatP(normality.p)}): look at the scale of ${trait.name}, and at single values.`,
    )
  if (nonAdditivity && nonAdditivity.p < 0.05)
    found.push(
      `Treatments act in proportion to the blocks, not on top of them (one degree of freedom, p ${formatP(nonAdditivity.p)}): a log scale may serve.`,
    )
  if (boxCox && boxCox.none.p < 0.05) {
    const { lambda, lower, upper, log } = boxCox
    found.push(
      `Another scale fits better: power ${formatNumber(lambda, 2)} (${formatNumber(lower, 2)} to ${formatNumber(upper, 2)})${log.p >= 0.05 ? '; the logarithm is among them' : ''}.`,
    )
  }
  return found
}

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  const middle = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}
