import { z } from 'zod'
import { UnitKind } from './structure.ts'
import { key, line } from './text.ts'

const length = (what: string, least: number, most: number) =>
  z
    .number({ error: `${what} must be a number.` })
    .min(least, `${what} must be at least ${least} m.`)
    .max(most, `${what} must be at most ${most} m.`)

const whole = (what: string, most: number) =>
  z
    .number({ error: `${what} is a whole number.` })
    .int()
    .min(0, `${what} is not below nought.`)
    .max(most, `${what}: at most ${most}.`)

/** A place on the site, metres: x along the front edge to the right, y away from it. */
export const Point = z.tuple([z.number().min(-1e5).max(1e5), z.number().min(-1e5).max(1e5)])
export type Point = z.infer<typeof Point>

/** At least three corners, in order around. */
const Corners = z.array(Point).min(3, 'A piece of ground has three corners or more.').max(200)

/** What changes across the ground, from where it is low to where it is high. */
export const GRADIENTS = ['slope', 'light', 'soil', 'wet', 'wind'] as const

/** Corners of the ground as one stands before its front edge. */
export const CORNERS = ['front left', 'front right', 'back left', 'back right'] as const
export type Corner = (typeof CORNERS)[number]

/** How far a group is put aside from where its measures would have it, metres, and turned about its front left corner, degrees anticlockwise. */
export const Move = z.object({ x: z.number().min(-1e5).max(1e5), y: z.number().min(-1e5).max(1e5), turn: z.number().min(-360).max(360) })
export type Move = z.infer<typeof Move>

/** How the numbers on the stakes come about. */
export const NUMBERINGS = ['as designed', 'block hundreds', 'row and column', 'running'] as const

export const Numbering = z.object({
  scheme: z.enum(NUMBERINGS),
  from: z.enum(CORNERS),
  toAndFro: z.boolean(),
  /** The thousand of the site before the number: site 2, 2101. */
  siteThousands: z.boolean(),
  /** Typed by hand: the number by what the design calls the unit. */
  own: z.record(z.string().max(60), line('Number', 20)),
})
export type Numbering = z.infer<typeof Numbering>

/** What a site is gone through for; the order of each is its own. */
export const ROUNDS = ['walk', 'plant', 'treat', 'harvest'] as const
export type Round = (typeof ROUNDS)[number]

export const Order = z.object({
  along: z.enum(['rows', 'columns']),
  toAndFro: z.boolean(),
  /** Where one begins; nearest: each block at the corner nearest to where the last one ended. */
  from: z.enum(['nearest', ...CORNERS]),
  /** Block by block, or over the whole site at a time. */
  by: z.enum(['block', 'site']),
  /** Which treatments come before others, so that nothing is carried over. */
  first: z.enum(['as they lie', 'untreated first', 'low to high']),
})
export type Order = z.infer<typeof Order>

const AS_WALKED: Order = { along: 'rows', toAndFro: true, from: 'nearest', by: 'block', first: 'as they lie' }

/** What is said of the ground besides its measures, as long as nobody has said it. */
export const bareGround = {
  rows: null,
  stretches: null,
  pathEvery: 0,
  pathWidth: 0,
  guardPlots: 0,
  guardRows: 0,
  fillers: false,
  round: false,
  offset: false,
  anchor: null,
  bearing: null,
  gradient: null,
  outline: null,
  avoid: [] as { name: string; corners: Point[] }[],
  moved: {} as Record<string, Move>,
  parts: [] as { key: string; name: string; groups: string[] }[],
  numbering: { scheme: 'as designed', from: 'front left', toAndFro: false, siteThousands: false, own: {} } as Numbering,
  orders: { walk: AS_WALKED, plant: AS_WALKED, treat: { ...AS_WALKED, first: 'untreated first' }, harvest: AS_WALKED } as Record<
    Round,
    Order
  >,
}

