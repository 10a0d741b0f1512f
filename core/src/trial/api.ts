import { z } from 'zod'
import { Person, PersonSettings } from './person.ts'
import { Progress } from './progress.ts'
import { StoredRecord } from './record-kind/index.ts'
import { ShelfItem, ShelfItemDraft, ShelfPatch } from './shelf.ts'
import { Span } from './span.ts'
import { DRAW } from './structure.ts'
import { day, id, key, line, words } from './text.ts'
import { Trial, TrialDraft, TrialFile } from './trial.ts'

/**
 * The HTTP API: one definition a route, by which the server serves and checks, the browser calls,
 * and the OpenAPI document is made.
 */
const version = z.number().int().positive()
const reason = words().max(1000, 'A reason is at most 1000 characters.').default('')
const oneTrial = z.object({ trial: id })

/**
 * A patch of one section at the version its writer saw: the fields that change, and no others.
 * `confirm`: that a layout is taken off by it has been asked.
 */
export const SectionEdit = z
  .object({ version, patch: z.record(z.string(), z.unknown()), reason, confirm: z.boolean().default(false) })
  .meta({ id: 'SectionEdit' })
export type SectionEdit = z.infer<typeof SectionEdit>

export const VersionedRequest = z.object({ version, reason }).meta({ id: 'VersionedRequest' })
export type VersionedRequest = z.infer<typeof VersionedRequest>

export const LayoutRequest = z
  .object({
    version,
    seed: z.number().int().min(0).max(2147483647, 'A seed is at most 2147483647.'),
    /** The draw of an older plan that is to be made again; absent: the newest. */
    draw: z.number().int().min(1).max(DRAW, `Draws are numbered from 1 to ${DRAW}.`).optional(),
    reason,
  })
  .meta({ id: 'LayoutRequest' })
export type LayoutRequest = z.infer<typeof LayoutRequest>

/** A draw among units that stand already: which of them are handled another way from a day on. */
export const LaterDraw = z
  .object({
    version,
    seed: z.number().int().min(0).max(2147483647, 'A seed is at most 2147483647.'),
    /** What is varied by it: “feeding”. */
    name: line('What is varied', 80),
    /** How all were handled till then, and how those that are drawn are. */
    levels: z
      .array(
        z.object({
          code: words().min(1, 'A code is missing.').max(8, 'A code is at most 8 characters, so that it can be read on a stake.'),
          name: line('Name', 80),
        }),
      )
      .min(2, 'Say how those that are drawn are handled.')
      .max(4, 'At most four ways.')
      .refine((all) => new Set(all.map((each) => each.code)).size === all.length, 'Two ways have the same code.'),
    on: day,
    /**
     * Laid by hand and not drawn: which way each unit named has been handled since. All others are as
     * before; treatments are those of the units, sites those where they stand.
     */
    byHand: z
      .array(z.object({ unit: id, way: z.number().int().min(1).max(3) }))
      .min(1, 'Name the units that are handled another way.')
      .max(6000)
      .optional(),
    /**
     * Of every plot one half is handled another way, and from that day halves are read one by one: which half is
     * drawn in each plot, or is the same in all. Of all treatments that are compared.
     */
    halves: z.enum(['by chance', 'a', 'b']).optional(),
    /** That it takes away the only control has been asked. */
    confirm: z.boolean().default(false),
    /** Treatments whose units are drawn among, and the sites where. */
    treatments: z.array(key).min(1, 'Pick the treatments to draw among.').max(500),
    sites: z.array(key).min(1, 'Pick a site.').max(20),
    reason: line('Reason', 1000),
  })
  .meta({ id: 'LaterDraw' })
export type LaterDraw = z.infer<typeof LaterDraw>

/** A unit that carries another level of a factor than the plan said: a label put right, or a real mistake. */
export const TreatmentChange = z
  .object({
    version,
    /** Level by factor; a treatment outside the crossing under `outside`. */
    received: z.record(z.string(), z.string()),
    change: z.enum(['label corrected', 'misapplied']),
    /** When it was really given, where that is known. */
    on: Span.nullable().default(null),
    reason: line('Reason', 1000),
  })
  .meta({ id: 'TreatmentChange' })
export type TreatmentChange = z.infer<typeof TreatmentChange>

/** Two units exchange what was dealt out to them, before anything is planted. */
export const Swap = z.object({ version, with: id, reason: line('Reason', 1000) }).meta({ id: 'Swap' })
export type Swap = z.infer<typeof Swap>

/** A unit that stands though no plan has it. */
export const ExtraUnit = z
  .object({
    version,
    site: key,
    /** What it got of what is varied; null: nothing. */
    treatment: key.nullable(),
    reason: line('Reason', 1000),
  })
  .meta({ id: 'ExtraUnit' })
