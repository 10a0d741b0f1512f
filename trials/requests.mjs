// Requests nobody honest sends: every refusal is a problem document with the headers of the others, and nothing fails within.
import http from 'node:http'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { inFolder, laidOut, newId, plotsOf, reading, start, stop, PERSON } from './kit.mjs'

export const name = 'requests'

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS', 'PROPFIND', 'SEARCH', 'TRACE', 'M-SEARCH']
const VALUES = [null, '', 0, -1, 1e308, 1.5, 'x', [], {}, true, '\u0000', 'x'.repeat(3000), ['a'], { a: 1 }, '💧', '2026-99-99', PERSON]
const HEADERS = [
  {},
  { 'Content-Encoding': 'gzip' },
  { 'Content-Encoding': 'br' },
  { 'Content-Encoding': 'deflate' },
  { 'Content-Encoding': 'zip' },
  { 'Content-Type': 'text/plain' },
  { 'Content-Type': 'application/json; charset=nonsense' },
  { 'Content-Type': 'multipart/form-data; boundary=x' },
  { Origin: 'http://elsewhere.example' },
  { Host: 'elsewhere.example' },
  { 'Sec-Fetch-Site': 'cross-site' },
  { Accept: 'text/nothing' },
  { Range: 'bytes=5-1' },
  { 'If-None-Match': '*' },
]

/** The method of an address. */
const OWN = [
  [/\/(records|layout|treatment|undo|people|shelf|packages)\b/i, 'POST'],
  [/\/sections\//i, 'PATCH'],
  [/\/api\/person\b/i, 'PUT'],
  [/\/api\/trials(\?|$)/i, 'POST'],
  [/./, 'GET'],
]

function chance(seed) {
  let state = seed >>> 0
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * below)
  }
}

/** Straight on the wire, so that nothing puts right what is wrong. */
function raw(url, { method, path, headers, body }) {
  const { hostname, port, host } = new URL(url)
  return new Promise((resolve) => {
    const asked = http.request({ hostname, port, method, path, headers: { Host: host, ...headers }, agent }, (reply) => {
      const pieces = []
      reply.on('data', (piece) => pieces.push(piece))
      reply.on('end', () => resolve({ status: reply.statusCode, headers: reply.headers, text: Buffer.concat(pieces).toString() }))
    })
    asked.on('error', (error) => resolve({ status: 0, headers: {}, text: String(error.code ?? error) }))
    asked.end(body)
  })
}
const agent = new http.Agent({ keepAlive: true, maxSockets: 8 })

