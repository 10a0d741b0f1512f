import Papa from 'papaparse'

/** Rows of text cells under named columns, as RFC 4180 CSV with LF ends. */
export function writeCsv(
  columns: readonly string[],
  rows: readonly (readonly string[])[],
  options: { forSpreadsheet?: boolean } = {},
): string {
  // A cell that starts like a formula would be run by a spreadsheet: it is made text there.
  return `${Papa.unparse({ fields: [...columns], data: rows.map((row) => [...row]) }, { newline: '\n', escapeFormulae: options.forSpreadsheet ?? false })}\n`
}

export class FileError extends Error {
  /** Where in the file, for the person who edited it. */
  readonly where: string

  constructor(where: string, message: string) {
    super(`${where}: ${message}`)
    this.where = where
  }
}

export interface TableRow {
  /** In the file, from 1, the header counted. */
  readonly line: number
  readonly cell: (column: string) => string
  /** The mark between cells: in a file with semicolons a comma is a decimal point. */
  readonly delimiter: ',' | ';'
}

/** Reads CSV whose columns must include those named; each row comes with its line number. */
export function readCsv(file: string, text: string, needed: readonly string[]): TableRow[] {
  const body = text.replace(/^\uFEFF/, '')
  const firstLine = body.slice(0, body.search(/[\r\n]|$/))
  // Spreadsheets of many countries save with semicolons: the header tells.
  const delimiter = firstLine.includes(';') && !firstLine.includes(',') ? ';' : ','
  const parsed = Papa.parse<string[]>(body, { skipEmptyLines: true, delimiter })
  const fatal = parsed.errors.find((error) => error.type === 'Quotes')
  if (fatal) throw new FileError(`${file}, line ${(fatal.row ?? 0) + 1}`, 'a quotation mark is not closed.')
  const [header, ...rows] = parsed.data
  if (!header) throw new FileError(file, 'the file is empty; its first line must name the columns.')
  const missing = needed.filter((column) => !header.includes(column))
  if (missing.length > 0) throw new FileError(file, `column ${missing.map((each) => `“${each}”`).join(', ')} is missing.`)
  return rows.map((row, i) => ({
    line: i + 2,
    delimiter,
    cell: (column) => {
      const at = header.indexOf(column)
      return at === -1 ? '' : (row[at] ?? '')
    },
  }))
}