/** How units lie on a site. All lengths in metres; x runs along the front edge, y away from it. */
export const Ground = z
  .object({
    /** Of the unit that is treated: plot, pot, bed. */
    plotWidth: length('Plot width', 0.02, 200),
    plotLength: length('Plot length', 0.02, 1000),
    /** The middle of it that is harvested. */
    harvestWidth: length('Harvested width', 0.02, 200),
    harvestLength: length('Harvested length', 0.02, 1000),
    /** Crop rows along the plot, where its width is so many of them: row spacing, and plant spacing in the row where it is known. */
    rows: z
      .object({
        count: z.number().int().min(1, 'At least one row.').max(500),
        spacing: length('Row spacing', 0.01, 50),
        plants: length('Plant spacing', 0.005, 50).nullable(),
      })
      .nullable()
      .default(bareGround.rows),
    /** A strip as wide as the machine, or as so many passes of it. */
    machine: z
      .object({
        width: length('Machine width', 0.1, 60),
        passes: z.number().int().min(1, 'At least one pass.').max(20, 'At most 20 passes.'),
      })
      .nullable()
      .optional(),
    /** What is harvested where it is so many stretches of row, cut by hand, instead of the middle. */
    stretches: z
      .object({ count: z.number().int().min(1, 'At least one stretch.').max(100), length: length('Stretch of row', 0.02, 1000) })
      .nullable()
      .default(bareGround.stretches),
    /** By kind: how many of a run stand side by side before the next row begins behind them. */
    across: z.partialRecord(UnitKind, z.number().int().min(1, 'At least one side by side.').max(500)),
    plotGap: length('Gap between plots', 0, 50),
    rowAlley: length('Alley between rows', 0, 50),
    /** Between main plots and other groups inside a block. */
    groupGap: length('Gap between main plots', 0, 100),
    blockAlley: length('Alley between blocks', 0, 100),
    border: length('Border', 0, 100),
    /** After so many plots of a row a path for machine or foot; 0: none. */
    pathEvery: whole('Plots between paths', 500).default(bareGround.pathEvery),
    pathWidth: length('Path', 0, 50).default(bareGround.pathWidth),
    /** Plots beside the trial that take the edge: at each end of a row, and whole rows before and behind. */
    guardPlots: whole('Guard plots at each end', 10).default(bareGround.guardPlots),
    guardRows: whole('Guard rows before and behind', 10).default(bareGround.guardRows),
    /** Places of the last row that no plot needs are sown all the same. */
    fillers: z.boolean().default(bareGround.fillers),
    /** Pots: drawn round, and every second row set half a place aside. */
    round: z.boolean().default(bareGround.round),
    offset: z.boolean().default(bareGround.offset),
    /** Runs go to and fro, as one walks. */
    serpentine: z.boolean(),
    /** Where the front left corner of the ground lies, degrees (WGS 84), and the bearing from the front edge to the back, degrees from north. */
    anchor: z
      .object({
        latitude: z.number({ error: 'A latitude is a number of degrees.' }).min(-90, 'A latitude lies between -90 and 90.').max(90, 'A latitude lies between -90 and 90.'), // prettier-ignore
        longitude: z.number({ error: 'A longitude is a number of degrees.' }).min(-180, 'A longitude lies between -180 and 180.').max(180, 'A longitude lies between -180 and 180.'), // prettier-ignore
      })
      .nullable()
      .default(bareGround.anchor),
    bearing: z
      .number({ error: 'A bearing is a number of degrees.' })
      .min(0, 'A bearing lies between 0 and 360 degrees.')
      .lt(360, 'A bearing lies between 0 and 360 degrees; 360 is 0.')
      .nullable()
      .default(bareGround.bearing),
    /** An arrow along which the ground changes. */
    gradient: z
      .object({ what: z.enum(GRADIENTS), from: Point, to: Point })
      .refine(({ from, to }) => Math.hypot(from[0] - to[0], from[1] - to[1]) > 0.01, 'The arrow has no length.')
      .nullable()
      .default(bareGround.gradient),
    /** The edge of the ground there is; null: as much as is needed. */
    outline: Corners.nullable().default(bareGround.outline),
    /** Ground no plot may lie on. */
    avoid: z
      .array(z.object({ name: line('What is avoided', 80), corners: Corners }))
      .max(40)
      .default(bareGround.avoid),
    /** Groups set aside or turned, by kind and running number: `block 2`. */
    moved: z.record(z.string().max(60), Move).default(bareGround.moved),
    /** Groups that lie apart from the rest and move as one. */
    parts: z
      .array(z.object({ key, name: line('Part', 40), groups: z.array(z.string().max(60)).min(1).max(500) }))
      .max(20)
      .default(bareGround.parts),
    numbering: Numbering.default(bareGround.numbering),
    orders: z.record(z.enum(ROUNDS), Order).default(bareGround.orders),
  })
  .superRefine((ground, context) => {
    const problem = (path: string, message: string): void => context.addIssue({ code: 'custom', path: [path], message })
    if (ground.harvestWidth > ground.plotWidth) problem('harvestWidth', 'The harvested width is wider than the plot.')
    if (ground.harvestLength > ground.plotLength) problem('harvestLength', 'The harvested length is longer than the plot.')
    const { rows, machine, stretches, parts, numbering } = ground
    if (machine && Math.abs(machine.passes * machine.width - ground.plotWidth) > 1e-6)
      problem('machine', `${machine.passes} passes of ${machine.width} m are not the plot width of ${ground.plotWidth} m.`)
    if (machine && rows) problem('machine', 'The width is counted in rows, or in passes of the machine: choose one.')
    if (rows && Math.abs(rows.count * rows.spacing - ground.plotWidth) > 1e-6)
      problem('rows', `${rows.count} rows of ${rows.spacing} m are not the plot width of ${ground.plotWidth} m.`)
    if (stretches && !rows) problem('stretches', 'Stretches of row are harvested where the rows and their spacing are known.')
    if (stretches && rows && stretches.count * stretches.length > rows.count * ground.plotLength + 1e-9)
      problem('stretches', 'That is more row than a plot has.')
    const groups = parts.flatMap((part) => part.groups)
    if (new Set(groups).size < groups.length) problem('parts', 'A group lies in two parts.')
    const own = Object.values(numbering.own)
    const twice = own.find((code, i) => own.indexOf(code) !== i)
    if (twice !== undefined) problem('numbering', `The number ${twice} is typed twice.`)
  })
  .meta({ id: 'Ground' })
export type Ground = z.infer<typeof Ground>
