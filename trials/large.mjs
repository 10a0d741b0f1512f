// Six thousand plots and 25,000 records: no request holds others for long.
import { join } from 'node:path'
import { inFolder, laidOut, plotsOf, reading, start, stop } from './kit.mjs'
import { others } from './others.mjs'

export const name = 'large'

export async function run({ short }) {
  const [treatments, blocks, records] = short ? [20, 10, 800] : [120, 50, 25_000]
  return inFolder(async (folder) => {
    const server = await start(join(folder, 'a.sqlite'))
    const { call, url } = server
    const file = await laidOut(call, treatments, blocks, 'Large')
    const plots = plotsOf(file)
    const path = `/api/trials/${file.trial.id}`
    for (let from = 0; from < records; from += 400)
      await call('POST', `${path}/records`, {
        records: Array.from({ length: Math.min(400, records - from) }, (_, i) => reading(file, plots[(from + i) % plots.length].id)),
      })
    const other = await laidOut(call, 4, 3, 'Small')
    const zip = { 'Content-Type': 'application/zip' }
    const pack = new Uint8Array(await (await fetch(`${url}${path}/files/package`)).arrayBuffer())
    const fresh = await laidOut(call, treatments, blocks, 'To be dealt anew')
    const acts = {
      'ten lists': () => Promise.all(Array.from({ length: 10 }, () => call('GET', '/api/trials'))),
      'the trial opened': () => call('GET', path),
      'all records': () => call('GET', `${path}/records`),
      'a package': () => call('GET', `${path}/files/package`),
      'the plots as CSV': () => call('GET', `${path}/files/plots`),
      'a package taken': () => call('POST', '/api/packages?as=copy', pack, zip),
      'an edit': () => call('PATCH', `${path}/sections/question`, { version: 1, patch: { why: 'Because.' }, reason: '' }),
      'dealt anew': () =>
        call('POST', `/api/trials/${fresh.trial.id}/sites/site-1/layout`, { version: fresh.trial.version, seed: 9, reason: '' }),
    }
    const held = {}
    const faults = []
    for (const [what, act] of Object.entries(acts)) {
      const beside = others(url, other)
      await beside.begun
      const began = performance.now()
      const replies = [await act()].flat()
      const took = performance.now() - began
      const longest = await beside.end()
      faults.push(...longest.faults.map((fault) => `beside ${what}: ${fault}`))
      for (const reply of replies) if (reply.status >= 400) faults.push(`${what}: ${reply.status} ${reply.text.slice(0, 100)}`)
      held[what] = [took, longest.read, longest.save].map(Math.round)
    }
    await stop(server)
    const worst = Math.max(...Object.values(held).flatMap(([, ...longest]) => longest))
    return {
      ok: faults.length === 0 && (short || worst < 250),
      line: `${plots.length} plots, ${records} records: ${Object.entries(held)
        .map(([what, [took, read, save]]) => `${what} ${took} ms, a read beside it at most ${read}, a save ${save}`)
        .join('; ')}${faults.length > 0 ? `; ${faults.join('; ')}` : ''}`,
    }
  })
}
