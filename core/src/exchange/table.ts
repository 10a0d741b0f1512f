import Papa from 'papaparse'

/** Rows of text cells under named columns, as RFC 4180 CSV with LF ends. */
export function writeCsv(columns: readonly string[], rows: readonly (readonly string[])[]): string {
  return `${Papa.unparse({ fields: [...columns], data: rows.map((row) => row.map(guarded)) }, { newline: '\n' })}\n`
}

/**
 * A cell that starts like a formula would be run by a spreadsheet: a mark before it makes it text
 * there. Numbers stay numbers. Text that has such a mark already gets one more, so that reading
 * takes off what writing put on.
 */
function guarded(cell: string): string {
  return /^'*[=+\-@\t\r]/.test(cell) && !(cell.trim() !== '' && Number.isFinite(Number(cell))) ? `'${cell}` : cell
}

function unguarded(cell: string): string {
  return /^'+[=+\-@\t\r]/.test(cell) ? cell.slice(1) : cell
}

export class FileError extends Error {
  /** Where in the file, for the person who edited it. */
  readonly where: string

  constructor(where: string, message: string) {
    super(`${where}: ${message}`)
    this.where = where
  }
}

/** What a JSON file holds. Throws FileError where it is none. */
export function readJson(file: string, text: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    throw new FileError(file, `it is not JSON (${error instanceof Error ? error.message.slice(0, 120) : 'unreadable'}).`)
  }
}

type Delimiter = ',' | ';' | '\t'

export interface TableRow {
  /** In the file, from 1, the header counted. */
  readonly line: number
  readonly cell: (column: string) => string
  /** The mark between cells: in a file with semicolons or tabs a comma is a decimal point. */
  readonly delimiter: Delimiter
}

/** Reads CSV whose columns must include those named; each row comes with its line number. */
export function readCsv(file: string, text: string, needed: readonly string[]): TableRow[] {
  const body = text.replace(/^\uFEFF/, '')
  const firstLine = body.trimStart().split(/[\r\n]/, 1)[0]!
  // Spreadsheets of many countries save with semicolons, and paste with tabs: the header tells.
  const count = (mark: Delimiter): number => firstLine.split(mark).length
  const delimiter = ([',', ';', '\t'] as const).reduce((best, mark) => (count(mark) > count(best) ? mark : best))
  const parsed = Papa.parse<string[]>(body, { delimiter })
  const fatal = parsed.errors.find((error) => error.type === 'Quotes')
  if (fatal) throw new FileError(`${file}, line ${(fatal.row ?? 0) + 1}`, 'a quotation mark is not closed.')
  // Empty lines, and lines of separators that spreadsheets leave behind, are no rows; but they count as lines.
  let next = 1
  const [first, ...rows] = parsed.data.flatMap((cells) => {
    const line = next
    next += 1 + cells.reduce((sum, cell) => sum + (cell.match(/\r\n|\r|\n/g)?.length ?? 0), 0)
    return cells.every((cell) => cell.trim() === '') ? [] : [{ line, cells }]
  })
  if (!first) throw new FileError(file, 'the file is empty; its first line must name the columns.')
  const header = first.cells.map((name) => name.trim())
  const twice = needed.find((column) => header.indexOf(column) !== header.lastIndexOf(column))
  if (twice !== undefined) throw new FileError(`${file}, line ${first.line}`, `the column “${twice}” stands there twice. Rename one.`)
  const missing = needed.filter((column) => !header.includes(column))
  if (missing.length > 0) throw new FileError(file, `column ${missing.map((each) => `“${each}”`).join(', ')} is missing.`)
  return rows.map(({ line, cells }) => ({
    line,
    delimiter,
    cell: (column) => {
      const at = header.indexOf(column)
      return at === -1 ? '' : unguarded(cells[at] ?? '')
    },
  }))
}
