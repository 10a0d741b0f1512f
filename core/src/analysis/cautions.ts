import { counted, formatFixed, formatNumber, formatP, formatPlain, plural } from '../quantity/index.ts'
import type { Checks } from './checks.ts'
import { misapplied } from './evidence.ts'
import type { LayoutFrame } from './layout.ts'
import type { Unit } from '../trial/index.ts'
import { determines } from './claims/carried.ts'
import { listedName, opened } from './claims/voice.ts'
import { holderOf, levelOn } from './observations.ts'
import type { Caution, CautionKind, CovariateRow, ErrorRow, MixedResult, NotTested, TestRow } from './result.ts'
import { capital, differencesOf, listed } from './words.ts'

interface Found {
  readonly notTested: NotTested | null
  readonly tests: readonly TestRow[]
  readonly errors: readonly ErrorRow[]
  readonly checks: Checks
  readonly covariates: readonly CovariateRow[]
  readonly mixed?: MixedResult | null
  /** Means that could not be estimated, in words. */
  readonly lacking: readonly string[]
}

/** What a careful reader must be told about this analysis, most important first. */
export function cautionsFor(frame: LayoutFrame, found: Found): Caution[] {
  const tested = found.notTested === null
  return gravestFirst([
    ...(found.notTested ? [caution('not tested', found.notTested.text)] : []),
    ...unrandomised(frame),
    ...confounded(frame, found),
    ...(tested ? [...fewDegrees(frame, found), ...ofChance(frame, found)] : []),
    ...records(frame, tested),
    ...samples(frame, found),
    ...samplesLost(frame),
    ...bounds(frame),
    ...extrapolated(frame, found.covariates),
    ...residualCautions(found.checks, found.mixed?.errors?.key === 'by group'),
    ...(frame.request.trait.kind === 'share' && frame.request.options.scale === 'none' && tested ? [sharesAtTheEnds(frame)].flat() : []),
  ])
}

/** Kinds by how much of the answer they put in doubt, the gravest first. */
const BY_GRAVITY: readonly CautionKind[] = [
  'not tested',
  'simpler model',
  'confounded',
  'not randomised',
  'as received',
  'identity',
  'what happened',
  'site and season',
  'not shared',
  'drawn later',
  'missing',
  'bounds',
  'left out',
  'heterogeneous',
  'extrapolated',
  'ground trend',
  'scale',
  'few error degrees of freedom',
  'few units',
  'at zero',
  'samples',
]

export function gravestFirst(cautions: readonly Caution[]): Caution[] {
  return [...cautions].sort((a, b) => BY_GRAVITY.indexOf(a.kind) - BY_GRAVITY.indexOf(b.kind))
}

function caution(kind: CautionKind, text: string): Caution {
  return { kind, text }
}

function unrandomised({ request }: LayoutFrame): Caution[] {
  return (
    request.structure.factors
      // Dates and seasons come one after another: there is nothing to deal out.
      .filter(
        ({ how, appliedTo }) =>
          (how === 'systematic' || how === 'not randomised') && appliedTo !== 'reading' && appliedTo !== 'plot-season',
      )
      .map(({ factor, how }) =>
        caution(
          'not randomised',
          opened(
            `${nameOf(request, factor)} was not randomised${how === 'systematic' ? ' (systematic)' : swappedInWords(request, factor)}: its differences may be those of the ground.`,
          ),
        ),
      )
  )
}

/** Where a draw was changed by hand, that is why. */
function swappedInWords({ structure }: LayoutFrame['request'], factor: string): string {
  const swaps = (structure.swapped ?? []).filter((swap) => factor in swap.how).length
  return swaps === 0 ? '' : ` (${counted(swaps, 'pair')} of units swapped by hand after the draw)`
}

/** Effects that cannot be told apart from one another. */
function confounded(frame: LayoutFrame, { tests, lacking }: Found): Caution[] {
  const { request, factors, units, terms } = frame
  const cautions: Caution[] = []
  factors.forEach((a, f) => {
    for (const b of factors.slice(f + 1)) {
      if (!determines(a.codes, b.codes) || !determines(b.codes, a.codes)) continue
      cautions.push(
        caution(
          'confounded',
          `${nameOf(request, a.name)} and ${nameOf(request, b.name)} always changed together: their effects cannot be told apart.`,
        ),
      )
    }
    for (const unit of units) {
      if (unit.name.includes(':') || !determines(unit.codes, a.codes) || !determines(a.codes, unit.codes)) continue
      cautions.push(
        caution(
          'confounded',
          `Each ${unit.name} had one level of ${nameOf(request, a.name)}, and each level stood in one ${unit.name} only: what it does cannot be told from what the ${plural(unit.name)} do.`,
        ),
      )
    }
  })
  const lost = tests.filter((test) => test.df === 0 && terms.some((term) => term.join(':') === test.term)).map((test) => test.term)
  if (cautions.length === 0 && lost.length > 0)
    cautions.push(
      caution(
        'confounded',
        `${listed(
          lost.map((term) =>
            term
              .split(':')
              .map((key) => nameOf(request, key))
              .join(' × '),
          ),
        )} cannot be told apart from what is taken out before: it is not tested.`,
      ),
    )
  return [...cautions, ...lacking.map((text) => caution('confounded', text))]
}

