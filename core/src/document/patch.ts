import { placedAnew } from '../ground/index.ts'
import { Site, Trial, type Layout, type Span, type Unit } from '../trial/index.ts'
import { checkTrial } from './check.ts'
import { DocumentError } from './problem.ts'
import { fieldName, sectionName, sectionOf } from './sections.ts'

export type Patch = Readonly<Record<string, unknown>>

/**
 * A patch as it is kept: comparisons and traits that come, or are changed in what they are, when there
 * are readings already say so. What was late stays late, whatever the sender says.
 */
export function markedLate(trial: Trial, section: string, patch: Patch, measured: boolean): Patch {
  const mark = (path: string, before: readonly { key: string; late?: boolean | undefined }[], what: (each: object) => unknown): Patch => {
    const sent = patch[path]
    if (!Array.isArray(sent)) return patch
    const marked = (sent as { key?: unknown }[]).map((each) => {
      if (each === null || typeof each !== 'object') return each
      const was = before.find((one) => one.key === each.key)
      const late = was && same(what(was), what(each)) ? was.late : measured
      const { late: _, ...rest } = each as { late?: boolean }
      return late === undefined || (path !== 'comparisons' && !late) ? rest : { ...rest, late }
    })
    return { ...patch, [path]: marked }
  }
  if (section === 'treatments') return mark('comparisons', trial.treatments.comparisons, (each) => (each as { of?: unknown }).of)
  if (section === 'traits') return mark('observed', trial.traits.observed, () => null)
  return patch
}

/** A trial with what is laid out of it. */
export interface Document {
  readonly trial: Trial
  readonly layouts: readonly Layout[]
}

/** What a draw among standing units did: enough to turn it back. */
export interface DrawDelta {
  readonly factor: string
  readonly treatments: Trial['treatments']
  /** By site: the treatments it does not have. */
  readonly without: Readonly<Record<string, readonly string[]>>
}

/** Two units that exchanged what was dealt out to them, and how their factors are dealt out. */
export interface SwapDelta {
  readonly a: string
  readonly b: string
  readonly how: Readonly<Record<string, Layout['structure']['factors'][number]['how']>>
}

/** Units that stand though no plan has them. */
export interface ExtraDelta {
  readonly site: string
  readonly units: readonly Unit[]
}

/** What a change did, as it was and as it became: enough to turn it back, and no more. */
export interface Delta {
  readonly patch?: Patch
  /** Layouts by site; null where there was none. */
  readonly layouts?: Readonly<Record<string, Layout | null>>
  readonly unit?: Pick<Layout['units'][number], 'id' | 'received' | 'changes'> & { readonly on?: Span | null }
  readonly draw?: DrawDelta
  readonly swap?: SwapDelta
  readonly extra?: ExtraDelta
  readonly deletedAt?: string | null
}

export interface Change extends Document {
  readonly section: string | null
  readonly what: string
  readonly before: Delta
  readonly after: Delta
}

/** The value of a field of a section by its path. */
export function fieldValue(trial: Trial, section: string, path: string): unknown {
  if (section === 'sites') return trial.sites.find((site) => site.key === path) ?? null
  return path.split('.').reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], sectionValue(trial, section))
}

function sectionValue(trial: Trial, section: string): unknown {
  if (section.startsWith('site:')) return trial.sites.find((site) => `site:${site.key}` === section)
  return trial[section as 'question']
}

/**
 * Applies a patch to one section, with what follows for the layouts: plots follow the ground they
 * lie on, and a layout that no longer has the treatments or the design is taken off. Throws
 * DocumentError when the section or a field is unknown, or the trial could not be so.
 */
export function applyPatch({ trial, layouts }: Document, section: string, patch: Patch): Change {
  const known = sectionOf(section)
  if (!known || (section !== 'sites' && sectionValue(trial, section) === undefined))
    throw new DocumentError([{ path: 'section', message: `There is no section “${section.slice(0, 40)}” in this trial.` }])
  const paths = Object.keys(patch)
  const strange = section === 'sites' ? undefined : paths.find((path) => !Object.hasOwn(known.fields, path))
  if (strange !== undefined)
    throw new DocumentError([{ path: strange.slice(0, 60), message: `${known.name} has no field “${strange.slice(0, 60)}”.` }])
  if (paths.length === 0) throw new DocumentError([{ path: 'patch', message: 'Nothing was changed.' }])
  const before = Object.fromEntries(paths.map((path) => [path, fieldValue(trial, section, path) ?? null]))
  const patched = section === 'sites' ? withSites(trial, patch) : withFields(trial, section, patch)
  // What came over the wire has any shape: the layouts follow only what is a trial.
  const shape = checkTrial(patched)
  if (shape.length > 0) throw new DocumentError(shape)
  const parsed = Trial.parse(bumped(patched, section, trial))
  const laid = follow(trial, parsed, layouts)
  const problems = checkTrial(parsed, laid.layouts)
  if (problems.length > 0) throw new DocumentError(problems)
  const dropped = Object.keys(laid.dropped).length > 0
  return {
    trial: parsed,
    layouts: laid.layouts,
    section,
    what: changeInWords(trial, parsed, section, paths, Object.keys(laid.dropped)),
    before: { patch: before, ...(dropped ? { layouts: laid.dropped } : {}) },
    after: {
      patch: Object.fromEntries(paths.map((path) => [path, fieldValue(parsed, section, path) ?? null])),
      ...(dropped ? { layouts: Object.fromEntries(Object.keys(laid.dropped).map((key) => [key, null])) } : {}),
    },
  }
}

