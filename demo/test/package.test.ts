import { FileError, packTrial, plotsCsv, readCsv, unpackTrial, withNewIds, type TrialContents } from '@canter/core/exchange'
import { swapTreatments, undoEvent } from '@canter/core/document'
import { placedAnew } from '@canter/core/ground'
import { TrialBook } from '@canter/core/numbers'
import { FieldRecord } from '@canter/core/trial'
import { readFileSync } from 'node:fs'
import { analyseTrait } from '@canter/core/analysis'
import fc from 'fast-check'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { demoTrials, sugarBeet } from '../src/index.ts'

describe('the data package', () => {
  it.each(demoTrials().map((trial) => [trial.trial.question.title, trial] as const))(
    '%s comes back equal, and byte for byte the second time',
    (_, contents) => {
      const bytes = packTrial(contents)
      const back = unpackTrial(bytes)
      expect(back.trial).toEqual(contents.trial)
      expect(back.layouts).toEqual(contents.layouts)
      expect(back.records).toEqual(contents.records)
      expect(packTrial(back)).toEqual(bytes)
    },
  )

  it('carries any text that is kept, however awkward', () => {
    const note = sugarBeet().records.find((record) => record.type === 'note')!
    fc.assert(
      fc.property(fc.string({ unit: 'binary', minLength: 1, maxLength: 40 }), (typed) => {
        // As it comes through the door: what no file takes back does not come in.
        const kept = FieldRecord.safeParse({ ...note, text: typed })
        fc.pre(kept.success)
        const contents = sugarBeet()
        const records = contents.records.map((record) =>
          record.type === 'note' ? { ...record, text: (kept.data as typeof note).text } : record,
        )
        expect(unpackTrial(packTrial({ ...contents, records })).records).toEqual(records)
      }),
      { numRuns: 40 },
    )
  })

  it('a copy has new ids throughout and the same content', () => {
    let n = 0
    const contents = sugarBeet()
    const copy = withNewIds(contents, () => `00000000-0000-7000-9000-${String(++n).padStart(12, '0')}`)
    const [before, after] = [contents, copy].map((each) => new TrialBook(each.trial, each.layouts, each.records).progress())
    expect(after!.readings).toBe(before!.readings)
    const ids = new Set(contents.layouts[0]!.units.map((unit) => unit.id))
    expect(copy.layouts[0]!.units.some((unit) => ids.has(unit.id) || unit.in.some((id) => ids.has(id)))).toBe(false)
    expect(() => unpackTrial(packTrial(copy))).not.toThrow()
  })

  it('carries where groups lie, other numbers and what was swapped by hand; a copy too can be turned back', () => {
    const contents = sugarBeet()
    const [site] = contents.trial.sites
    const ground = {
      ...site!.ground,
      moved: { 'block 4': { x: 9, y: 6, turn: 17.5 } },
      guardPlots: 1,
      avoid: [{ name: 'pond, “old”', corners: [[-9, -9], [-5, -9], [-5, -4]] as [number, number][] }], // prettier-ignore
      outline: [[-20, -20], [90, -20], [90, 90], [-20, 90]] as [number, number][], // prettier-ignore
      anchor: { latitude: 41.25, longitude: -32.5 },
      numbering: { ...site!.ground.numbering, scheme: 'running' as const, siteThousands: true, own: { 'plot 103': 'A=7; x' } },
    }
    const sites = [{ ...site!, ground }]
    const document = { trial: { ...contents.trial, sites }, layouts: [placedAnew(contents.layouts[0]!, sites[0]!, sites)] }
    const [a, b] = document.layouts[0]!.units.filter((unit) => unit.kind === 'plot')
    const change = swapTreatments(document, a!.id, b!.id)
    const event = { ...contents.events[0]!, kind: 'swapped' as const, section: null, before: change.before, after: change.after }
    const whole = { ...contents, trial: change.trial, layouts: [...change.layouts], events: [event] }
    const bytes = packTrial(whole)
    const back = unpackTrial(bytes)
    expect(back.trial).toEqual(whole.trial)
    expect(back.layouts).toEqual(whole.layouts)
    expect(back.layouts[0]!.units.some((unit) => unit.place?.turn === 17.5)).toBe(true)
    expect(packTrial(back)).toEqual(bytes)
    let n = 0
    const copy = withNewIds(back, () => `00000000-0000-7000-9000-${String(++n).padStart(12, '0')}`)
    const turned = undoEvent(copy, copy.events[0]!)
    expect(turned.layouts[0]!.structure).toEqual(contents.layouts[0]!.structure)
    expect(turned.layouts[0]!.units.map((unit) => unit.planned)).toEqual(document.layouts[0]!.units.map((unit) => unit.planned))
  })

  const edit = (file: string, change: (text: string) => string): Uint8Array => {
    const files = unzipSync(packTrial(sugarBeet()))
    return zipSync({ ...files, [file]: strToU8(change(strFromU8(files[file]!))) })
  }

  it.each([
    ['readings.csv', (text: string) => text.replace(',74.5,', ',seventy,'), /readings\.csv, line \d+: value/],
    ['readings.csv', (text: string) => text.replace('trait', 'treat'), /column “trait” is missing/],
    ['units.csv', (text: string) => text.split('\n').slice(0, 10).join('\n'), /not part of this trial’s layout|lies in a unit/],
    ['canter.json', (text: string) => text.replace('"schema": 3', '"schema": 99'), /newer Canter/],
    ['canter.json', (text: string) => text.slice(0, 500), /not JSON/],
    ['canter.json', (text: string) => text.replace('"replicates": 4', '"replicates": "many"'), /replicates/],
  ])('says where %s was damaged', (file, change, message) => {
    expect(() => unpackTrial(edit(file, change))).toThrow(message)
  })

  it('no damage makes it fail otherwise than by saying so', () => {
    const bytes = packTrial(sugarBeet())
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat({ max: bytes.length - 1 }), fc.nat({ max: 255 })), { minLength: 1, maxLength: 12 }),
        fc.nat({ max: bytes.length }),
        (flips, length) => {
          const damaged = bytes.slice(0, Math.max(4, length))
          for (const [at, to] of flips) damaged[at % damaged.length] = to
          try {
            unpackTrial(damaged)
          } catch (error) {
            expect(error).toBeInstanceOf(FileError)
          }
        },
      ),
      { numRuns: 300 },
    )
  })
})