function fewDegrees({ request }: LayoutFrame, { errors, tests }: Found): Caution[] {
  const used = errors.filter((error) => tests.some((test) => test.stratum === error.stratum))
  return used
    .filter((error) => error.df < 10)
    .map(({ df, stratum }) =>
      caution(
        'few error degrees of freedom',
        df === 0
          ? `Nothing tells chance differences between ${plural(stratum)}: what was applied to them is described, not tested.`
          : `How far chance goes is known only roughly${used.length > 1 ? ` for ${differencesOf(request, stratum)}` : ''}, from ${formatPlain(df, 3)} error ${df === 1 ? 'degree' : 'degrees'} of freedom.`,
      ),
    )
}

/** Variances at zero, and those that few units tell. */
function ofChance({ request, units, tooFew, sampled }: LayoutFrame, { mixed }: Found): Caution[] {
  const random = (mixed?.parameters ?? []).filter((each) => each.of === 'random')
  const zero = random.filter((each) => each.atBound).map((each) => differencesOf(request, each.name))
  const few = random.flatMap(({ name }) => {
    const count = [...units, ...sampled].find((unit) => unit.name === name)?.levels.length ?? FEW
    return count < FEW ? [`${count} ${plural(name)}`] : []
  })
  return [
    ...(zero.length > 0
      ? [caution('at zero', `The variance of ${listed(zero)} is taken as zero: no more was seen than chance would make.`)]
      : []),
    ...(few.length > 0 ? [caution('few units', `Only ${listed(few)}: how much they differ by chance is hardly known from so few.`)] : []),
    ...tooFew.map((kind) =>
      caution(
        'few units',
        `Each ${kind} holds a part of the treatments only, but there are too few to say how much ${plural(kind)} differ by chance: they are taken out.`,
      ),
    ),
  ]
}

/** Members of a kind below which their variance is hardly known. */
const FEW = 5

function records(frame: LayoutFrame, tested: boolean): Caution[] {
  const { observed, finest, request, factors, units } = frame
  const kinds = units.filter((unit) => !unit.name.includes(':'))
  const cautions: Caution[] = []
  request.factors.forEach((factor, f) => {
    const lacking = factor.levels.filter((level) => !factors[f]!.levels.includes(level))
    if (lacking.length > 0)
      cautions.push(
        caution(
          'missing',
          `${capital(plural('level', lacking.length))} of ${nameOf(request, factor.key)} without a value, and so not compared: ${listed(lacking.map((level) => listedName(factor.said?.[level]?.name ?? level)))}.`,
        ),
      )
  })
  cautions.push(...lostWholes(frame), ...lostTogether(frame))
  const all = observed.rows.length + observed.missing + observed.leftOut
  if (observed.missing > 0)
    cautions.push(
      caution(
        'missing',
        `${observed.missing} of ${all} ${plural(finest)} ${observed.missing === 1 ? 'is' : 'are'} missing${tested && kinds.length > 0 ? `; means are adjusted for the ${plural(kinds.at(-1)!.name)} they were lost from` : ''}.`,
      ),
    )
  if (observed.leftOut > 0)
    cautions.push(
      caution(
        'left out',
        `${observed.leftOut} ${observed.leftOut === 1 ? `${finest} is` : `${plural(finest)} are`} left out with a reason on record.`,
      ),
    )
  const swapped = new Set<string>()
  observed.rows.forEach((_, i) => {
    for (const factor of request.factors) {
      const unit = misapplied(frame, i, factor.key)
      if (unit) swapped.add(`${unit.kind} ${unit.code}`)
    }
  })
  if (swapped.size > 0)
    cautions.push(
      caution(
        'as received',
        `${capital(listed([...swapped]))} ${swapped.size === 1 ? 'is' : 'are'} analysed as treated, and not as randomised.`,
      ),
    )
  return cautions
}

