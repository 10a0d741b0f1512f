import { z } from 'zod'

const length = (what: string, least: number, most: number) =>
  z
    .number({ error: `${what} must be a number.` })
    .min(least, `${what} must be at least ${least} m.`)
    .max(most, `${what} must be at most ${most} m.`)

/** How plots lie on a site. All lengths in metres; x runs along the front edge, y away from it. */
export const Ground = z
  .object({
    plotWidth: length('Plot width', 0.05, 200),
    plotLength: length('Plot length', 0.05, 1000),
    /** The middle of the plot that is harvested. */
    harvestWidth: length('Harvested width', 0.05, 200),
    harvestLength: length('Harvested length', 0.05, 1000),
    /** Plots side by side in one row of a block; further rows lie behind. */
    columnsPerBlock: z.number().int().min(1, 'A block needs at least one column.').max(200),
    /** Blocks side by side across the site; further blocks lie behind. */
    blocksAcross: z.number().int().min(1).max(50),
    plotGap: length('Gap between plots', 0, 50),
    rowAlley: length('Alley between rows', 0, 50),
    blockAlley: length('Alley between blocks', 0, 100),
    border: length('Border', 0, 100),
    /** Plot numbers run to and fro inside a block, as one walks. */
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
