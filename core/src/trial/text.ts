import { z } from 'zod'

/** Marks that no keyboard makes and no file takes back; line ends are of one kind. */

const CONTROLS = /[\u0000-\u0008\u000B\u000C\u000E-\u001F\u007F\uFFFE\uFFFF]/g

/** Text as it is kept: without controls and halves of characters, with one kind of line end, without blanks at its ends. */
function cleaned(text: string): string {
  return text
    .replace(/\r\n?/g, '\n')
    .replace(CONTROLS, '')
    .replace(/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g, '')
    .trim()
}

/** Any text a person may have typed. */
export const words = (error?: string) => z.string(error === undefined ? {} : { error }).overwrite(cleaned)

/** One line of text a person must give; blanks at the ends are dropped. */
export const line = (what: string, most = 200) =>
  words(`${what}: type some text.`).min(1, `${what} is empty.`).max(most, `${what} is longer than ${most} characters.`)

export const optionalText = (what: string, most = 4000) => words().max(most, `${what} is longer than ${most} characters.`).default('')

/** Compared as an id, whatever its letters: kept in small ones. */
export const id = z.uuid({ error: 'An id must be a UUID.' }).toLowerCase()

/** Short name used as a key inside one trial, e.g. of a trait or level. */
export const key = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'A key starts with a small letter and holds at most 40 small letters, digits and hyphens.')

export const instant = z.iso.datetime({ offset: true, error: 'A time must be ISO 8601 with its offset.' })
export const day = z.iso.date('A date must be written YYYY-MM-DD.')
