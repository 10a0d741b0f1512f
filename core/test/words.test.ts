import { readdirSync, readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AnalysisOptions } from '../src/analysis/index.ts'
import { PlanFile } from '../src/exchange/index.ts'
import { newTrialDraft } from '../src/numbers/index.ts'
import { TrialDraft } from '../src/trial/index.ts'

const plans = new URL('../fixtures/plans/', import.meta.url)
const plan: unknown = JSON.parse(readFileSync(new URL(readdirSync(plans)[0]!, plans), 'utf8'))

/** Words of the library that checks, which mean nothing to whoever wrote the file. */
const LIBRARY = /\b(Invalid|expected|received|Zod|undefined|NaN|Unrecognized|discriminator)\b/i

describe('what is said of a file edited by hand', () => {
  const odd = fc.oneof(
    fc.constantFrom<unknown>(null, '', 'x', -1, 1e300, 1.5, true, [], {}, [null], { a: 1 }, undefined),
    fc.string({ maxLength: 8 }),
  )
  it.each([
    ['a plan', PlanFile, plan],
    [
      'options',
      AnalysisOptions,
      { significance: 0.05, method: ['lsd'], contrasts: [{ name: 'a', term: ['v'], coefficients: { a: 1, b: -1 } }] },
    ],
    ['a trial', TrialDraft, newTrialDraft(2026)],
  ] as const)('%s: where it is and what to do, in plain words', (_, schema, whole) => {
    const paths: string[][] = []
    const visit = (value: unknown, path: string[]): void => {
      if (path.length > 0) paths.push(path)
      if (value !== null && typeof value === 'object') for (const [key, each] of Object.entries(value)) visit(each, [...path, key])
    }
    visit(whole, [])
    fc.assert(
      fc.property(fc.constantFrom(...paths), odd, (path, value) => {
        const edited = structuredClone(whole) as Record<string, unknown>
        const holder = path.slice(0, -1).reduce<Record<string, unknown>>((at, key) => at[key] as Record<string, unknown>, edited)
        holder[path.at(-1)!] = value
        const parsed = schema.safeParse(edited)
        for (const { message } of parsed.error?.issues ?? []) {
          expect(message).toMatch(/\.$/)
          expect(message.replace(/“[^”]*”/g, '')).not.toMatch(LIBRARY)
        }
      }),
      { numRuns: 1500 },
    )
  })
})
