// Packages edited by hand and made to harm: refused in words or taken whole; what is taken can be opened, exported and taken again.
import { join } from 'node:path'
import { readFileSync } from 'node:fs'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { inFolder, laidOut, plotsOf, reading, start, stop } from './kit.mjs'

export const name = 'packages'

/** A chance that comes again with its seed. */
function chance(seed) {
  let state = seed >>> 0
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * below)
  }
}

const ODD = [
  '',
  '0',
  '-1',
  '1e999',
  'NaN',
  'null',
  '"',
  '=1+1',
  '\u0000',
  '\u202e',
  '💧'.repeat(3),
  'x'.repeat(5000),
  '00000000-0000-0000-0000-000000000000',
  '2026-13-45',
  '../../etc',
  '__proto__',
  '[]',
  '{}',
  '999999999999',
]
const ODD_VALUES = [null, '', 0, -1, 1e308, 'x', [], {}, true, ['x'], { x: 1 }, '\u0000a', 'x'.repeat(5000)]

/** One thing changed somewhere: a cell, a line, a value of the description, the bytes of the archive. */
function mutated(bytes, seed) {
  const pick = chance(seed * 7919 + 1)
  if (pick(12) === 0) {
    const torn = Uint8Array.from(bytes)
    for (let i = 0; i < 1 + pick(4); i++) torn[pick(torn.length)] = pick(256)
    return pick(2) ? torn : torn.slice(0, pick(torn.length))
  }
  const files = Object.fromEntries(Object.entries(unzipSync(bytes)).map(([file, content]) => [file, strFromU8(content)]))
  const names = Object.keys(files)
  for (let times = 1 + pick(2); times > 0; times--) {
    const file = names[pick(names.length)]
    if (pick(30) === 0) delete files[file]
    else if (file.endsWith('.json')) files[file] = JSON.stringify(changedValue(JSON.parse(files[file] ?? '{}'), pick))
    else if (files[file] !== undefined) files[file] = changedTable(files[file], pick)
  }
  return zipSync(Object.fromEntries(Object.entries(files).map(([file, text]) => [file, strToU8(text)])))
}

function changedValue(json, pick) {
  const paths = []
  const visit = (value, path) => {
    paths.push(path)
    if (value && typeof value === 'object') for (const key of Object.keys(value)) visit(value[key], [...path, key])
  }
  visit(json, [])
  const path = paths[1 + pick(paths.length - 1)]
  const holder = path.slice(0, -1).reduce((at, key) => at[key], json)
  const key = path.at(-1)
  const act = pick(4)
  if (act === 0) {
    if (Array.isArray(holder)) holder.splice(Number(key), 1)
    else delete holder[key]
  } else if (act === 1 && Array.isArray(holder)) holder.push(structuredClone(holder[Number(key)]))
  else if (act === 2) {
    const other = paths[1 + pick(paths.length - 1)]
    holder[key] = structuredClone(other.reduce((at, each) => at?.[each], json)) ?? null
  } else holder[key] = ODD_VALUES[pick(ODD_VALUES.length)]
  return json
}

function changedTable(text, pick) {
  const lines = text.trimEnd().split('\n')
  const line = pick(lines.length)
  const act = pick(6)
  if (act === 0) lines.splice(line, 1)
  else if (act === 1) lines.splice(line, 0, lines[line])
  else if (act === 2) lines[line] = lines[line].replaceAll(',', ';')
  else {
    const cells = lines[line].split(',')
    const at = pick(cells.length)
    const other = lines[pick(lines.length)].split(',')
    cells[at] = act === 3 ? (other[at] ?? '') : ODD[pick(ODD.length)]
    lines[line] = cells.join(',')
  }
  return `${lines.join('\n')}\n`
}

/** Archives made to fill a memory or to hold a server. */
function hostile(bytes) {
  const files = unzipSync(bytes)
  const withFile = (file, text) => zipSync({ ...files, [file]: strToU8(text) }, { level: 9 })
  const lying = Uint8Array.from(bytes)
  // The size a file says it has, in the list at the end of the archive.
  const view = new DataView(lying.buffer)
  for (let at = 0; at + 4 < lying.length; at++) if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 24, 0xfffffff0, true)
  return {
    'line ends': withFile('units.csv', '\n'.repeat(30_000_000)),
    'carriage returns': withFile('readings.csv', '\r'.repeat(30_000_000)),
    commas: withFile('notes.csv', ','.repeat(30_000_000)),
    quotes: withFile('notes.csv', '"'.repeat(20_000_001)),
    nested: withFile('canter.json', `${'['.repeat(3_000_000)}${']'.repeat(3_000_000)}`),
    zeros: withFile('canter.json', '0'.repeat(200_000_000)),
    'a size that lies': lying,
    'many files': zipSync(Object.fromEntries(Array.from({ length: 30_000 }, (_, i) => [`f${i}`, new Uint8Array(0)]))),
  }
}

