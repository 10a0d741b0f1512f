import { expect, it } from 'vitest'
import { trials } from './run.mjs'

// The short form of each: the same attacks, fewer of them, and no figure of time held.
for (const { name, run } of trials) {
  it(`trial: ${name}`, async () => {
    const { ok, line } = await run({ short: true })
    expect(ok, line).toBe(true)
  })
}
