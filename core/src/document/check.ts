import { designOf } from '../design/index.ts'
import { derivationProblems } from '../numbers/index.ts'
import { OUTSIDE, TrialDraft, type Layout, type Treatments, type Unit } from '../trial/index.ts'
import { boundsOf, cornersOf, overlap } from '../ground/index.ts'
import type { DocumentProblem } from './problem.ts'

/**
 * The one validator: what must hold of a trial and its layouts whatever they came from, a form,
 * an edit, an undo or a file. Empty when all of it does. Shape first, then sense.
 */
export function checkTrial(trial: unknown, layouts: readonly Layout[] = []): DocumentProblem[] {
  const parsed = TrialDraft.safeParse(trial)
  if (!parsed.success) return parsed.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message }))
  const draft = parsed.data
  return [
    ...derived(draft),
    ...sites(draft),
    ...prices(draft),
    ...layouts.flatMap((layout, i) => laidOut(draft, layout, `layouts.${i}`)),
    ...oneASite(layouts),
    ...again(draft, layouts),
  ]
}

function derived({ traits }: TrialDraft): DocumentProblem[] {
  return derivationProblems(traits).map(({ index, problem }) => ({ path: `traits.derived.${index}`, message: problem }))
}

function sites({ sites: all, treatments }: TrialDraft): DocumentProblem[] {
  const found: DocumentProblem[] = []
  const known = new Set(treatments.factors.map((factor) => factor.key))
  all.forEach((site, i) => {
    const at = `sites.${i}`
    if (all.findIndex((each) => each.key === site.key) !== i)
      found.push({ path: `${at}.key`, message: `Two sites have the key “${site.key}”.` })
    if (all.findIndex((each) => each.name === site.name) !== i)
      found.push({ path: `${at}.name`, message: `Two sites are called “${site.name}”.` })
    const design = designOf(site.design.key)
    if (!design) {
      found.push({ path: `${at}.design.key`, message: `There is no design “${site.design.key}” here.` })
      return
    }
    // One that is no longer a treatment of the trial is missing anyway.
    if (site.without.length > 0 && treatments.list.filter((each) => !site.without.includes(each.key)).length < 2)
      found.push({
        path: `${at}.without`,
        message: `${site.name} would have fewer than two treatments: leave it out of the trial instead.`,
      })
    const first = site.again === null ? null : all.find((each) => each.key === site.again)
    if (first === undefined || first === site || (first && first.again !== null))
      found.push({
        path: `${at}.again`,
        message: `${site.name} stands on plots of a site that is not part of this trial, or has none of its own.`,
      })
    const placed = Object.values(site.design.placed).flat()
    const strange = placed.find((factor) => !known.has(factor))
    if (strange !== undefined) found.push({ path: `${at}.design.placed`, message: `“${strange}” is not varied in this trial.` })
    if (new Set(placed).size < placed.length) found.push({ path: `${at}.design.placed`, message: 'A factor stands on two sizes of unit.' })
    if (site.design.walked === 'plant' && site.design.plants === 0)
      found.push({ path: `${at}.design.walked`, message: 'There are no single plants to walk to.' })
  })
  return found
}

function prices({ prices: own, treatments }: TrialDraft): DocumentProblem[] {
  const known = new Set(treatments.list.map((each) => each.key))
  const found: DocumentProblem[] = []
  if (own.reference !== null && !known.has(own.reference))
    found.push({ path: 'prices.reference', message: 'What everything is held against is not a treatment of this trial.' })
  const stray = Object.keys(own.otherCost).find((key) => !known.has(key))
  if (stray !== undefined)
    found.push({ path: 'prices.otherCost', message: `A cost is stated for “${stray}”, which is not a treatment of this trial.` })
  return found
}

function oneASite(layouts: readonly Layout[]): DocumentProblem[] {
  const keys = layouts.map((layout) => layout.siteKey)
  const twice = keys.find((key, i) => keys.indexOf(key) !== i)
  return twice === undefined ? [] : [{ path: 'layouts', message: `The site “${twice}” has two layouts.` }]
}

/** The same plots in a later season are the same plots. */
function again({ sites: all }: TrialDraft, layouts: readonly Layout[]): DocumentProblem[] {
  const plotsOf = (key: string | null): string | undefined =>
    layouts
      .find((layout) => layout.siteKey === key)
      ?.units.map((unit) => `${unit.kind === 'site' ? '' : unit.code} ${unit.kind}`)
      .join('|')
  return all
    .filter((site) => site.again !== null && plotsOf(site.key) !== undefined && plotsOf(site.key) !== plotsOf(site.again))
    .map((site) => ({
      path: 'layouts',
      message: `${site.name} is to have the plots of ${all.find((each) => each.key === site.again)!.name}, and has others.`,
    }))
}

function laidOut(trial: TrialDraft, layout: Layout, path: string): DocumentProblem[] {
  const site = trial.sites.find((each) => each.key === layout.siteKey)
  if (!site) return [{ path, message: `A layout is for the site “${layout.siteKey}”, which is not part of this trial.` }]
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  if (index.size < layout.units.length) return [{ path, message: 'A unit stands twice in a layout.' }]
  return [
    ...nested(layout, index, path),
    ...structured(trial.treatments, layout, path),
    ...marked(trial.treatments, layout.units, path),
    ...placed(layout.units, path),
  ]
}