function withFields(trial: Trial, section: string, patch: Patch): Trial {
  const value = structuredClone(sectionValue(trial, section)) as Record<string, unknown>
  for (const [path, to] of Object.entries(patch)) {
    const keys = path.split('.')
    const last = keys.pop()!
    const holder = keys.reduce<Record<string, unknown>>((at, key) => at[key] as Record<string, unknown>, value)
    holder[last] = to
  }
  if (!section.startsWith('site:')) return { ...trial, [section]: value }
  return { ...trial, sites: trial.sites.map((site) => (`site:${site.key}` === section ? (value as Site) : site)) }
}

/** Sites come and go under their keys: null takes one away. */
function withSites(trial: Trial, patch: Patch): Trial {
  const sites = trial.sites.filter((site) => patch[site.key] !== null)
  for (const [key, to] of Object.entries(patch)) {
    if (to === null) continue
    const parsed = Site.safeParse(to)
    if (!parsed.success)
      throw new DocumentError(parsed.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message })))
    if (parsed.data.key !== key) throw new DocumentError([{ path: key, message: 'A site is added under its own key.' }])
    const at = sites.findIndex((site) => site.key === key)
    if (at === -1) sites.push(parsed.data)
    else sites[at] = parsed.data
  }
  return { ...trial, sites }
}

function bumped(trial: Trial, section: string, before: Trial): Trial {
  const versions = { ...before.versions, [section]: (before.versions[section] ?? 0) + 1 }
  for (const site of trial.sites) versions[`site:${site.key}`] ??= 1
  return { ...trial, version: before.version + 1, versions }
}

/** What becomes of the layouts: placed anew, kept, or taken off (with what they were). */
function follow(before: Trial, after: Trial, layouts: readonly Layout[]): { layouts: Layout[]; dropped: Record<string, Layout> } {
  const kept: Layout[] = []
  const dropped: Record<string, Layout> = {}
  const sameTreatments = dealtFrom(before) === dealtFrom(after)
  for (const layout of layouts) {
    const [was, is] = [before, after].map((trial) => trial.sites.find((site) => site.key === layout.siteKey))
    if (!is || !was || !sameTreatments || told([was.design, was.without]) !== told([is.design, is.without]))
      dropped[layout.siteKey] = layout
    else kept.push(told(was.ground) === told(is.ground) ? layout : placedAnew(layout, is, after.sites))
  }
  return { layouts: kept, dropped }
}

/** The same whatever the order of keys. */
function told(value: unknown): string {
  return JSON.stringify(value, (_, each: unknown) =>
    each !== null && typeof each === 'object' && !Array.isArray(each)
      ? Object.fromEntries(Object.entries(each as Record<string, unknown>).sort(([a], [b]) => (a < b ? -1 : 1)))
      : each,
  )
}

export function same(a: unknown, b: unknown): boolean {
  return told(a ?? null) === told(b ?? null)
}

/** What a layout was dealt out from: which treatments there are, and what they consist of. */
export function dealtFrom({ treatments }: Pick<Trial, 'treatments'>): string {
  return told([
    treatments.factors.map((factor) => [factor.key, factor.levels.map((level) => level.key)]),
    treatments.list.map((each) => [each.key, each.levels, each.role === 'shown']),
  ])
}

/** `Question: title, crop`. */
function changeInWords(before: Trial, after: Trial, section: string, paths: readonly string[], dropped: readonly string[]): string {
  const layout = dropped.length > 0 ? '; the layout was taken off' : ''
  if (section === 'sites') {
    const added = paths.filter((path) => after.sites.some((site) => site.key === path) && !before.sites.some((site) => site.key === path))
    const name = (trial: Trial, path: string): string => fieldName('sites', path, trial)
    return (
      paths
        .map((path) => (added.includes(path) ? `Site added: ${name(after, path)}` : `Site taken out: ${name(before, path)}`))
        .join('; ') + layout
    )
  }
  return `${sectionName(section, after)}: ${paths.map((path) => fieldName(section, path, after)).join(', ')} changed${layout}`
}
