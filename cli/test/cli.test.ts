import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { packTrial } from '@canter/core/exchange'
import { sugarBeet } from '@canter/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { analyseCommand } from '../src/analyse.ts'

let folder: string
let file: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'canter-cli-'))
  file = join(folder, 'beet.zip')
  writeFileSync(file, packTrial(sugarBeet()))
})
afterAll(() => rmSync(folder, { recursive: true }))

describe('canter analyse', () => {
  it('prints words, model, tests and means for the response that matters', () => {
    const text = analyseCommand([file])
    expect(text).toMatch(/\[trial\] 120 kg N\/ha gave 3\.\d t\/ha more sugar yield than no nitrogen/)
    expect(text).toMatch(/residual +13/)
    expect(text).not.toMatch(/NaN|undefined/)
  })

  it('gives the whole result as JSON, with the answer both ways', () => {
    const result = JSON.parse(analyseCommand([file, '--trait', 'clean-yield', '--json'])) as {
      trait: { key: string }
      leftOut: number
      withNothingLeftOut: { leftOut: number; observations: number }
    }
    expect(result).toMatchObject({ trait: { key: 'clean-yield' }, leftOut: 1, withNothingLeftOut: { leftOut: 0, observations: 23 } })
  })

  it.each([
    [[], /Name one package/],
    [['/no/such/file.zip'], /cannot be read \(ENOENT\)/],
    [[import.meta.filename], /not a whole zip file/],
    [['--what'], /Unknown option/],
  ])('says what is wrong with %j', (args, message) => {
    expect(() => analyseCommand(args)).toThrow(message)
  })

  it('names the traits there are when asked for another', () => {
    expect(() => analyseCommand([file, '--trait', 'height'])).toThrow(
      /gross-weight, dirt-tare, sugar-content, leaf-health, clean-yield, sugar-yield/,
    )
  })
})
