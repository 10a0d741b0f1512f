import { z } from 'zod'

/** One line of text a person must give; blanks at the ends are dropped. */
export const line = (what: string, most = 200) =>
  z
    .string({ error: `${what}: type some text.` })
    .trim()
    .min(1, `${what} is empty.`)
    .max(most, `${what} is longer than ${most} characters.`)

export const optionalText = (what: string, most = 4000) =>
  z.string().trim().max(most, `${what} is longer than ${most} characters.`).default('')

export const id = z.uuid({ error: 'An id must be a UUID.' })

/** Short name used as a key inside one trial, e.g. of a trait or level. */
export const key = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'A key starts with a small letter and holds at most 40 small letters, digits and hyphens.')

export const instant = z.iso.datetime({ offset: true, error: 'A time must be ISO 8601 with its offset.' })
export const day = z.iso.date('A date must be written YYYY-MM-DD.')