export type ExtraUnit = z.infer<typeof ExtraUnit>

/** Each is judged alone, by its schema too: one that is no record takes no other with it. Each has an id, so that it can be told. */
export const RecordBatch = z
  .object({
    records: z
      .array(z.looseObject({ id: z.string().max(60, 'An id is a UUID.') }))
      .min(1, 'No records were sent.')
      .max(500, 'Send at most 500 records at a time.'),
  })
  .meta({ id: 'RecordBatch' })

export const RecordOutcome = z
  .object({
    id: z.string(),
    /** already: the same record was there; conflict: another record has this id; refused: it does not fit the trial. */
    status: z.enum(['saved', 'already', 'conflict', 'refused']),
    seq: z.number().int().positive().nullable(),
    detail: z.string(),
  })
  .meta({ id: 'RecordOutcome' })
export type RecordOutcome = z.infer<typeof RecordOutcome>

/**
 * Records after a cursor. `held` tells of those up to it, so that a client sees when the store is
 * no longer the one it has sent to; `epoch` counts how often that was put back from a backup.
 */
export const RecordsReply = z
  .object({
    records: z.array(StoredRecord),
    cursor: z.number().int().nonnegative(),
    held: z.object({ count: z.number().int().nonnegative(), digest: z.string() }),
    store: z.object({ id, epoch: z.number().int().positive() }),
  })
  .meta({ id: 'RecordsReply' })
export type RecordsReply = z.infer<typeof RecordsReply>

export const TrialSummary = z
  .object({
    ...Trial.pick({ id: true, version: true, deletedAt: true }).shape,
    title: z.string(),
    crop: z.string(),
    season: z.number().int(),
    sites: z.array(z.string()),
    treatments: z.number().int(),
    /** How it is laid out, in words: `6 treatments in 4 blocks`. */
    layout: z.string(),
    progress: Progress,
    /** Why the trial cannot be opened; null: it can. */
    problem: z.string().nullable(),
  })
  .meta({ id: 'TrialSummary' })
export type TrialSummary = z.infer<typeof TrialSummary>

/** RFC 9457 problem: what is wrong, where, and what to do. */
export const Problem = z
  .object({
    type: z.string(),
    title: z.string(),
    status: z.number().int(),
    detail: z.string(),
    errors: z.array(z.object({ path: z.string(), message: z.string() })).optional(),
    /** With 409 on a shared fact: what stands now, to be shown beside what was sent. */
    current: z.unknown().optional(),
    outcomes: z.array(RecordOutcome).optional(),
  })
  .meta({ id: 'Problem' })
export type Problem = z.infer<typeof Problem>

export interface Route<
  Params extends z.ZodType = z.ZodType,
  Query extends z.ZodType = z.ZodType,
  Body extends z.ZodType = z.ZodType,
  Reply extends z.ZodType = z.ZodType,
> {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete'
  /** With `:name` parameters. */
  readonly path: string
  readonly summary: string
  readonly params?: Params
  readonly query?: Query
  readonly body?: Body
  /** Schema of a JSON reply; none for files and streams, which the handler sends itself. */
  readonly reply?: Reply
  readonly status?: number
}

const route = <
  Params extends z.ZodType = z.ZodUnknown,
  Query extends z.ZodType = z.ZodUnknown,
  Body extends z.ZodType = z.ZodUnknown,
  Reply extends z.ZodType = z.ZodUnknown,
>(
  of: Route<Params, Query, Body, Reply>,
): Route<Params, Query, Body, Reply> => of

const people = z.object({ people: z.array(Person.pick({ id: true, name: true })) })

