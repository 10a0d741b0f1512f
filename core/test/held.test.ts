import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { holding, line, NOTHING_HELD, type HeldMark } from '../src/trial/index.ts'

const marked = (ids: readonly string[]): HeldMark => ids.reduce(holding, NOTHING_HELD)

describe('the mark of the records held', () => {
  const ids = fc.uniqueArray(fc.uuid(), { maxLength: 40 })

  it('says the same of the same records, in whatever order and in whatever pieces they came', () => {
    fc.assert(
      fc.property(ids, fc.nat(), (all, at) => {
        const turned = [...all].reverse()
        const cut = all.length === 0 ? 0 : at % all.length
        expect(marked(turned)).toEqual(marked(all))
        expect(all.slice(cut).reduce(holding, marked(all.slice(0, cut)))).toEqual(marked(all))
        expect(marked(all.map((id) => id.toUpperCase()))).toEqual(marked(all))
      }),
    )
  })

  it('says another thing when one is missing, or another stands in its place', () => {
    fc.assert(
      fc.property(ids, fc.uuid(), fc.nat(), (all, other, at) => {
        fc.pre(all.length > 0 && !all.includes(other))
        const place = at % all.length
        expect(marked(all.filter((_, i) => i !== place))).not.toEqual(marked(all))
        expect(marked(all.map((id, i) => (i === place ? other : id)))).not.toEqual(marked(all))
      }),
    )
  })
})

describe('text as it is kept', () => {
  it('comes back the same when it is kept again, and holds nothing that a file would not take back', () => {
    const text = line('Text', 200)
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 60 }), (typed) => {
        const first = text.safeParse(typed)
        if (!first.success) return
        expect(text.parse(first.data)).toBe(first.data)
        expect(first.data).not.toMatch(/\p{Surrogate}/u)
        // Tabs and line ends are all that is left of the controls.
        expect([...first.data].filter((each) => each < ' ' && each !== '\t' && each !== '\n')).toEqual([])
      }),
    )
    expect(text.parse(' wet\u0000 at\r\nthe \u0007track\r')).toBe('wet at\nthe track')
  })
})
