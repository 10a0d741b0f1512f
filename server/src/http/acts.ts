import {
  addExtra,
  applyPatch,
  changeTreatment,
  DocumentError,
  drawOnStanding,
  layByHand,
  layOnHalves,
  lockedChanges,
  lockInWords,
  markedLate,
  refusalInWords,
  relayInWords,
  swapTreatments,
  undoEvent,
  type Change,
  type Standing,
} from '@canter/core/document'
import type { SearchWatch } from '@canter/core/design'
import { layOut, layOutAgain, layoutProblems } from '@canter/core/ground'
import type { LayoutRequest, SectionEdit, Swap, Trial, TrialFile, TreatmentChange } from '@canter/core/trial'
import { DRAW, halvedSince, type ExtraUnit, type LaterDraw } from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'
import type { Recorded } from '../store/trials.ts'
import { HttpProblem, notFound } from './http-problem.ts'

/** Today is another day somewhere else. */
const DAY = 86_400_000

/** What can be done to a trial: each from what stands to what is to be written, or a refusal. Called by name, so that large trials are worked on beside. */
const acts = {
  edit: (file: TrialFile, standing: Standing, { section, edit }: { section: string; edit: SectionEdit }): Recorded => {
    const { version, patch, reason, confirm } = edit
    const change = applyPatch(file, section, markedLate(file.trial, section, patch, standing.traits.size > 0))
    current(file, file.trial.versions[section] ?? 1, version)
    refuseLocked(file.trial, change, standing)
    const needed = lockedChanges(file.trial, change.trial, standing).filter((each) => each.how === 'reason')
    if (needed.length > 0 && reason === '')
      throw new HttpProblem(
        422,
        'Reason needed',
        `Give a reason, which stays on record: you change ${needed.map(lockInWords).join(', ')}.`,
        {
          errors: [{ path: 'reason', message: 'A reason is needed.' }],
        },
      )
    const dropped = Object.keys(change.before.layouts ?? {})
    if (dropped.length > 0 && !confirm) {
      const names = dropped.map((key) => file.trial.sites.find((site) => site.key === key)?.name ?? key)
      const text = relayInWords(names)
      throw new HttpProblem(422, 'To be confirmed', text, { errors: [{ path: 'confirm', message: text }] })
    }
    return { change, kind: 'edited', reason }
  },

  undo: (file: TrialFile, standing: Standing, { event: id, reason }: { event: string; reason: string }): Recorded => {
    const event = file.events.find((each) => each.id === id)
    if (!event) throw notFound('The change')
    if (file.events.some((each) => each.undoes === event.id)) throw new HttpProblem(409, 'Not turned back', 'This was turned back already.')
    const change = undoEvent(file, event)
    if (event.kind !== 'drawn') refuseLocked(file.trial, change, standing)
    const whole = change.layouts.find(({ siteKey, structure }) => standing.halves.has(siteKey) && halvedSince(structure) === null)
    if (whole) throw locked('Halves of plots have been read, or something is on record of them: they stay as they are.')
    const relaid = change.layouts.filter((layout) => !file.layouts.includes(layout)).map((layout) => layout.siteKey)
    const fixed =
      event.kind === 'randomised'
        ? file.layouts.find(
            (layout) =>
              standing.onGround.has(layout.siteKey) &&
              (relaid.includes(layout.siteKey) || !change.layouts.some((each) => each.siteKey === layout.siteKey)),
          )
        : undefined
    if (fixed) throw locked('The plots are planted or measured: their layout stays as it is.')
    return { change, kind: 'undone', reason, undoes: event.id }
  },

  putAside: (file: TrialFile, _: Standing, { version, reason }: { version: number; reason: string }): Recorded =>
    aside(file, version, reason, new Date().toISOString()),

  bringBack: (file: TrialFile, _: Standing, { version, reason }: { version: number; reason: string }): Recorded =>
    aside(file, version, reason, null),

  layOut: (
    file: TrialFile,
    standing: Standing,
    { site: key, request }: { site: string; request: LayoutRequest },
    watch: SearchWatch | null,
  ): Recorded => {
    const { trial, layouts } = file
    const site = trial.sites.find((each) => each.key === key)
    if (!site) throw notFound('The site')
    current(file, trial.version, request.version)
    if (standing.onGround.has(site.key))
      throw locked('The plots are planted or measured: they cannot be randomised again. Correct single plots instead, with a reason.')
    const first = layouts.find((layout) => layout.siteKey === site.again) ?? null
    if (site.again !== null && !first)
      throw new HttpProblem(422, 'Cannot be laid out', 'The plots that stand here again are not laid out yet: lay out their first season.')
    const later = trial.sites.find((each) => each.again === site.key && layouts.some((layout) => layout.siteKey === each.key))
    if (later) throw locked(`${later.name} is the same plots in a later season: take that site out before they are dealt out anew.`)
    const problems = first ? [] : layoutProblems(trial, site.key)
    if (problems.length > 0) throw new HttpProblem(422, 'Cannot be laid out', problems.join(' '))
    const before = layouts.find((layout) => layout.siteKey === site.key) ?? null
    const seen = watch && lastSeen(watch)
    const laid = first
      ? layOutAgain(site, first, uuidv7, before)
      : layOut(trial, site.key, request.seed, uuidv7, before, seen, request.draw)
    const cut = seen?.cut() ?? null
    const earlier = request.draw === undefined || request.draw === DRAW ? '' : ` by draw ${request.draw}`
    return {
      change: {
        trial: { ...trial, version: trial.version + 1 },
        layouts: trial.sites.flatMap((each) => (each.key === site.key ? [laid] : layouts.filter((layout) => layout.siteKey === each.key))),
        section: `site:${site.key}`,
        what: first
          ? `${site.name} stands on the same plots again`
          : `${site.name} randomised from seed ${request.seed}${earlier}${cut === null ? '' : `; the search was ended at ${Math.round(100 * cut)} %`}`,
        before: { layouts: { [site.key]: before } },
        after: { layouts: { [site.key]: { ...laid, units: [] } } },
      },
      kind: 'randomised',
      reason: request.reason,
    }
  },

  drawLater: (file: TrialFile, standing: Standing, { version, reason, confirm, byHand, halves, ...asked }: LaterDraw): Recorded => {
    current(file, file.trial.version, version)
    if (halves === 'a' || halves === 'b') return { change: onHalves(file, standing, { ...asked, halves }), kind: 'drawn', reason }
    if (byHand) {
      const { change, taken } = layByHand(file, { ...asked, byHand }, standing.traits.size > 0)
      if (taken && !confirm) throw new HttpProblem(422, 'To be confirmed', taken, { errors: [{ path: 'confirm', message: taken }] })
      return { change, kind: 'drawn', reason }
    }
    const today = new Date(Date.now() - DAY).toISOString().slice(0, 10)
    // What has been done already was not drawn by chance, whatever is drawn now.
    if (asked.on < today)
      throw new DocumentError([
        { path: 'on', message: 'A draw holds from the day it is made: what was handled before was not drawn by chance.' },
      ])
    return { change: halves ? onHalves(file, standing, { ...asked, halves }) : drawOnStanding(file, asked), kind: 'drawn', reason }
  },

  swap: (file: TrialFile, standing: Standing, { unit, swap }: { unit: string; swap: Swap }): Recorded => {
    current(file, file.trial.version, swap.version)
    const layout = file.layouts.find((each) => each.units.some((one) => one.id === unit))
    if (!layout) throw notFound('The plot')
    if (standing.onGround.has(layout.siteKey))
      throw locked('The plots are planted or measured: nothing is swapped on paper any more. Record what a plot really got instead.')
    if (file.trial.sites.some((site) => site.again === layout.siteKey && file.layouts.some((each) => each.siteKey === site.key)))
      throw locked('The same plots stand in a later season: swap before that season is added.')
    return { change: swapTreatments(file, unit, swap.with), kind: 'swapped', reason: swap.reason }
  },

  addUnit: (file: TrialFile, _: Standing, { version, site, treatment, reason }: ExtraUnit): Recorded => {
    current(file, file.trial.version, version)
    return { change: addExtra(file, site, treatment, uuidv7), kind: 'added', reason }
  },

  changeTreatment: (file: TrialFile, _: Standing, { unit, change }: { unit: string; change: TreatmentChange }): Recorded => {
    current(file, file.trial.version, change.version)
    if (!file.layouts.some((layout) => layout.units.some((each) => each.id === unit))) throw notFound('The plot')
    return { change: changeTreatment(file, unit, change), kind: 'treatment changed', reason: change.reason }
  },
}

