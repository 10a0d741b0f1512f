// Attacks the places where records could be lost or a request could fail: one line of figures each. `--short` is the form of the tests.
import * as disk from './disk.mjs'
import * as kills from './kills.mjs'
import * as large from './large.mjs'
import * as packages from './packages.mjs'
import * as pages from './pages.mjs'
import * as races from './races.mjs'
import * as requests from './requests.mjs'

/** All trials; adding one is its file and its name here. */
export const trials = [kills, races, disk, packages, requests, pages, large]

if (process.argv[1] === (await import('node:url')).fileURLToPath(import.meta.url)) {
  const short = process.argv.includes('--short')
  const wanted = process.argv.slice(2).filter((each) => !each.startsWith('--'))
  let failed = 0
  for (const { name, run } of trials) {
    if (wanted.length > 0 && !wanted.includes(name)) continue
    const began = performance.now()
    const { ok, line } = await run({ short })
    if (!ok) failed++
    console.log(`${ok ? 'holds' : 'FAILS'}  ${name.padEnd(10)} ${line}  (${Math.round((performance.now() - began) / 1000)} s)`)
  }
  process.exit(failed > 0 ? 1 : 0)
}