/** Larger units of which no unit has a value. */
function lostWholes({ request, finest, observed, units }: LayoutFrame): Caution[] {
  const index = new Map(request.units.map((unit) => [unit.id, unit]))
  const kinds = new Set([...units.map((unit) => unit.name), ...request.structure.kinds.map((each) => each.kind as string)])
  return [...kinds].flatMap((kind) => {
    if (kind === finest || kind.includes(':')) return []
    const own = request.units.filter((unit) => unit.kind === kind)
    const holding = (of: readonly Unit[]): Set<string> => new Set(of.map((unit) => holderOf(unit, own[0]!.kind, index) ?? ''))
    if (own.length < 2) return []
    const [planned, measured] = [
      holding(request.units.filter((unit) => unit.kind === finest)),
      holding(observed.rows.map((row) => row.unit)),
    ]
    const sites = new Set(observed.rows.map((row) => holderOf(row.unit, 'site', index)))
    // Of a site that was lost as a whole its parts need no word.
    const lost = own.filter(
      (unit) => planned.has(unit.id) && !measured.has(unit.id) && (kind === 'site' || sites.has(holderOf(unit, 'site', index))),
    )
    if (lost.length === 0 || measured.has('')) return []
    const names = lost.map((unit) => {
      const site = holderOf(unit, 'site', index)
      return `${listedName(unit.code)}${kind !== 'site' && site !== undefined && request.units.filter((each) => each.kind === 'site').length > 1 ? ` at ${index.get(site)!.code}` : ''}`
    })
    return [
      caution(
        'missing',
        `${capital(plural(kind, lost.length))} without any value: ${listed(names.length > MOST_NAMED ? [...names.slice(0, MOST_NAMED), `${names.length - MOST_NAMED} more`] : names)}.`,
      ),
    ]
  })
}

const MOST_NAMED = 8
/** Losses of which so many, and so great a part, stood under one level are told. */
const [FEW_LOST, MOST_OF_THEM, A_QUARTER] = [2, 0.75, 0.25]

/** Losses that stand under one level: what made them fail may be the treatment. */
function lostTogether({ request, finest, observed, factors }: LayoutFrame): Caution[] {
  const index = new Map(request.units.map((unit) => [unit.id, unit]))
  const measured = new Set(observed.rows.map((row) => row.unit.id))
  const lost = request.units.filter((unit) => unit.kind === finest && !measured.has(unit.id) && !request.leftOut?.has(unit.id))
  if (lost.length < FEW_LOST) return []
  return request.factors.flatMap((factor, f) => {
    const counts = new Map<string, number>()
    for (const unit of lost) {
      const level = levelOn(unit, factor.key, index)
      if (level !== undefined) counts.set(level, (counts.get(level) ?? 0) + 1)
    }
    const [level, most] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? ['', 0]
    // A level lost as a whole is told already, and of few levels chance alone brings losses together.
    const had = request.units.filter((unit) => unit.kind === finest && levelOn(unit, factor.key, index) === level).length
    const few = most < 3 && (factor.levels.length < 3 || most / had < A_QUARTER)
    if (most / lost.length < MOST_OF_THEM || !factors[f]!.levels.includes(level) || few) return []
    const part = most === lost.length ? (most === 2 ? 'Both' : `All ${most}`) : `${most} of the ${lost.length}`
    return [
      caution(
        'missing',
        `${part} missing ${plural(finest)} had ${listedName(factor.said?.[level]?.name ?? level)}: the loss may come from the treatment, and then those left are not like those lost.`,
      ),
    ]
  })
}

/** Samples without a value inside units that have others. */
function samplesLost({ request, finest, observed }: LayoutFrame): Caution[] {
  const index = new Map(request.units.map((unit) => [unit.id, unit]))
  const seen = new Set(request.observations.map((each) => each.unit))
  const measured = new Set(observed.rows.map((row) => row.unit.id))
  const inside = request.units.filter(
    (unit) => unit.kind === 'sample' && finest !== 'sample' && measured.has(holderOf(unit, finest, index) ?? ''),
  )
  const lost = inside.filter((unit) => !seen.has(unit.id)).length
  return lost === 0 || lost === inside.length
    ? []
    : [
        caution(
          'missing',
          `${lost} of ${inside.length} samples have no value: the ${plural(finest)} they lie in count by those that have one.`,
        ),
      ]
}

/** Values below what could be read are no zeros, and those above it no maxima: left out, they bend the means. */
function bounds({ observed, request }: LayoutFrame): Caution[] {
  const { below, above } = observed.bounded
  const told = (count: number, where: string, bends: string): Caution[] =>
    count === 0
      ? []
      : [
          caution(
            'bounds',
            `${count} ${count === 1 ? 'value' : 'values'} of ${request.trait.name} ${count === 1 ? 'is' : 'are'} known only to lie ${where} what could be read and ${count === 1 ? 'is' : 'are'} not in the means, which are ${bends} for it.`,
          ),
        ]
  return [...told(below, 'below', 'too high'), ...told(above, 'above', 'too low')]
}

