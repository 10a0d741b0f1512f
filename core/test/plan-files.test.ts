import excel from 'exceljs'
import { describe, expect, it } from 'vitest'
import { fileFormats } from '../src/exchange/index.ts'
import { areaWithin, layOut } from '../src/ground/index.ts'
import { Ground, type Layout, type Point, type Trial } from '../src/trial/index.ts'
import { asTrial, countingIds, readingOf, trialWith } from './build.ts'

const make = (key: string, trial: Trial, layouts: readonly Layout[], records = [] as ReturnType<typeof readingOf>[]) =>
  fileFormats.find((each) => each.key === key)!.make({ trial, layouts, records, events: [], people: [] })

function laid(more: Partial<Ground> = {}): { trial: Trial; layouts: Layout[] } {
  const draft = trialWith(4, 3, { guardPlots: 1, ...more })
  const trial = asTrial({ ...draft, sites: draft.sites.map((site) => ({ ...site, ground: Ground.parse(site.ground) })) })
  return { trial, layouts: [layOut(trial, 'site-1', 3, countingIds())] }
}

interface Feature {
  geometry: { coordinates: [number, number][][] }
  properties: Record<string, string | number | null>
}
interface Collection {
  note?: string
  features: Feature[]
}

/** Metres on the ground from degrees near the equator of the sphere the library walks on. */
const RADIUS = 6_371_008.8
const metres = ([longitude, latitude]: [number, number], [east, north]: [number, number]): Point => [
  ((longitude - east) * Math.PI * RADIUS * Math.cos((north * Math.PI) / 180)) / 180,
  ((latitude - north) * Math.PI * RADIUS) / 180,
]

describe('the plan as files', () => {
  it('GeoJSON carries true places where the site is anchored: areas right, rings closed and anticlockwise, the bearing kept', async () => {
    const anchor = { latitude: 41.5, longitude: -32.25 }
    const { trial, layouts } = laid({ anchor, bearing: 90 })
    const { features, note } = JSON.parse((await make('map', trial, layouts)) as string) as Collection
    expect(note).toBeUndefined()
    const { plotWidth, plotLength, border } = trial.sites[0]!.ground
    const plots = features.filter((each) => each.properties['what'] === 'plot')
    expect(plots).toHaveLength(12)
    expect(features.filter((each) => each.properties['what'] === 'guard')).toHaveLength(6)
    for (const { geometry } of features) {
      const ring = geometry.coordinates[0]!
      expect(ring.at(-1)).toEqual(ring[0])
      const flat = ring.slice(0, -1).map((each) => metres(each, [anchor.longitude, anchor.latitude]))
      expect(areaWithin(flat)).toBeCloseTo(plotWidth * plotLength, 1)
      const signed = flat.reduce((sum, [x, y], i) => sum + x * flat[(i + 1) % 4]![1] - flat[(i + 1) % 4]![0] * y, 0)
      expect(signed).toBeGreaterThan(0)
    }
    // Away from the front is east: the first corner of the first row lies a border east, and the row runs south.
    const all = plots.flatMap((each) => each.geometry.coordinates[0]!.map((corner) => metres(corner, [anchor.longitude, anchor.latitude])))
    expect(Math.min(...all.map(([east]) => east))).toBeCloseTo(border, 2)
    expect(Math.max(...all.map(([, north]) => north))).toBeLessThan(0)
  })

  it('GeoJSON of a site that lies nowhere is in metres, and says so', async () => {
    const { trial, layouts } = laid({ bearing: 12 })
    const { features, note } = JSON.parse((await make('map', trial, layouts)) as string) as Collection
    expect(note).toContain('metres from the front left corner of the site, not degrees')
    expect(features.every((each) => each.properties['coordinates'] === 'metres')).toBe(true)
    const first = layouts[0]!.units.find((unit) => unit.walk === 1)!
    expect(features.find((each) => each.properties['number'] === first.code)!.geometry.coordinates[0]![0]).toEqual([
      Math.round(first.place!.x * 1e4) / 1e4,
      Math.round(first.place!.y * 1e4) / 1e4,
    ])
  })

  it('a workbook holds every plot with its values as numbers, and each site as it lies; a cell is never a formula', async () => {
    const { trial, layouts } = laid()
    const odd = { ...trial, treatments: { ...trial.treatments, list: trial.treatments.list.map((each, i) => (i === 1 ? { ...each, name: '=1+1' } : each)) } } // prettier-ignore
    const trait = trial.traits.observed.find((each) => each.kind === 'number')!
    const plot = layouts[0]!.units.find((unit) => unit.walk === 1)!
    const book = new excel.Workbook()
    await book.xlsx.load((await make('workbook', odd, layouts, [readingOf(plot.id, trait.key, 123.5)])) as never)
    expect(book.worksheets.map((sheet) => sheet.name)).toEqual(['Plots', 'Treatments', trial.sites[0]!.name])
    const head = (book.worksheets[0]!.getRow(1).values as string[]).slice(1)
    const rows = book.worksheets[0]!.getRows(2, 500)!.map((row) => head.map((_, i) => row.getCell(i + 1).value))
    const plotAt = head.indexOf('plot')
    const own = rows.filter((row) => row[plotAt] === Number(plot.code))
    expect(own.map((row) => row[head.findIndex((name) => name.startsWith(trait.key))])).toContain(123.5)
    expect(book.worksheets[1]!.getCell(3, 2).value).toBe('=1+1')
    const cells: string[] = []
    book.worksheets[2]!.eachRow((row) => row.eachCell((cell) => cells.push(cell.text)))
    for (const unit of layouts[0]!.units.filter((each) => each.walk !== null)) expect(cells.filter((cell) => cell.startsWith(`${unit.code}\n`))).toHaveLength(1) // prettier-ignore
  })

  it('the drawing is whole XML at its scale, each plot once, whatever the names', async () => {
    const { trial, layouts } = laid({ bearing: 8, avoid: [{ name: 'pond <&> "spring"', corners: [[-5, -5], [-2, -5], [-2, -2]] }] }) // prettier-ignore
    const svg = (await make('plan', trial, layouts)) as string
    expect(svg).toContain('pond &lt;&amp;&gt; &quot;spring&quot;')
    for (const unit of layouts[0]!.units.filter((each) => each.walk !== null)) expect(svg.split(`>${unit.code}</text>`)).toHaveLength(2)
    // Every element that is opened is closed.
    const open: string[] = []
    for (const [, end, name, alone] of svg.matchAll(/<(\/?)([a-z]+)[^>]*?(\/?)>/g)) {
      if (end) expect(open.pop()).toBe(name)
      else if (!alone) open.push(name!)
    }
    expect(open).toEqual([])
  })
})
