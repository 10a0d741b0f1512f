import { z } from 'zod'
import { UnitKind } from './structure.ts'

const length = (what: string, least: number, most: number) =>
  z
    .number({ error: `${what} must be a number.` })
    .min(least, `${what} must be at least ${least} m.`)
    .max(most, `${what} must be at most ${most} m.`)

/** How units lie on a site. All lengths in metres; x runs along the front edge, y away from it. */
export const Ground = z
  .object({
    /** Of the unit that is treated: plot, pot, bed. */
    plotWidth: length('Plot width', 0.02, 200),
    plotLength: length('Plot length', 0.02, 1000),
    /** The middle of it that is harvested. */
    harvestWidth: length('Harvested width', 0.02, 200),
    harvestLength: length('Harvested length', 0.02, 1000),
    /** By kind: how many of a run stand side by side before the next row begins behind them. */
    across: z.partialRecord(UnitKind, z.number().int().min(1, 'At least one side by side.').max(500)),
    plotGap: length('Gap between plots', 0, 50),
    rowAlley: length('Alley between rows', 0, 50),
    /** Between main plots and other groups inside a block. */
    groupGap: length('Gap between main plots', 0, 100),
    blockAlley: length('Alley between blocks', 0, 100),
    border: length('Border', 0, 100),
    /** Runs go to and fro, as one walks. */
    serpentine: z.boolean(),
  })
  .superRefine((ground, context) => {
    if (ground.harvestWidth > ground.plotWidth)
      context.addIssue({ code: 'custom', path: ['harvestWidth'], message: 'The harvested width is wider than the plot.' })
    if (ground.harvestLength > ground.plotLength)
      context.addIssue({ code: 'custom', path: ['harvestLength'], message: 'The harvested length is longer than the plot.' })
  })
  .meta({ id: 'Ground' })
export type Ground = z.infer<typeof Ground>