function samples({ observed, finest, request, random }: LayoutFrame, { errors }: Found): Caution[] {
  const { kind, name } = request.trait
  const cautions: Caution[] = []
  if (observed.broughtUp > 0) {
    const how = { continuous: 'mean', score: 'mean', count: 'total', share: observed.exposed ? 'total share' : 'mean share' }[kind]
    cautions.push(caution('samples', `Several values of one ${finest} were brought up to their ${how}: they are one replicate.`))
    if (kind === 'score')
      cautions.push(caution('samples', `Ordered scores of ${name} were averaged within each ${finest}, which takes their steps as equal.`))
  }
  if (kind === 'share' && !observed.exposed)
    cautions.push(
      caution('samples', `How many were looked at is not known: every share of ${name} counts alike, though one of few is less sure.`),
    )
  if (observed.weights)
    cautions.push(
      caution(
        'samples',
        `What was looked at differs from one ${finest} to another; ${errors.length > 1 || random.size > 0 ? `each ${finest} counts as one all the same` : `each ${finest} counts by it`}.`,
      ),
    )
  return cautions
}

/** Means adjusted to where no unit of a treatment stood, and covariates that treatments have changed. */
function extrapolated({ factors, covariates, request }: LayoutFrame, found: readonly CovariateRow[]): Caution[] {
  return found.flatMap((row, c): Caution[] => {
    const { values } = covariates[c]!
    const cautions: Caution[] = []
    const at = formatNumber(row.at, 3)
    if (row.at < row.min || row.at > row.max) {
      cautions.push(
        caution(
          'extrapolated',
          `Means are adjusted to ${row.name} ${at}, outside all that was observed (${formatNumber(row.min, 3)} to ${formatNumber(row.max, 3)}).`,
        ),
      )
    } else {
      const outside = factors.flatMap((factor) =>
        factor.levels.filter((_, level) => {
          const own = values.filter((_value, i) => factor.codes[i] === level)
          return row.at < Math.min(...own) || row.at > Math.max(...own)
        }),
      )
      if (outside.length > 0)
        cautions.push(
          caution(
            'extrapolated',
            `Means are adjusted to ${row.name} ${at}, where no unit of ${outside.join(', ')} stood: there the line is extrapolated.`,
          ),
        )
    }
    if (row.byTreatment.p < request.options.significance)
      cautions.push(
        caution(
          'confounded',
          `${capital(row.name)} itself differs between treatments (p ${formatP(row.byTreatment.p)}): adjusting for it may take part of their effect away.`,
        ),
      )
    if (request.options.slopes === 'common' && row.equalSlopes.p < request.options.significance)
      cautions.push(
        caution(
          'heterogeneous',
          `Treatments differ in their slope on ${row.name} (p ${formatP(row.equalSlopes.p)}): their difference depends on where it is read. Ask for separate slopes.`,
        ),
      )
    return cautions
  })
}

function residualCautions({ equalVariance, equalSiteErrors, walk, neighbours }: Checks, ownErrors: boolean): Caution[] {
  const cautions: Caution[] = []
  if (equalVariance && equalVariance.brownForsythe.p < 0.01)
    cautions.push(
      caution(
        'heterogeneous',
        `Some treatments scatter more than others (Brown–Forsythe p ${formatP(equalVariance.brownForsythe.p)}), so intervals are too narrow for those.`,
      ),
    )
  if (equalSiteErrors && equalSiteErrors.p < 0.01)
    cautions.push(
      caution(
        'heterogeneous',
        `The sites differ in their error (Bartlett p ${formatP(equalSiteErrors.p)}): ${ownErrors ? 'each is judged by its own' : 'one common error is too small for some of them'}.`,
      ),
    )
  if (neighbours && neighbours.z > 0 && neighbours.p < 0.01)
    cautions.push(
      caution(
        'ground trend',
        `Plots that lie side by side are more alike than their blocks explain (Moran’s I ${formatFixed(neighbours.i, 2)}, p ${formatP(neighbours.p)}): there is a trend in the ground inside the blocks.`,
      ),
    )
  else if (walk && walk.z > 0 && walk.p < 0.01)
    cautions.push(
      caution(
        'ground trend',
        `Values drift along the walking order (lag-one correlation ${formatFixed(walk.r1, 2)}, p ${formatP(walk.p)}): a trend in the ground, or in how they were taken.`,
      ),
    )
  return cautions
}

/** Shares crowd near 0 and 100 %: one spread for all does not hold there. */
function sharesAtTheEnds({ raw }: LayoutFrame): Caution[] {
  return raw.some((value) => value < 10 || value > 90)
    ? [caution('scale', 'Some shares lie below 10 % or above 90 %, where they spread less: look at the answer on the logit scale too.')]
    : []
}

function nameOf(request: LayoutFrame['request'], factor: string): string {
  return request.factors.find((each) => each.key === factor)?.name ?? factor
}