function onHalves(file: TrialFile, { visits, traits }: Standing, asked: Parameters<typeof layOnHalves>[1]): Change {
  return layOnHalves(file, asked, { visits, measured: traits.size > 0, newId: uuidv7 })
}

type Acts = typeof acts

/** One of them with what it is given; plain data, so that it can go to another thread. */
export type Act = { [Name in keyof Acts]: { readonly name: Name; readonly given: Parameters<Acts[Name]>[2] } }[keyof Acts]

/** Throws HttpProblem or DocumentError to refuse. */
export function perform({ name, given }: Act, file: TrialFile, standing: Standing, watch: SearchWatch | null = null): Recorded {
  const act = acts[name] as (file: TrialFile, standing: Standing, given: unknown, watch: SearchWatch | null) => Recorded
  return act(file, standing, given, watch)
}

/** A watch that remembers how far a search was when it was ended; null when it went to its end. */
function lastSeen(watch: SearchWatch): SearchWatch & { cut(): number | null } {
  let [at, ended] = [0, false]
  return {
    progress: (share, efficiency) => {
      at = share
      watch.progress(share, efficiency)
    },
    stopped: () => (ended ||= watch.stopped()),
    cut: () => (ended ? at : null),
  }
}

function aside(file: TrialFile, version: number, reason: string, deletedAt: string | null): Recorded {
  current(file, file.trial.version, version)
  return {
    change: {
      trial: { ...file.trial, version: file.trial.version + 1, deletedAt },
      layouts: file.layouts,
      section: null,
      what: deletedAt === null ? 'Trial brought back' : 'Trial put aside',
      before: { deletedAt: file.trial.deletedAt },
      after: { deletedAt },
    },
    kind: deletedAt === null ? 'restored' : 'deleted',
    reason,
  }
}

function locked(detail: string): HttpProblem {
  return new HttpProblem(409, 'Locked', detail)
}

/** A stale write: what stands now is shown beside what was sent. */
function current(file: TrialFile, stands: number, seen: number): void {
  if (stands !== seen)
    throw new HttpProblem(409, 'Changed meanwhile', 'This was changed elsewhere since you opened it. Compare both, then save again.', {
      current: file,
    })
}

function refuseLocked(before: Trial, { trial }: Change, standing: Standing): void {
  const found = lockedChanges(before, trial, standing)
  if (found.some((each) => each.how === 'refused')) throw locked(refusalInWords(found))
}
