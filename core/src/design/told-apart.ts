import { designMatrix, fitLinear, type Classification, type Term } from '../statistics/index.ts'
import { isInside, type Factor, type Level, type Site, type Treatment, type Treatments } from '../trial/index.ts'

/** Effects that the treatments as they stand cannot tell apart, in words, and what would mend it. */
export interface Mixed {
  readonly text: string
  /** A combination to be added; null where none would help. */
  readonly missing: { readonly name: string; readonly levels: Readonly<Record<string, string>> } | null
}

/** What cannot be told apart, said while it can still be mended; the gravest first. Empty when nothing is mixed up. */
export function mixedUp(treatments: Treatments, sites: readonly Pick<Site, 'name' | 'without'>[] = []): Mixed[] {
  const { factors, list } = treatments
  const inside = list.filter((each) => isInside(each, factors))
  return [
    ...changedTogether(factors, inside),
    ...neverAlone(factors, inside),
    ...farOutside(treatments, inside),
    ...passesTogether(factors),
    ...loneMembers(factors),
    ...atOneSite(list, sites),
  ]
}

/** What dropping a treatment costs: what could be told apart with it, and cannot without. */
export function costOfDropping(treatments: Treatments, key: string): string[] {
  const before = new Set(mixedUp(treatments).map((each) => each.text))
  const without = { ...treatments, list: treatments.list.filter((each) => each.key !== key) }
  return mixedUp(without)
    .map((each) => each.text)
    .filter((text) => !before.has(text))
}

const called = (factor: Factor): string => factor.name.toLowerCase()
const levelOf = (factor: Factor, key: string | undefined): Level | undefined => factor.levels.find((each) => each.key === key)
const nameOf = (factor: Factor, key: string | undefined): string => levelOf(factor, key)?.name ?? '–'

/** Pairs of factors whose own effects mix, since their levels fall into groups that never meet; then more factors at once. */
function changedTogether(factors: readonly Factor[], inside: readonly Treatment[]): Mixed[] {
  const found: Mixed[] = []
  factors.forEach((a, i) => {
    for (const b of factors.slice(i + 1)) {
      const groups = groupsOf(a, b, inside)
      if (groups.length < 2) continue
      const shown = groups.map(([treatment]) => `${nameOf(a, treatment!.levels[a.key])} with ${nameOf(b, treatment!.levels[b.key])}`)
      found.push({
        text: `${a.name} and ${called(b)} change together (${shown.slice(0, 3).join('; ')}): which of the two makes a difference cannot be said.`,
        missing: missingCell(factors, inside, [[a.key], [b.key]]),
      })
    }
  })
  const mains = factors.map((factor) => [factor.key])
  const wanted = 1 + factors.reduce((sum, factor) => sum + usedLevels(factor, inside).length - 1, 0)
  if (found.length === 0 && inside.length > 0 && rankOf(factors, inside, mains) < wanted)
    found.push({
      text: `The effects of ${factors.map(called).join(', ')} cannot all be told apart in these treatments.`,
      missing: missingCell(factors, inside, mains),
    })
  return found
}

function usedLevels(factor: Factor, inside: readonly Treatment[]): Level[] {
  return factor.levels.filter((level) => inside.some((each) => each.levels[factor.key] === level.key))
}

/** Treatments in groups that are linked by a shared level of either factor. */
function groupsOf(a: Factor, b: Factor, inside: readonly Treatment[]): Treatment[][] {
  let groups: Treatment[][] = []
  for (const treatment of inside) {
    const linked = groups.filter((group) =>
      group.some((each) => each.levels[a.key] === treatment.levels[a.key] || each.levels[b.key] === treatment.levels[b.key]),
    )
    groups = [...groups.filter((group) => !linked.includes(group)), [...linked.flat(), treatment]]
  }
  return groups
}

/** Rank of a model of these terms over the treatments: how many means and differences they can tell. */
function rankOf(
  factors: readonly Factor[],
  cells: readonly { readonly levels: Readonly<Record<string, string>> }[],
  terms: readonly Term[],
): number {
  const variables = factors.map((factor): Classification => ({
    name: factor.key,
    levels: factor.levels.map((level) => level.key),
    codes: Int32Array.from(cells, (each) => factor.levels.findIndex((level) => level.key === each.levels[factor.key])),
  }))
  return fitLinear(designMatrix(variables, terms, cells.length), new Float64Array(cells.length)).qr.rank
}

/** The combination that is not there and would tell most more apart; null where none would. */
function missingCell(factors: readonly Factor[], inside: readonly Treatment[], terms: readonly Term[]): Mixed['missing'] {
  const before = rankOf(factors, inside, terms)
  const used = factors.map((factor) => usedLevels(factor, inside))
  const cells = used.reduce<Level[][]>((found, levels) => found.flatMap((at) => levels.map((level) => [...at, level])), [[]])
  if (cells.length > 2000) return null
  for (const cell of cells) {
    const levels = Object.fromEntries(cell.map((level, f) => [factors[f]!.key, level.key]))
    if (inside.some((each) => factors.every((factor) => each.levels[factor.key] === levels[factor.key]))) continue
    if (rankOf(factors, [...inside, { levels }], terms) > before) return { name: cell.map((level) => level.name).join(', '), levels }
  }
  return null
}

