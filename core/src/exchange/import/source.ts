import Papa from 'papaparse'
import { FileError } from '../table.ts'
import { geoJsonTable } from './geojson.ts'
import type { Source } from './source-table.ts'

const MOST_ROWS = 20_000
const MOST_COLUMNS = 120

/**
 * Reads a table from CSV, from a workbook (the first sheet that holds one) or from GeoJSON, whose polygons
 * become places in metres. Throws FileError that says where it is wrong.
 */
export async function readSource(name: string, bytes: Uint8Array): Promise<Source> {
  if (bytes.length === 0) throw new FileError(name, 'the file is empty.')
  const zipped = bytes[0] === 0x50 && bytes[1] === 0x4b
  if (zipped) return fromGrid(name, await workbookGrid(name, bytes))
  const text = new TextDecoder('utf-8').decode(bytes).replace(/^\uFEFF/, '')
  if (/\.(?:geo)?json$/i.test(name) || /^\s*\{/.test(text)) return geoJsonTable(name, text)
  return textSource(name, text)
}

/** The same from text: a file, or what was copied from a spreadsheet. */
export function textSource(name: string, text: string): Source {
  // A title above the table has no marks: they are counted over the first lines.
  const first = text.split(/[\r\n]+/, 30)
  const count = (mark: string): number => first.reduce((sum, line) => sum + line.split(mark).length, 0)
  const delimiter = [',', ';', '\t'].reduce((best, mark) => (count(mark) > count(best) ? mark : best))
  const { data, errors } = Papa.parse<string[]>(text, { delimiter })
  const open = errors.find((error) => error.type === 'Quotes')
  if (open) throw new FileError(`${name}, line ${(open.row ?? 0) + 1}`, 'a quotation mark is not closed.')
  return fromGrid(
    name,
    data.map((cells, i) => ({ line: i + 1, cells: cells.map((cell) => unguarded(cell).trim()) })),
  )
}

/** A mark before what a spreadsheet would take for a formula. */
function unguarded(cell: string): string {
  return /^'+[=+\-@\t\r]/.test(cell) ? cell.slice(1) : cell
}

/** The line of names is the first that fills most of the columns; what stands above it is a title. */
function fromGrid(name: string, grid: readonly { line: number; cells: readonly string[] }[]): Source {
  const filled = grid.filter(({ cells }) => cells.some((cell) => cell !== ''))
  const width = Math.max(0, ...filled.map(({ cells }) => cells.length))
  const count = (cells: readonly string[]): number => cells.filter((cell) => cell !== '').length
  const usual = Math.max(0, ...filled.slice(0, 30).map(({ cells }) => count(cells)))
  const at = filled.findIndex(({ cells }) => count(cells) >= Math.max(2, 0.6 * usual))
  if (at === -1) throw new FileError(name, 'no table is found: its first line must name at least two columns.')
  if (width > MOST_COLUMNS) throw new FileError(name, `it has ${width} columns; at most ${MOST_COLUMNS} are read.`)
  const rows = filled.slice(at + 1)
  if (rows.length === 0) throw new FileError(name, 'below the names of the columns there is no row.')
  if (rows.length > MOST_ROWS) throw new FileError(name, `it has ${rows.length} rows; at most ${MOST_ROWS} are read.`)
  const taken = new Set<string>()
  const columns = Array.from({ length: width }, (_, i) => {
    const own = filled[at]!.cells[i] || `column ${i + 1}`
    let called = own
    for (let n = 2; taken.has(called); n++) called = `${own} (${n})`
    taken.add(called)
    return called
  })
  return { name, columns, rows: rows.map(({ line, cells }) => ({ line, cells: columns.map((_, i) => cells[i] ?? '') })) }
}

/** The sheet with the most filled rows of the first ones; a plan drawn cell by cell has few columns of names. */
async function workbookGrid(name: string, bytes: Uint8Array): Promise<{ line: number; cells: string[] }[]> {
  const { default: excel } = await import('exceljs')
  const book = new excel.Workbook()
  try {
    await book.xlsx.load(bytes.slice().buffer)
  } catch {
    throw new FileError(name, 'it is not a workbook that can be read. Save it as .xlsx or .csv.')
  }
  const grids = book.worksheets.map((sheet) => {
    const rows: { line: number; cells: string[] }[] = []
    sheet.eachRow({ includeEmpty: false }, (row, line) => {
      const cells: string[] = []
      for (let i = 1; i <= Math.min(row.cellCount, MOST_COLUMNS + 1); i++) cells.push(cellText(row.getCell(i).value))
      rows.push({ line, cells })
    })
    return rows
  })
  const found = grids.reduce<{ line: number; cells: string[] }[]>((best, each) => (each.length > best.length ? each : best), [])
  if (found.length === 0) throw new FileError(name, 'the workbook has no filled sheet.')
  return found
}

function cellText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'number') return String(Number(value.toPrecision(15)))
  if (typeof value === 'string' || typeof value === 'boolean') return String(value).trim()
  if (typeof (value as { toISOString?: unknown }).toISOString === 'function')
    return (value as { toISOString(): string }).toISOString().slice(0, 10)
  const of = value as { result?: unknown; text?: unknown; richText?: { text: string }[]; error?: unknown }
  if (of.result !== undefined) return cellText(of.result)
  if (of.richText) return of.richText.map((part) => part.text).join('').trim() // prettier-ignore
  return of.text === undefined ? '' : cellText(of.text)
}
