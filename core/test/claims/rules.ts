import type { Analysis } from '../../src/analysis/index.ts'

/** What no sentence may say, wherever a test has it made; in words, empty where nothing is wrong. */
export function faultsIn(text: string, { evidence, share = false }: { evidence?: string; share?: boolean } = {}): string[] {
  // What somebody wrote stands in quotes, and is not ours.
  const own = text.replace(/“[^”]*”/g, '“…”')
  const found: string[] = []
  const never = (pattern: RegExp, why: string): void => {
    const hit = pattern.exec(own)
    if (hit) found.push(`${why}: “${hit[0]}” in “${text}”`)
  }
  never(/\b(no difference|no effect|the same as|are equal|is equal to|identical to|equally good)\b/i, 'sameness')
  never(/\b(NaN|Infinity|undefined|null|\[object)\b/, 'no number')
  never(/–(?!\p{L})/u, 'a dash for a number')
  never(/\bp (0\.000|1\.000|1\b|0\b(?!\.))/, 'a p at its end')
  never(/\bp 0\.050?\b(?!\d)/, 'a p on the cliff')
  never(/\breduced to\b/, 'reduced to')
  never(/\b1 (pairs|plots|levels|treatments|sites|blocks|values|steps|points|comparisons|differences|degrees)\b/, 'one of several')
  never(/\b(one|no) pair of 1\b|widest of (1|one)\b|\bno level two\b|\bof 1 (pairs?|differences?)\b/i, 'of one')
  never(/ {2}|,,|\.\.(?!\.)|\( | \)|;\.|:\.|,\.|\ba the\b|\bthe the\b/, 'spelling')
  never(/−0(\.0+)?(?![\d.])/, 'a negative nothing')
  if (!/[.?!]$/.test(own)) found.push(`no end: “${text}”`)
  if ((own.match(/\(/g) ?? []).length !== (own.match(/\)/g) ?? []).length) found.push(`brackets: “${text}”`)
  for (const hit of own.matchAll(/interval (?:at least|at most|[−\d])/g))
    if (!/\d % $/.test(own.slice(0, hit.index))) found.push(`an interval without its level: “${text}”`)
  for (const [, low, high] of own.matchAll(/interval (−?[\d.\u202f]+) to (−?[\d.\u202f]+)(?! ×)/g)) {
    // Ratios are told to figures, and not to places.
    if (!/times/.test(own) && places(low!) !== places(high!)) found.push(`ends to unlike places: “${text}”`)
  }
  if (
    /\bp [<>\d]/.test(own) &&
    !/interval|\bF [<\d]|\bt [<−\d]|against \d|above|below|×|Moran|correlation|Brown|Bartlett|slope|differs between|Shapiro|degree of freedom|significant|largest of all/.test(
      own,
    )
  )
    found.push(`a bare p: “${text}”`)
  if (evidence === 'look') {
    never(/\binterval\b|\bp [<>\d]/, 'a test of a look')
    never(/\bgave\b|told apart\b/, 'a claim of a look')
  }
  if (evidence === 'compare') never(/\bgave\b/, 'a cause out of a comparison that was not randomised')
  if (share) never(/\d % (more|less|higher|lower)\b/, 'per cent of a share')
  return found
}

function places(text: string): number {
  return text.split('.')[1]?.length ?? 0
}

/** Faults in all that an analysis says. */
export function faultsOf({ sentences, cautions, trait, claims }: Analysis): string[] {
  const share = trait.unit === '%'
  return [
    ...sentences.flatMap(({ text, evidence, why }, i) => [
      ...faultsIn(text, { evidence, share }),
      ...(why === '' ? [`no reason for its class: “${text}”`] : []),
      ...withoutMeasure(text, claims[i]?.kind, trait),
    ]),
    ...cautions.flatMap(({ text }) => faultsIn(text, { share })),
  ]
}

/** A size is told with the measure of its trait. */
function withoutMeasure(text: string, kind: string | undefined, { unit, kind: of }: Analysis['trait']): string[] {
  if (kind !== 'difference' || !/^(kg|g|t|t\/ha|kg\/ha|cm|mm|m|mg\/kg|%)$/.test(unit) || of !== 'continuous') return []
  const measure = unit === '%' ? /percentage point|\d %/ : new RegExp(`[\\d⁰-⁹¹²³] ${unit.replace('/', '\\/')}\\b`)
  return measure.test(text) || /times/.test(text) ? [] : [`no measure: “${text}”`]
}