it.each([1, 2])('a package of schema %i is upgraded: the same readings, and the same answer', (schema) => {
  const old = unpackTrial(readFileSync(new URL(`../../core/fixtures/packages/schema-${schema}-sugar-beet.zip`, import.meta.url)))
  const now = sugarBeet()
  expect(old.records).toEqual(now.records)
  const means = (of: TrialContents) => {
    const book = new TrialBook(of.trial, of.layouts, of.records)
    return analyseTrait(of.trial, of.layouts, book.observations('sugar-yield', 'harvest'), 'sugar-yield').without.terms['nitrogen']!.means
  }
  expect(means(old)).toEqual(means(now))
  expect(unpackTrial(packTrial(old))).toEqual(old)
})

it('the CSV of plots has one row a plot and is safe to open in a spreadsheet', () => {
  const { trial, layouts, records } = sugarBeet()
  const risky = records.map((record) => (record.type === 'note' ? { ...record, text: '=HYPERLINK("x")' } : record))
  const text = plotsCsv(trial, layouts, new TrialBook(trial, layouts, risky))
  const rows = readCsv('plots.csv', text, ['plot', 'block', 'sugar-yield [t/ha]', 'left_out'])
  expect(rows).toHaveLength(24)
  expect(rows.filter((row) => row.cell('sugar-yield [t/ha]') === '')).toHaveLength(1)
  expect(text).toContain(`,"'=HYPERLINK(""x"")"`)
})
