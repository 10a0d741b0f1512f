import { z } from 'zod'
import { isUnit } from '../quantity/index.ts'
import { key, line } from './text.ts'

/** A level of a factor: what one treatment gets of it. */
export const Level = z
  .object({
    key,
    /** Short code on stakes, plan and charts. */
    code: z.string().trim().min(1, 'A level needs a code.').max(8, 'A code is at most 8 characters, so that it can be read on a stake.'),
    name: line('Level name', 80),
    /** In the factor's unit; null for a level that is not a quantity. */
    amount: z.number({ error: 'The amount of a level must be a number.' }).nonnegative('An amount cannot be negative.').nullable(),
    control: z.boolean(),
  })
  .meta({ id: 'Level' })
export type Level = z.infer<typeof Level>

export const Nutrient = z.enum(['N', 'P', 'K', 'S', 'Mg'])
export type Nutrient = z.infer<typeof Nutrient>

/** What is varied on purpose. */
export const Factor = z
  .object({
    key,
    name: line('Factor name', 80),
    /** Unit of the amounts, empty when the levels are kinds of thing. */
    unit: z.string().refine(isUnit, 'Unknown unit.'),
    /** The nutrient the amounts are of, when the factor is a nutrient rate. */
    nutrient: Nutrient.nullable(),
    levels: z.array(Level).max(120, 'At most 120 levels.'),
  })
  .superRefine((factor, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    const seen = { key: new Set<string>(), code: new Set<string>() }
    factor.levels.forEach((level, i) => {
      if (seen.key.has(level.key)) complain(['levels', i, 'key'], `The key “${level.key}” is used twice.`)
      if (seen.code.has(level.code)) complain(['levels', i, 'code'], `The code “${level.code}” is used twice.`)
      seen.key.add(level.key)
      seen.code.add(level.code)
      if (factor.unit !== '' && level.amount === null)
        complain(['levels', i, 'amount'], `Level ${level.code} needs an amount in ${factor.unit}.`)
    })
    if (factor.levels.filter((level) => level.control).length > 1) complain(['levels'], 'Only one level can be the control.')
  })
  .meta({ id: 'Factor' })
export type Factor = z.infer<typeof Factor>