export async function run({ short }) {
  return inFolder(async (folder) => {
    const server = await start(join(folder, 'a.sqlite'))
    const { call, url } = server
    const file = await laidOut(call)
    const { id } = file.trial
    const unit = plotsOf(file)[0].id
    const [event] = file.events
    const bodies = {
      [`/api/trials/${id}/records`]: { records: [reading(file, unit), reading(file, unit)] },
      [`/api/trials/${id}/sections/question`]: { version: 1, patch: { title: 'A' }, reason: '' },
      [`/api/trials/${id}/sections/traits`]: { version: 1, patch: { observed: file.trial.traits.observed }, reason: '' },
      [`/api/trials/${id}/sections/site:site-1`]: { version: 1, patch: { 'ground.plotWidth': 2 }, reason: '', confirm: true },
      [`/api/trials/${id}/sites/site-1/layout`]: { version: 2, seed: 1, reason: '' },
      [`/api/trials/${id}/units/${unit}/treatment`]: { version: 2, received: { 'factor-1': 'l1' }, change: 'misapplied', reason: 'x' },
      [`/api/trials/${id}/events/${event.id}/undo`]: { reason: '' },
      [`/api/trials/${id}`]: { version: 2, reason: '' },
      [`/api/trials/${id}/files/package`]: {},
      '/api/trials': { ...file.trial },
      '/api/people': { name: 'N' },
      '/api/person': { name: 'N', units: 'metric', shortcuts: true, theme: 'auto' },
      '/api/shelf': { kind: 'site', name: 'S', body: { soil: '', ground: file.trial.sites[0].ground } },
      '/api/packages': {},
      '/api/openapi.json': {},
      '/nothing.js': {},
      '/assets/../../package.json': {},
    }
    const paths = Object.keys(bodies)
    const faults = []
    const counts = { taken: 0, refused: 0 }
    const many = short ? 600 : 20_000
    const one = async (seed) => {
      const pick = chance(seed * 104729 + 3)
      let path = paths[pick(paths.length)]
      const json = structuredClone(bodies[path])
      for (const record of json.records ?? []) record.id = newId()
      // Some as they should be: what follows must not be the worse for them.
      for (let times = pick(3); times > 0; times--) spoil(json, pick)
      if (pick(8) === 0)
        path = path.replace(/[0-9a-f-]{36}/, [newId(), 'x', '%00', '..%2f', PERSON.toUpperCase(), 'a'.repeat(300)][pick(6)])
      if (pick(15) === 0) path = path.replace('/api', ['/API', '/Api', '//api', '/api/'][pick(4)])
      if (pick(10) === 0)
        path += ['?after=-1', '?after=1e99', '?deleted=perhaps', '?as=thing', '/', '?%ff', `?${'q'.repeat(pick(30_000))}`][pick(7)]
      let headers = { 'Content-Type': 'application/json', ...(pick(3) === 0 ? HEADERS[pick(HEADERS.length)] : {}) }
      let body =
        pick(12) === 0 ? ['', '{', '[]', 'null', '"x"', '{"__proto__":1}', `${'['.repeat(9000)}`, '\u0000'][pick(8)] : JSON.stringify(json)
      if (pick(20) === 0) {
        headers = { ...headers, 'Content-Encoding': 'gzip' }
        body = gzipSync(body)
      }
      const method = pick(4) > 0 ? OWN.find(([pattern]) => pattern.test(path))[1] : METHODS[pick(METHODS.length)]
      const reply = await raw(url, { method, path, headers, body })
      const what = `${seed} ${method} ${path.slice(0, 80)}`
      if (reply.status >= 400) {
        counts.refused++
        if (reply.status >= 500 && reply.status !== 501) faults.push(`${what}: ${reply.status} ${reply.text.slice(0, 120)}`)
        else if (!/^application\/problem\+json/.test(reply.headers['content-type'] ?? ''))
          faults.push(`${what}: ${reply.status} is no problem document`)
        else if (!reply.headers['content-security-policy'] || reply.headers['x-content-type-options'] !== 'nosniff')
          faults.push(`${what}: ${reply.status} without the headers`)
        else if (/\/(work|home|root|tmp|usr)\/|node_modules|\.[jt]s:\d/.test(reply.text))
          faults.push(`${what}: names a file of the machine`)
      } else if (reply.status === 0) faults.push(`${what}: the connection broke (${reply.text})`)
      else counts.taken++
    }
    for (let seed = 1; seed <= many && faults.length < 5; seed += 8) await Promise.all(Array.from({ length: 8 }, (_, i) => one(seed + i)))
    const large = await raw(url, {
      method: 'POST',
      path: '/api/trials',
      headers: { 'Content-Type': 'application/json' },
      body: `{"a":"${'x'.repeat(20_000_000)}"}`,
    })
    if (large.status !== 413) faults.push(`20 MB: ${large.status} ${large.text.slice(0, 80)}`)
    const after = await call('GET', `/api/trials/${id}`)
    const pack = await call('GET', `/api/trials/${id}/files/package`)
    if (after.status !== 200 || pack.status !== 200) faults.push('the trial cannot be opened or exported afterwards')
    agent.destroy()
    await stop(server)
    return {
      ok: faults.length === 0,
      line: `${many} odd requests: ${counts.taken} taken, ${counts.refused} refused, each by a problem document with its headers; 20 MB get their 413${faults.length > 0 ? `; ${faults.join('; ')}` : ''}`,
    }
  })
}

/** Another value, one more or one less, somewhere. */
function spoil(json, pick) {
  const paths = []
  const visit = (value, path) => {
    if (path.length > 0) paths.push(path)
    if (value && typeof value === 'object') for (const key of Object.keys(value)) visit(value[key], [...path, key])
  }
  visit(json, [])
  if (paths.length === 0) return
  const path = paths[pick(paths.length)]
  const holder = path.slice(0, -1).reduce((at, key) => at[key], json)
  if (pick(3) === 0) delete holder[path.at(-1)]
  else holder[path.at(-1)] = VALUES[pick(VALUES.length)]
}
