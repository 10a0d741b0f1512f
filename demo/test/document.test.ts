import {
  applyPatch,
  changeTreatment,
  checkTrial,
  DocumentError,
  sectionOf,
  undoEvent,
  type Change,
  type Document,
} from '@canter/core/document'
import { chanceFrom, type Chance } from '@canter/core/design'
import { FileError, packTrial, plotsCsv, unpackTrial } from '@canter/core/exchange'
import { layOut, layoutProblems } from '@canter/core/ground'
import { TrialBook } from '@canter/core/numbers'
import type { TrialEvent } from '@canter/core/trial'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { expect, it } from 'vitest'
import { demoTrials } from '../src/index.ts'

/** How many documents are tried; the same ones every time. */
const DOCUMENTS = 10_000

/** Small ones, so that many can be tried; what they lack in size the broken ones do not need. */
const STARTS = demoTrials()
  .map(({ trial, layouts }) => {
    const large = layouts.reduce((sum, layout) => sum + layout.units.length, 0) > 210
    return large ? { trial: { ...trial, sites: trial.sites.slice(0, 1) }, layouts: layouts.slice(0, 1) } : { trial, layouts }
  })
  .filter(
    ({ trial, layouts }) => layouts[0]!.units.length < 29 || (trial.treatments.factors.length > 1 && trial.treatments.list.length < 12),
  )
const STRANGE: readonly unknown[] = [
  null,
  '',
  ' ',
  'x'.repeat(5000),
  -1,
  0,
  1e308,
  NaN,
  [],
  {},
  true,
  'plot',
  '__proto__',
  ['a'],
  { a: 1 },
  'N0',
  '2026-02-30',
  '=1+1',
]

/** Any place of a value, walked to at random, and what stands there replaced, dropped, doubled or taken from elsewhere. */
function broken(value: unknown, chance: Chance): unknown {
  const copy = structuredClone(value)
  for (let n = 1 + chance.below(2); n > 0; n--) {
    let at = copy as Record<string, unknown>
    let key = ''
    for (let depth = 1 + chance.below(7); depth > 0; depth--) {
      const keys = Object.keys(at)
      if (keys.length === 0) break
      key = keys[chance.below(keys.length)]!
      const next = at[key]
      if (depth === 1 || next === null || typeof next !== 'object') break
      at = next as Record<string, unknown>
    }
    if (key === '') continue
    const others = Object.keys(at)
    const act = chance.below(5)
    if (act === 0) delete at[key]
    else if (act === 1) at[key] = structuredClone(at[others[chance.below(others.length)]!])
    else if (act === 2 && Array.isArray(at)) (at as unknown as unknown[]).push(structuredClone(at[key as never]))
    else at[key] = structuredClone(STRANGE[chance.below(STRANGE.length)])
  }
  return copy
}

/** Whether what would be stored can be opened, drawn, exported and taken back, the second time byte for byte. */
function opens({ trial, layouts }: Document, events: readonly TrialEvent[]): void {
  const people = [...new Set(events.map((event) => event.person))].map((id) => ({ id, name: 'Somebody' }))
  const contents = { trial, layouts, records: [], events, people }
  const bytes = packTrial(contents)
  const back = unpackTrial(bytes)
  expect(Buffer.from(packTrial(back)).equals(Buffer.from(bytes))).toBe(true)
  const book = new TrialBook(back.trial, back.layouts, [])
  book.progress()
  plotsCsv(back.trial, back.layouts, book)
  for (const site of back.trial.sites) layoutProblems(back.trial, site.key)
}

const eventOf = (change: Change, n: number): TrialEvent => ({
  id: `00000000-0000-7000-8000-${String(n).padStart(12, '0')}`,
  at: '2026-10-01T08:00:00.000Z',
  person: '00000000-0000-7000-8000-0000000000aa',
  kind: 'edited',
  section: change.section,
  reason: '',
  what: change.what,
  before: change.before,
  after: change.after,
  undoes: null,
})

