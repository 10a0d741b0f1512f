// Faults of the disk, at start and while running: plain words, what is safe, what to do; no stack.
import { copyFileSync, existsSync, mkdirSync, readFileSync, truncateSync, writeFileSync, openSync, writeSync, closeSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import sqlite3 from 'sqlite3'
import { inFolder, laidOut, plotsOf, reading, start, stop } from './kit.mjs'

export const name = 'disk'

const sql = (file, text) =>
  new Promise((resolve, reject) => {
    const database = new sqlite3.Database(file)
    database.exec(text, (error) => database.close(() => (error ? reject(error) : resolve())))
  })

export async function run() {
  return inFolder(async (folder) => {
    const faults = []
    const good = join(folder, 'good.sqlite')
    const server = await start(good)
    const file = await laidOut(server.call)
    for (const plot of plotsOf(file))
      await server.call('POST', `/api/trials/${file.trial.id}/records`, { records: [reading(file, plot.id)] })
    await stop(server)

    /** Does not start, says why in words, and leaves the file as it was. */
    const refuses = async (what, path, words, how) => {
      const before = existsSync(path) && !isFolder(path) ? readFileSync(path) : null
      const found = await start(path, how)
      if (found.url) {
        await stop(found)
        faults.push(`${what}: it started`)
        return
      }
      const said = found.errors()
      if (!words.test(said)) faults.push(`${what}: said ${said.slice(0, 160)}`)
      if (/\n\s+at |node:internal/.test(said)) faults.push(`${what}: a stack`)
      if (before && !before.equals(readFileSync(path))) faults.push(`${what}: the file was changed`)
    }
    writeFileSync(join(folder, 'text.sqlite'), 'Shopping: milk, bread and a long list of other things.\n'.repeat(40))
    await refuses('a text', join(folder, 'text.sqlite'), /no database of Canter/)
    await sql(join(folder, 'other.sqlite'), 'CREATE TABLE album (id INTEGER, name TEXT); INSERT INTO album VALUES (1, "a")')
    await refuses('another program', join(folder, 'other.sqlite'), /another program/)
    copyFileSync(good, join(folder, 'newer.sqlite'))
    await sql(join(folder, 'newer.sqlite'), "INSERT INTO migration (name) VALUES ('999-later')")
    await refuses('a newer Canter', join(folder, 'newer.sqlite'), /newer Canter/)
    copyFileSync(good, join(folder, 'torn.sqlite'))
    const handle = openSync(join(folder, 'torn.sqlite'), 'r+')
    for (let at = 4096; at < 40_000; at += 4096) writeSync(handle, Buffer.alloc(3000, 0x5a), 0, 3000, at)
    closeSync(handle)
    await refuses('a damaged file', join(folder, 'torn.sqlite'), /damaged/)
    copyFileSync(good, join(folder, 'cut.sqlite'))
    truncateSync(join(folder, 'cut.sqlite'), 9000)
    await refuses('a file cut off', join(folder, 'cut.sqlite'), /damaged/)
    await refuses('a folder in its place', folder, /is a folder/)
    writeFileSync(join(folder, 'file'), '')
    await refuses('a file in its path', join(folder, 'file', 'a.sqlite'), /cannot be opened/)
    // Where this system lets nobody mount a disk it cannot be tried, and is not counted.
    const mountable = spawnSync('unshare', ['-rm', 'true']).status === 0
    const readOnly = join(folder, 'mounted')
    mkdirSync(readOnly)
    if (mountable)
      await refuses('a disk that can only be read', join(readOnly, 'good.sqlite'), /disk or the file is read-only/, { readOnly: good })
    const held = await start(good)
    await refuses('a second server', good, /another Canter already/)

    const full = join(folder, 'full.sqlite')
    copyFileSync(good, full)
    const running = await start(full, { mostKilobytes: 120 })
    const plot = plotsOf(file)[0].id
    const acknowledged = []
    let refusal = null
    for (let i = 0; i < 200 && !refusal; i++) {
      const record = reading(file, plot)
      const reply = await running.call('POST', `/api/trials/${file.trial.id}/records`, { records: [record] })
      if (reply.status === 200) acknowledged.push(record.id)
      else refusal = reply
    }
    if (refusal?.status !== 503 || !/disk/i.test(refusal.body?.detail ?? ''))
      faults.push(`a full disk: ${refusal?.status} ${refusal?.text.slice(0, 160)}`)
    if ((await running.call('GET', '/api/trials')).status !== 200) faults.push('a full disk: lists no longer')
    await stop(running)
    const roomy = await start(full)
    const there = new Set((await roomy.call('GET', `/api/trials/${file.trial.id}/records`)).body.records.map(({ record }) => record.id))
    const lost = acknowledged.filter((id) => !there.has(id)).length
    if (lost > 0) faults.push(`a full disk: ${lost} of ${acknowledged.length} acknowledged are lost`)
    await stop(roomy)
    await stop(held)
    return {
      ok: faults.length === 0,
      line: `${mountable ? 10 : 9} faults of the disk: ${faults.length === 0 ? 'each said in words, no file changed, no stack' : faults.join('; ')}`,
    }
  })
}

function isFolder(path) {
  try {
    mkdirSync(path)
    return false
  } catch {
    return !readable(path)
  }
}

function readable(path) {
  try {
    readFileSync(path)
    return true
  } catch {
    return false
  }
}
