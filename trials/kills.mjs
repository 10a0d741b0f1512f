// Killed under load, and while a database is made or brought up to date.
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import { inFolder, laidOut, pause, plotsOf, reading, root, start, stop } from './kit.mjs'

export const name = 'kills'

export async function run({ short }) {
  const [loads, makings] = short ? [3, 6] : [200, 100]
  const load = await inFolder((folder) => underLoad(join(folder, 'a.sqlite'), loads))
  const made = await inFolder((folder) => whileMade(folder, makings))
  return {
    ok: load.lost === 0 && load.half === 0 && made.shut === 0,
    line: `${loads} kills under load: ${load.acknowledged} acknowledged, ${load.lost} lost, ${load.whole} packages taken whole and ${load.half} by half; ${makings} kills while a database is made or migrated: ${makings - made.shut} open again`,
  }
}

async function underLoad(database, rounds) {
  let [acknowledged, lost] = [0, 0]
  let file = null
  let pack = null
  const all = []
  for (let round = 0; round < rounds; round++) {
    const server = await start(database)
    if (!server.url) throw new Error(`It did not open again: ${server.errors()}`)
    file ??= await laidOut(server.call)
    const plots = plotsOf(file)
    pack ??= await packed(server, await laidOut(server.call, 20, 30, 'Packed'))
    let going = true
    // A package is taken in at the same time: whole, or not at all.
    const taking = server.call('POST', '/api/packages?as=copy', pack.bytes, { 'Content-Type': 'application/zip' })
    const people = Array.from({ length: 8 }, async (_, who) => {
      for (let i = 0; going; i++) {
        const record = reading(file, plots[(who + i) % plots.length].id)
        const { status } = await server.call('POST', `/api/trials/${file.trial.id}/records`, { records: [record] })
        if (status === 200) all.push(record.id)
        else if (status !== 0) throw new Error(`status ${status}`)
      }
    })
    await pause(40 + Math.random() * 900)
    server.child.kill('SIGKILL')
    going = false
    await Promise.all([...people, taking])
    await server.ended
  }
  const server = await start(database)
  const held = new Set((await server.call('GET', `/api/trials/${file.trial.id}/records`)).body.records.map(({ record }) => record.id))
  acknowledged = all.length
  lost = all.filter((id) => !held.has(id)).length
  let [whole, half] = [0, 0]
  for (const { id } of (await server.call('GET', '/api/trials')).body.trials.filter((trial) => trial.title === 'Packed (copy)')) {
    const opened = await server.call('GET', `/api/trials/${id}`)
    const { body } = await server.call('GET', `/api/trials/${id}/records`)
    if (opened.status === 200 && opened.body.layouts[0]?.units.length === pack.units && body.records.length === pack.records) whole++
    else half++
  }
  await stop(server)
  return { acknowledged, lost, whole, half }
}

/** A trial with a reading on each plot, as a package. */
async function packed({ call, url }, file) {
  const records = plotsOf(file).map((plot) => reading(file, plot.id))
  for (let from = 0; from < records.length; from += 300)
    await call('POST', `/api/trials/${file.trial.id}/records`, { records: records.slice(from, from + 300) })
  const bytes = new Uint8Array(await (await fetch(`${url}/api/trials/${file.trial.id}/files/package`)).arrayBuffer())
  return { bytes, units: file.layouts[0].units.length, records: records.length }
}

/** Half of the kills fall into making a new database, half into bringing an old one up to date. */
async function whileMade(folder, rounds) {
  const old = join(folder, 'old.sqlite')
  writeFileSync(old, gunzipSync(readFileSync(join(root, 'server/fixtures/store-001.sqlite.gz'))))
  let shut = 0
  for (let round = 0; round < rounds; round++) {
    const database = join(folder, `made-${round}.sqlite`)
    if (round % 2 === 1) copyFileSync(old, database)
    let child
    const first = start(database, { onSpawn: (made) => (child = made) })
    // Spread over the time it takes from the start of the process until it answers.
    await pause(250 + ((round * 37) % 800))
    child.kill('SIGKILL')
    await (
      await first
    ).ended
    const again = await start(database)
    const { status, body } = again.url ? await again.call('GET', '/api/trials') : { status: 0 }
    if (status !== 200 || (round % 2 === 1 && body.trials.length !== 4)) shut++
    again.child.kill('SIGKILL')
    await again.ended
  }
  return { shut }
}
