import { UnitKind, type Structure } from '../../trial/index.ts'
import { dealt, groupsOf, inOrder, type Plot } from './plots.ts'

/** What a person said of it, or what was proposed. */
export interface Answers {
  readonly runs: ReadonlySet<string>
  readonly both: boolean
  readonly how: Structure['factors'][number]['how']
}

/** The unit of a kind that a plot lies in, by its name. */
export type Holders = ReadonlyMap<UnitKind, string>

export function holdersOf(plot: Plot, run: string, { both }: Answers): Holders {
  const found = new Map<UnitKind, string>()
  for (const part of plot.liesIn
    .split(';')
    .map((each) => each.trim())
    .filter(Boolean)) {
    // prettier-ignore
    const kind = UnitKind.options.filter((each) => part.startsWith(`${each} `)).sort((a, b) => b.length - a.length)[0]
    if (kind && kind !== 'site') found.set(kind, part.slice(kind.length + 1))
  }
  if (plot.block !== '' && !found.has('demonstration')) found.set('block', plot.block)
  if (plot.bench !== '') found.set('bench', plot.bench)
  if (plot.main !== '') found.set('main plot', plot.main)
  if (run !== '') found.set('main plot', run)
  if (both && plot.row !== null && plot.column !== null) {
    found.set('row', `row ${plot.row}`)
    found.set('column', `column ${plot.column}`)
  }
  return found
}

/** Runs of one level side by side, by plot: the name of each. */
export function runsIn(plots: readonly Plot[], factors: ReadonlySet<string>): Map<Plot, string> {
  const found = new Map<Plot, string>()
  if (factors.size === 0) return found
  for (const block of groupsOf(plots, (plot) => plot.block)) {
    let [n, last] = [0, '']
    for (const plot of inOrder(block)) {
      const level = [...factors].map((factor) => dealt(plot)[factor] ?? '').join('|')
      if (level !== last) n++
      last = level
      found.set(plot, `${plot.block}${String.fromCharCode(64 + Math.min(26, n))}${n > 26 ? n : ''}`)
    }
  }
  return found
}

export interface Nesting {
  /** Kinds from the coarsest to the finest, without site and plot. */
  readonly kinds: readonly UnitKind[]
  /** The kinds each lies in directly. */
  readonly within: ReadonlyMap<UnitKind, readonly UnitKind[]>
  /** The finest holders of a plot: others follow from them. */
  readonly direct: (holders: Holders) => UnitKind[]
}

/** What lies in what: a kind lies in another where each of its units lies in one of it, and there are fewer of that. */
export function nestingOf(all: readonly Holders[]): Nesting {
  const names = new Map<UnitKind, Set<string>>()
  for (const holders of all) for (const [kind, name] of holders) names.set(kind, (names.get(kind) ?? new Set()).add(name))
  const kinds = [...names.keys()].sort((a, b) => names.get(a)!.size - names.get(b)!.size)
  const lies = (a: UnitKind, b: UnitKind): boolean => {
    if (a === b || names.get(a)!.size <= names.get(b)!.size) return false
    const above = new Map<string, string>()
    let met = false
    for (const holders of all) {
      const [own, other] = [holders.get(a), holders.get(b)]
      if (own === undefined || other === undefined) continue
      met = true
      if (above.has(own) && above.get(own) !== other) return false
      above.set(own, other)
    }
    return met
  }
  const every = new Map(kinds.map((kind) => [kind, kinds.filter((other) => lies(kind, other))]))
  const nearest = (found: readonly UnitKind[]): UnitKind[] =>
    found.filter((kind) => !found.some((other) => every.get(other)!.includes(kind)))
  return {
    kinds,
    within: new Map(kinds.map((kind) => [kind, nearest(every.get(kind)!)])),
    direct: (holders) => nearest([...holders.keys()]),
  }
}