/** Every unit lies in units that are there, and none in itself. */
function nested({ units }: Layout, index: ReadonlyMap<string, Unit>, path: string): DocumentProblem[] {
  const state = new Map<string, 'open' | 'done'>()
  for (const start of units) {
    // A walk with its own stack: a file may nest units as deep as it likes.
    const stack: { unit: Unit; next: number }[] = [{ unit: start, next: 0 }]
    if (state.get(start.id) === 'done') continue
    state.set(start.id, 'open')
    while (stack.length > 0) {
      const top = stack.at(-1)!
      const holders = [...top.unit.in, ...(top.unit.at ? [top.unit.at.in] : [])]
      const id = holders[top.next++]
      if (id === undefined) {
        state.set(top.unit.id, 'done')
        stack.pop()
        continue
      }
      const above = index.get(id)
      if (!above) return [{ path, message: `${top.unit.kind} ${top.unit.code} lies in a unit that is not listed.` }]
      if (state.get(id) === 'open') return [{ path, message: `${above.kind} ${above.code} lies in itself by way of others.` }]
      if (state.get(id) === undefined) {
        state.set(id, 'open')
        stack.push({ unit: above, next: 0 })
      }
    }
  }
  return []
}

function structured({ factors }: Treatments, { structure, units }: Layout, path: string): DocumentProblem[] {
  const kinds = new Map(structure.kinds.map((each) => [each.kind, each.in]))
  const known = new Set(factors.map((factor) => factor.key))
  const found: DocumentProblem[] = []
  for (const [kind, within] of kinds) {
    const strange = within.find((each) => !kinds.has(each) || each === kind)
    if (strange) found.push({ path: `${path}.structure`, message: `${kind} lies in ${strange}, which the structure does not have.` })
  }
  if (structure.factors.length === 0) found.push({ path: `${path}.structure`, message: 'The structure names no factor.' })
  for (const { factor, appliedTo, within } of structure.factors) {
    if (!known.has(factor))
      found.push({ path: `${path}.structure`, message: `The layout deals out “${factor}”, which is not varied in this trial.` })
    for (const kind of [appliedTo, within]) {
      if (kind !== null && !kinds.has(kind))
        found.push({ path: `${path}.structure`, message: `${factor} is dealt out to ${kind}, which the structure does not have.` })
    }
  }
  const byId = new Map(units.map((unit) => [unit.id, unit]))
  for (const unit of units) {
    const within = kinds.get(unit.kind)
    if (!within) return [...found, { path, message: `${unit.kind} ${unit.code} is of a kind that the structure does not have.` }]
    const odd = unit.in.map((id) => byId.get(id)).find((above) => above && !within.includes(above.kind))
    if (odd)
      return [...found, { path, message: `${unit.kind} ${unit.code} lies in ${odd.kind} ${odd.code}, which the structure does not allow.` }]
  }
  return found
}

function marked({ factors, list }: Treatments, units: readonly Unit[], path: string): DocumentProblem[] {
  const levels = new Map(factors.map((factor) => [factor.key, new Set(factor.levels.map((level) => level.key))]))
  const outside = new Set(list.map((each) => each.key))
  for (const unit of units) {
    for (const which of ['planned', 'received'] as const) {
      for (const [factor, level] of Object.entries(unit[which])) {
        const ok = factor === OUTSIDE ? outside.has(level) : levels.get(factor)?.has(level)
        if (!ok) return [{ path, message: `${unit.kind} ${unit.code} has “${level}” of “${factor}”, which is not part of this trial.` }]
      }
    }
    const stray = Object.keys(unit.changes).find((factor) => factor !== OUTSIDE && !levels.has(factor))
    if (stray !== undefined) return [{ path, message: `${unit.kind} ${unit.code} has a change of “${stray}”, which is not varied here.` }]
  }
  return []
}

/** Codes and turns are each had once, and no two walked units lie on the same ground. */
function placed(units: readonly Unit[], path: string): DocumentProblem[] {
  const codes = new Set<string>()
  for (const unit of units) {
    const code = `${unit.kind} ${unit.code}`
    if (codes.has(code)) return [{ path, message: `Two units are called ${code}.` }]
    codes.add(code)
  }
  const walked = units.filter((unit) => unit.walk !== null)
  const turns = new Set(walked.map((unit) => unit.walk))
  if (turns.size < walked.length) return [{ path, message: 'Two units have the same turn in walking order.' }]
  const sorted = walked
    .flatMap((unit) => (unit.place ? [{ unit, place: unit.place, ...boundsOf(cornersOf(unit.place)) }] : []))
    .sort((a, b) => a.x - b.x)
  let open: typeof sorted = []
  for (const own of sorted) {
    open = open.filter(({ right }) => right > own.x + 1e-6)
    const other = open.find(({ place, y, back }) => y < own.back && own.y < back && overlap(place, own.place))
    if (other)
      return [{ path, message: `${own.unit.kind} ${own.unit.code} and ${other.unit.kind} ${other.unit.code} lie on the same ground.` }]
    open.push(own)
  }
  return []
}