it('of ten thousand random trial documents, through create, edit, undo and import, none is kept that cannot be opened', () => {
  const chance = chanceFrom(20261125)
  let n = 0
  const newId = (): string => `00000000-0000-7000-a000-${String(++n).padStart(12, '0')}`
  const counts = { created: 0, edited: 0, undone: 0, imported: 0, refused: 0 }
  /** Refusals are told in words for a person; anything else is a defect. */
  const attempt = <Made>(act: () => Made): Made | null => {
    try {
      return act()
    } catch (error) {
      if (!(error instanceof DocumentError) && !(error instanceof FileError)) throw error
      expect(error.message.length).toBeGreaterThan(8)
      counts.refused++
      return null
    }
  }
  const packed = STARTS.map((start) => unzipSync(packTrial({ ...start, records: [], events: [], people: [] })))
  for (let i = 0; i < DOCUMENTS; i++) {
    const start = STARTS[i % STARTS.length]!
    const { trial } = start
    switch (chance.below(4)) {
      case 0: {
        const draft = broken(trial, chance)
        if (checkTrial(draft).length > 0) counts.refused++
        else {
          counts.created++
          opens(
            {
              trial: { ...(draft as typeof trial), id: trial.id, version: 1, versions: {}, createdAt: trial.createdAt, deletedAt: null },
              layouts: [],
            },
            [],
          )
        }
        break
      }
      case 1: {
        const files = { ...packed[i % packed.length]! }
        const name = Object.keys(files)[chance.below(2)]!
        const text = strFromU8(files[name]!)
        const changed =
          name === 'canter.json'
            ? JSON.stringify(broken(JSON.parse(text), chance))
            : text
                .split('\n')
                .map((line, at, all) =>
                  at > 0 && chance.below(all.length) === 0
                    ? line
                        .split(',')
                        .map((cell) => (chance.below(6) === 0 ? String(STRANGE[chance.below(STRANGE.length)]) : cell))
                        .join(',')
                    : line,
                )
                .join('\n')
        const back = attempt(() => unpackTrial(zipSync({ ...files, [name]: strToU8(changed) }, { level: 0 })))
        if (back) {
          counts.imported++
          opens(back, back.events)
        }
        break
      }
      default: {
        // A few edits on top of each other, some of them broken, then turned back in any order.
        let document: Document = start
        const events: TrialEvent[] = []
        for (let step = 1 + chance.below(3); step > 0; step--) {
          const sections = ['question', 'treatments', 'traits', 'amounts', 'prices', 'sites', `site:${document.trial.sites[0]!.key}`]
          const section = sections[chance.below(sections.length)]!
          const paths = section === 'sites' ? [document.trial.sites[0]!.key, 'another'] : Object.keys(sectionOf(section)!.fields)
          const path = paths[chance.below(paths.length)]!
          const source = STARTS[chance.below(STARTS.length)]!.trial
          const from = section.startsWith('site') ? source.sites[0]! : source[section as 'question']
          const value = path
            .split('.')
            .reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], section === 'sites' ? { [path]: from } : from)
          const patch = {
            [path]: chance.below(2) === 0 ? (value ?? null) : ((broken({ value }, chance) as { value?: unknown }).value ?? null),
          }
          const unit = document.layouts[0]?.units[chance.below(20)]
          const change =
            chance.below(6) === 0 && unit
              ? attempt(() =>
                  changeTreatment(document, unit.id, {
                    received: { ...unit.received, [Object.keys(unit.received)[0] ?? 'x']: 'k2' },
                    change: 'misapplied',
                  }),
                )
              : attempt(() => applyPatch(document, section, patch))
          if (!change) continue
          counts.edited++
          document = change
          events.push(eventOf(change, ++n))
          const [site] = document.trial.sites
          if (document.layouts.length === 0 && layoutProblems(document.trial, site!.key).length === 0 && chance.below(2) === 0) {
            const laid = layOut(document.trial, site!.key, i, newId)
            if (laid.units.length < 800) document = { trial: document.trial, layouts: [laid] }
          }
        }
        if (chance.below(3) === 0) opens(document, events)
        while (events.length > 0) {
          const [event] = events.splice(chance.below(events.length), 1)
          const turned = attempt(() => undoEvent(document, event!))
          if (!turned) continue
          counts.undone++
          document = turned
        }
        opens(document, [])
      }
    }
  }
  // None of the ways is empty talk.
  for (const [way, count] of Object.entries(counts)) expect([way, count > DOCUMENTS / 40]).toEqual([way, true])
}, 900_000)