/** Levels that stand with one level of another factor only, and pairs of factors whose interaction is lost. */
function neverAlone(factors: readonly Factor[], inside: readonly Treatment[]): Mixed[] {
  const found: Mixed[] = []
  factors.forEach((a, i) => {
    for (const b of factors.slice(i + 1)) {
      if (groupsOf(a, b, inside).length > 1) continue
      const [ofA, ofB] = [usedLevels(a, inside), usedLevels(b, inside)]
      if (ofA.length < 2 || ofB.length < 2) continue
      const pairs = new Set(inside.map((each) => `${each.levels[a.key]}|${each.levels[b.key]}`))
      if (pairs.size === ofA.length * ofB.length) continue
      const joint = pairs.size - ofA.length - ofB.length + 1
      if (joint === 0) {
        found.push({
          text: `Whether the effect of ${called(a)} depends on ${called(b)} cannot be told: too few of their combinations are there.`,
          missing: missingCell(factors, inside, [[a.key], [b.key], [a.key, b.key]]),
        })
        continue
      }
      for (const [one, other] of [
        [a, b],
        [b, a],
      ] as const) {
        const bound = usedLevels(one, inside).filter((level) => partners(one, level, other, inside).length === 1)
        if (bound.length === 0) continue
        const [partner] = partners(one, bound[0]!, other, inside)
        found.push({
          text: `${listed(bound.map((level) => level.name))} ${bound.length === 1 ? 'stands' : 'stand'} with ${nameOf(other, partner)} only: what ${bound.length === 1 ? 'it does' : 'they do'} with another ${called(other)} cannot be said.`,
          missing: null,
        })
      }
    }
  })
  return found
}

function partners(one: Factor, level: Level, other: Factor, inside: readonly Treatment[]): string[] {
  return [...new Set(inside.flatMap((each) => (each.levels[one.key] === level.key ? [each.levels[other.key]!] : [])))]
}

/** A treatment outside several factors lacks all of them: against it no single one can be judged. */
function farOutside({ factors, list }: Treatments, inside: readonly Treatment[]): Mixed[] {
  if (factors.length < 2 || inside.length === 0) return []
  return list
    .filter((each) => !isInside(each, factors))
    .map((each) => {
      const lacks = factors.filter((factor) => each.levels[factor.key] === undefined)
      return { each, lacks }
    })
    .filter(({ lacks }) => lacks.length > 1)
    .map(({ each, lacks }) => ({
      text: `${each.name} lacks ${listed(lacks.map(called))} at once: against it only all of them together can be judged, not one of them.`,
      missing: null,
    }))
}

/** Practices that differ in more than one pass from every other. */
function passesTogether(factors: readonly Factor[]): Mixed[] {
  return factors.flatMap((factor) => {
    const levels = factor.levels.filter((level) => level.passes)
    if (levels.length < 2) return []
    const far = levels.filter((level) => levels.every((other) => other === level || passesApart(level, other) > 1))
    return far.length < 2 && levels.length > 2
      ? []
      : far.slice(0, 1).map((level) => ({
          text: `${level.name} differs from the other ${called(factor)} in more than one pass: which of the passes makes a difference cannot be said.`,
          missing: null,
        }))
  })
}

function passesApart({ passes: a = [] }: Level, { passes: b = [] }: Level): number {
  let apart = 0
  for (let i = 0; i < Math.max(a.length, b.length); i++) {
    if (!a[i] || !b[i] || a[i]!.tool.toLowerCase() !== b[i]!.tool.toLowerCase() || a[i]!.depth !== b[i]!.depth) apart++
  }
  return apart
}

/** One member cannot speak for its class. */
function loneMembers(factors: readonly Factor[]): Mixed[] {
  return factors.flatMap((factor) => {
    const classes = [...new Set(factor.levels.flatMap((level) => level.class ?? []))]
    return classes.flatMap((each) => {
      const members = factor.levels.filter((level) => level.class === each)
      if (members.length !== 1) return []
      return [
        {
          text: `${members[0]!.name} alone stands for ${each}: what it does is told of ${members[0]!.name}, and of no ${factor.classes ?? 'class'}.`,
          missing: null,
        },
      ]
    })
  })
}

function atOneSite(list: readonly Treatment[], sites: readonly Pick<Site, 'name' | 'without'>[]): Mixed[] {
  if (sites.length < 2) return []
  return list.flatMap((treatment) => {
    const having = sites.filter((site) => !site.without.includes(treatment.key))
    if (having.length !== 1) return []
    return [
      {
        text: `Only ${having[0]!.name} has ${treatment.name}: whether what it does is due to the treatment or to the site cannot be told against other sites.`,
        missing: null,
      },
    ]
  })
}

function listed(words: readonly string[]): string {
  return words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`
}
