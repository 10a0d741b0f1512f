import type { Layout, Trial } from '../trial/index.ts'
import { treatmentOn } from '../trial/index.ts'

/** Rows of text cells under named columns; what reads as a number is written as one. */
export interface SheetTable {
  readonly columns: readonly string[]
  readonly rows: readonly (readonly string[])[]
}

/**
 * A workbook: plots with their values, the treatments, and each site as it lies, one cell a plot. The
 * library is fetched with the first workbook that is asked for.
 */
export async function planXlsx(trial: Trial, layouts: readonly Layout[], plots: SheetTable): Promise<Uint8Array> {
  const { default: excel } = await import('exceljs')
  const book = new excel.Workbook()
  addTable(book.addWorksheet('Plots', { views: [{ state: 'frozen', ySplit: 1 }] }), plots)
  addTable(book.addWorksheet('Treatments', { views: [{ state: 'frozen', ySplit: 1 }] }), treatmentTable(trial))
  const names = new Set(['plots', 'treatments'])
  for (const layout of layouts) {
    const site = trial.sites.find((each) => each.key === layout.siteKey)!
    const sheet = book.addWorksheet(sheetName(site.name, names))
    addPlan(sheet, layout, trial)
  }
  return new Uint8Array(await book.xlsx.writeBuffer())
}

interface Sheet {
  addRow(cells: unknown[]): { font?: unknown }
  getCell(row: number, column: number): { value: unknown; alignment: unknown; border: unknown }
  columns: unknown
}

function addTable(sheet: unknown, { columns, rows }: SheetTable): void {
  const to = sheet as Sheet
  to.columns = columns.map((column) => ({ width: Math.min(30, Math.max(9, column.length + 2)) }))
  to.addRow([...columns]).font = { bold: true }
  for (const row of rows) to.addRow(row.map(asCell))
}

/** A number as such; everything else as text, so that no cell is run as a formula. */
function asCell(text: string): string | number | null {
  if (text === '') return null
  const number = Number(text)
  return text.trim() !== '' && Number.isFinite(number) && String(number) === text ? number : text
}

function treatmentTable({ treatments }: Trial): SheetTable {
  const { factors, list } = treatments
  return {
    columns: ['code', 'name', 'role', ...factors.map((factor) => factor.name)],
    rows: list.map((each) => [
      each.code,
      each.name,
      each.role === 'none' ? '' : each.role,
      ...factors.map((factor) => factor.levels.find((level) => level.key === each.levels[factor.key])?.name ?? ''),
    ]),
  }
}

/** The site from the back to the front, as it is seen from its front edge. */
function addPlan(sheet: unknown, { units }: Layout, { treatments }: Trial): void {
  const to = sheet as Sheet
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const plots = units.filter((unit) => unit.walk !== null && unit.place)
  const lines = (of: (place: NonNullable<(typeof plots)[0]['place']>) => number): number[] => [...new Set(plots.map((unit) => Math.round(of(unit.place!) * 20) / 20))].sort((a, b) => a - b) // prettier-ignore
  const middle = { x: (place: { x: number; width: number }) => place.x + place.width / 2, y: (place: { y: number; length: number }) => place.y + place.length / 2 } // prettier-ignore
  const [xs, ys] = [lines(middle.x), lines(middle.y)]
  for (const unit of plots) {
    const column = 1 + xs.indexOf(Math.round(middle.x(unit.place!) * 20) / 20)
    const row = ys.length - ys.indexOf(Math.round(middle.y(unit.place!) * 20) / 20)
    const cell = to.getCell(row, column)
    cell.value = `${unit.code}\n${treatmentOn(unit, index, treatments)?.code ?? ''}`
    cell.alignment = { wrapText: true, horizontal: 'center', vertical: 'middle' }
    const line = { style: 'thin' }
    cell.border = { top: line, left: line, bottom: line, right: line }
  }
  to.getCell(ys.length + 2, 1).value = 'The front edge is below.'
}

/** At most 31 characters, none that a workbook forbids, and had once. */
function sheetName(name: string, taken: Set<string>): string {
  const base = name.replace(/[*?:/\\[\]]/g, ' ').trim().slice(0, 26) || 'Site' // prettier-ignore
  let own = base
  for (let n = 2; taken.has(own.toLowerCase()); n++) own = `${base} ${n}`
  taken.add(own.toLowerCase())
  return own
}