export const api = {
  person: route({ method: 'get', path: '/api/person', summary: 'The person at this desk', reply: Person }),
  personSettings: route({
    method: 'put',
    path: '/api/person',
    summary: 'Change name, units, shortcuts or theme',
    body: PersonSettings,
    reply: Person,
  }),
  people: route({ method: 'get', path: '/api/people', summary: 'Everybody who may be named as observer', reply: people }),
  addPerson: route({
    method: 'post',
    path: '/api/people',
    summary: 'Add somebody who observes',
    body: z.object({ name: line('Name', 80) }),
    reply: people,
    status: 201,
  }),
  trials: route({
    method: 'get',
    path: '/api/trials',
    summary: 'All trials and where each is in its season',
    query: z.object({ deleted: z.enum(['yes', 'no']).default('no') }),
    reply: z.object({ trials: z.array(TrialSummary) }),
  }),
  createTrial: route({
    method: 'post',
    path: '/api/trials',
    summary: 'Begin a trial',
    body: TrialDraft,
    reply: TrialFile,
    status: 201,
  }),
  trial: route({
    method: 'get',
    path: '/api/trials/:trial',
    summary: 'One trial with its layouts and history',
    params: oneTrial,
    reply: TrialFile,
  }),
  editSection: route({
    method: 'patch',
    path: '/api/trials/:trial/sections/:section',
    summary: 'Change fields of one section at the version you saw',
    params: z.object({ trial: id, section: z.string().max(60) }),
    body: SectionEdit,
    reply: TrialFile,
  }),
  undoEvent: route({
    method: 'post',
    path: '/api/trials/:trial/events/:event/undo',
    summary: 'Turn one change back, if nobody has changed the same since',
    params: z.object({ trial: id, event: id }),
    body: z.object({ reason }),
    reply: TrialFile,
  }),
  deleteTrial: route({
    method: 'delete',
    path: '/api/trials/:trial',
    summary: 'Put a trial aside; it can be brought back',
    params: oneTrial,
    body: VersionedRequest,
    reply: TrialFile,
  }),
  restoreTrial: route({
    method: 'post',
    path: '/api/trials/:trial/restore',
    summary: 'Bring back a trial that was put aside',
    params: oneTrial,
    body: VersionedRequest,
    reply: TrialFile,
  }),
  layOut: route({
    method: 'post',
    path: '/api/trials/:trial/sites/:site/layout',
    summary: 'Randomise a site from a seed and lay it on its ground',
    params: z.object({ trial: id, site: key }),
    body: LayoutRequest,
    reply: TrialFile,
  }),
  endSearch: route({
    method: 'post',
    path: '/api/trials/:trial/sites/:site/layout/end',
    summary: 'End the search for a layout with the best plan it has',
    params: z.object({ trial: id, site: key }),
    body: z.object({}),
    reply: z.object({ ended: z.boolean() }),
  }),
  drawLater: route({
    method: 'post',
    path: '/api/trials/:trial/draws',
    summary: 'Draw among standing units which are handled another way from a day on',
    params: oneTrial,
    body: LaterDraw,
    reply: TrialFile,
  }),
  swap: route({
    method: 'post',
    path: '/api/trials/:trial/units/:unit/swap',
    summary: 'Swap what two units were dealt, before anything is planted',
    params: z.object({ trial: id, unit: id }),
    body: Swap,
    reply: TrialFile,
  }),
  addUnit: route({
    method: 'post',
    path: '/api/trials/:trial/units',
    summary: 'Record that a unit stands which no plan has',
    params: oneTrial,
    body: ExtraUnit,
    reply: TrialFile,
  }),
  changeTreatment: route({
    method: 'post',
    path: '/api/trials/:trial/units/:unit/treatment',
    summary: 'Record that a unit carries another treatment than was written',
    params: z.object({ trial: id, unit: id }),
    body: TreatmentChange,
    reply: TrialFile,
  }),
  records: route({
    method: 'get',
    path: '/api/trials/:trial/records',
    summary: 'Records after a cursor, in the order they came',
    params: oneTrial,
    query: z.object({ after: z.coerce.number({ error: 'The cursor is a whole number.' }).int().nonnegative().default(0) }),
    reply: RecordsReply,
  }),
  addRecords: route({
    method: 'post',
    path: '/api/trials/:trial/records',
    summary: 'Add records; sending one again does no harm',
    params: oneTrial,
    body: RecordBatch,
    reply: z.object({ outcomes: z.array(RecordOutcome) }),
  }),
  file: route({
    method: 'get',
    path: '/api/trials/:trial/files/:format',
    summary: 'The trial as a file in an open format',
    params: z.object({ trial: id, format: z.string().max(40) }),
  }),
  importPackage: route({
    method: 'post',
    path: '/api/packages',
    summary: 'Import a data package, sent as the body; ?as=copy gives it new ids',
    query: z.object({ as: z.enum(['same', 'copy']).default('same') }),
    reply: TrialFile,
    status: 201,
  }),
  shelf: route({
    method: 'get',
    path: '/api/shelf',
    summary: 'Sites and products that trials can start from',
    reply: z.object({ items: z.array(ShelfItem) }),
  }),
  addToShelf: route({
    method: 'post',
    path: '/api/shelf',
    summary: 'Put a site or a product on the shelf',
    body: ShelfItemDraft,
    reply: ShelfItem,
    status: 201,
  }),
  changeShelf: route({
    method: 'patch',
    path: '/api/shelf/:item',
    summary: 'Change fields of a site or a product on the shelf; trials that have it stay as they are',
    params: z.object({ item: id }),
    body: ShelfPatch,
    reply: ShelfItem,
  }),
  takeOffShelf: route({
    method: 'delete',
    path: '/api/shelf/:item',
    summary: 'Take a site or a product off the shelf; trials that have it keep it',
    params: z.object({ item: id }),
    reply: ShelfItem,
  }),
  changes: route({ method: 'get', path: '/api/changes', summary: 'Live notice of changes, as server-sent events' }),
} as const