export async function run({ short }) {
  return inFolder(async (folder) => {
    const server = await start(join(folder, 'a.sqlite'))
    const { call } = server
    const faults = []
    const file = await laidOut(call, 3, 2)
    for (const plot of plotsOf(file)) await call('POST', `/api/trials/${file.trial.id}/records`, { records: [reading(file, plot.id)] })
    await call('PATCH', `/api/trials/${file.trial.id}/sections/question`, {
      version: file.trial.versions.question,
      patch: { why: 'A\u0000b\u0007 "c", d\r\ne' },
      reason: 'x\u0000y',
    })
    const whole = new Uint8Array(await (await fetch(`${server.url}/api/trials/${file.trial.id}/files/package`)).arrayBuffer())
    const zip = { 'Content-Type': 'application/zip' }
    const send = (bytes) => call('POST', '/api/packages?as=copy', bytes, zip)
    const same = await send(whole)
    if (same.status !== 201) faults.push(`its own package was refused: ${same.text.slice(0, 200)}`)

    let [taken, refused] = [0, 0]
    const many = short ? 60 : 5000
    const examine = async (what, reply) => {
      if (reply.status >= 400 && reply.status < 500 && /problem\+json/.test(reply.type)) return void refused++
      if (reply.status !== 201) return void faults.push(`${what}: ${reply.status} ${reply.text.slice(0, 140)}`)
      taken++
      const { id } = reply.body.trial
      const opened = await call('GET', `/api/trials/${id}`)
      const again = await fetch(`${server.url}/api/trials/${id}/files/package`)
      if (opened.status !== 200 || again.status !== 200)
        return void faults.push(`${what}: taken, and not to be opened (${opened.status}, ${again.status})`)
      const back = await send(new Uint8Array(await again.arrayBuffer()))
      if (back.status !== 201) faults.push(`${what}: taken, exported and refused: ${back.text.slice(0, 140)}`)
    }
    for (let seed = 1; seed <= many && faults.length < 5; seed++) await examine(`mutation ${seed}`, await send(mutated(whole, seed)))
    const list = await call('GET', '/api/trials')
    if (list.status !== 200 || list.body.trials.some((trial) => trial.problem !== null))
      faults.push('a trial is stored that cannot be opened')

    await stop(server)

    // While an archive is looked at, others are answered. A server of its own, so that the memory is that of the archives.
    const fresh = await start(join(folder, 'b.sqlite'))
    let [longest, waited, peak] = [0, 0, 0]
    for (const [what, bytes] of Object.entries(hostile(whole))) {
      let going = true
      const others = (async () => {
        while (going) {
          const began = performance.now()
          await fresh.call('GET', '/api/person')
          waited = Math.max(waited, performance.now() - began)
          peak = Math.max(peak, memoryOf(fresh.child.pid))
        }
      })()
      const began = performance.now()
      const reply = await fresh.call('POST', '/api/packages?as=copy', bytes, zip)
      longest = Math.max(longest, performance.now() - began)
      going = false
      await others
      if (reply.status < 400 || reply.status >= 500) faults.push(`${what}: ${reply.status}`)
    }
    await stop(fresh)
    return {
      ok: faults.length === 0 && (short || (longest < 2000 && waited < 250 && peak < 350)),
      line: `${many} mutated packages: ${refused} refused in words, ${taken} taken, opened, exported and taken again; 8 hostile archives: longest ${Math.round(longest)} ms, others waited ${Math.round(waited)} ms, memory ${Math.round(peak)} MB${faults.length > 0 ? `; ${faults.join('; ')}` : ''}`,
    }
  })
}

/** Megabytes in use by a process; 0 where the system does not say. */
function memoryOf(pid) {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024
  } catch {
    return 0
  }
}
