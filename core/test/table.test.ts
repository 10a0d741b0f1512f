import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readCsv, writeCsv } from '../src/exchange/index.ts'

const columns = ['a', 'b'] as const
const back = (text: string): string[][] => readCsv('x.csv', text, columns).map((row) => columns.map((column) => row.cell(column)))
/** Cells as a spreadsheet sees them: the file without what a reader of ours takes off. */
const seen = (text: string): string[] =>
  text
    .split('\n')
    .slice(1, -1)
    .map((row) => row.replace(/^"|",.*$|,.*$/g, ''))

describe('tables', () => {
  // Formulas, quotes before them, separators and line ends are what goes wrong; they are made often.
  const cell = fc.oneof(
    fc.string({ unit: fc.constantFrom(...'=+-@\'",;1.5eA \n'), maxLength: 8 }),
    fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
    fc.constantFrom('=HYPERLINK("x")', '-1+cmd', "'=1", "''-x", '@x', '+44 12', '-0.5', '-1e-7', '\t=1'),
  )

  it('come back as they were written, whatever their cells begin with', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { maxLength: 6 }), (rows) => {
        // Rows of blanks alone are none: spreadsheets leave them behind.
        const kept = rows.filter((row) => row.some((each) => each.trim() !== ''))
        expect(back(writeCsv(columns, kept))).toEqual(kept)
      }),
    )
  })

  it('hold no cell that a spreadsheet would run, and leave numbers numbers', () => {
    fc.assert(
      fc.property(cell, (text) => {
        fc.pre(!/["\n]/.test(text))
        const [shown] = seen(writeCsv(columns, [[text, 'x']]))
        const number = text.trim() !== '' && Number.isFinite(Number(text))
        if (number) expect(Number(shown)).toBe(Number(text))
        else expect(shown).not.toMatch(/^[=+\-@\t\r]/)
      }),
    )
    expect(writeCsv(columns, [['-3.2', '=1+1']])).toBe("a,b\n-3.2,'=1+1\n")
  })
})
