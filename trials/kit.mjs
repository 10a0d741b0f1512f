// What the trials share: a server of its own process, calls that tell all, a trial to enter readings in.
import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = join(dirname(fileURLToPath(import.meta.url)), '..')
export const PERSON = '00000000-0000-7000-8000-000000000001'
export const pause = (time) => new Promise((resolve) => setTimeout(resolve, time))

const { newTrialDraft } = await import(join(root, 'core/dist/numbers/index.js'))

/** A folder that is gone afterwards. */
export async function inFolder(act) {
  const folder = mkdtempSync(join(tmpdir(), 'canter-trial-'))
  try {
    return await act(folder)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** A disk of its own, with a copy of a database on it, that can only be read. */
const READ_ONLY = 'mount -t tmpfs tmpfs "$2" && cp "$3" "$2" && mount -o remount,ro "$2" && exec "$0" "$1"'

/** Starts a server; resolves when it answers, or with what it said when it would not start. */
export function start(database, { onSpawn = () => {}, mostKilobytes = null, readOnly = null } = {}) {
  return new Promise((resolve) => {
    const main = join(root, 'server/dist/main.js')
    // A file that may not grow stands for a disk that is full.
    const [command, args] =
      readOnly !== null
        ? ['unshare', ['-rm', 'sh', '-c', READ_ONLY, process.execPath, main, dirname(database), readOnly]]
        : mostKilobytes !== null
          ? ['sh', ['-c', `trap '' XFSZ; ulimit -f ${2 * mostKilobytes}; exec "$0" "$1"`, process.execPath, main]]
          : [process.execPath, [main]]
    const child = spawn(command, args, {
      env: { ...process.env, PORT: '0', CANTER_DATABASE: database, LOG_LEVEL: 'silent' },
      stdio: ['ignore', 'pipe', 'pipe'],
    })
    onSpawn(child)
    let said = ''
    let errors = ''
    const ended = new Promise((end) => child.once('exit', (code, signal) => end({ code, signal })))
    child.stderr.on('data', (data) => (errors += data))
    child.stdout.on('data', (data) => {
      said += data
      const url = /http:\S+/.exec(said)?.[0].replace(/\/$/, '')
      if (url) resolve({ child, url, ended, call: caller(url), errors: () => errors })
    })
    ended.then((end) => resolve({ child, url: null, ended, ...end, errors: () => errors }))
  })
}

export async function stop(server) {
  server.child.kill('SIGTERM')
  await server.ended
}

/** A call of the API: status, type, headers and body; a connection that breaks is status 0. */
export function caller(url) {
  return async (method, path, body, headers = {}) => {
    try {
      const reply = await fetch(url + path, {
        method,
        headers: { ...(body === undefined ? {} : { 'Content-Type': 'application/json' }), ...headers },
        body: body === undefined || body instanceof Uint8Array || typeof body === 'string' ? body : JSON.stringify(body),
      })
      const text = await reply.text()
      const type = reply.headers.get('content-type') ?? ''
      return { status: reply.status, type, headers: reply.headers, text, body: /json/.test(type) && text !== '' ? JSON.parse(text) : null }
    } catch (error) {
      return { status: 0, type: '', headers: new Headers(), text: String(error.cause?.code ?? error), body: null }
    }
  }
}

/** So many treatments in so many blocks. */
export function ladder(treatments, blocks, title = 'Trial') {
  const draft = newTrialDraft(2026)
  const levels = Array.from({ length: treatments }, (_, i) => ({ key: `l${i}`, code: `T${i}`, name: `T${i}`, amount: i }))
  const list = levels.map(({ key, code, name }, i) => ({
    key,
    code,
    name,
    colour: null,
    role: i === 0 ? 'untreated control' : 'none',
    levels: { 'factor-1': key },
  }))
  const [site] = draft.sites
  return {
    ...draft,
    question: { ...draft.question, title, crop: 'Beet' },
    treatments: { ...draft.treatments, factors: [{ ...draft.treatments.factors[0], name: 'Rate', levels }], list },
    sites: [{ ...site, design: { ...site.design, replicates: blocks } }],
  }
}

/** A trial laid out on a server: its file. */
export async function laidOut(call, treatments = 4, blocks = 3, title = 'Trial') {
  const made = await call('POST', '/api/trials', ladder(treatments, blocks, title))
  if (made.status !== 201) throw new Error(made.text)
  const { trial } = made.body
  return (await call('POST', `/api/trials/${trial.id}/sites/site-1/layout`, { version: trial.version, seed: 1, reason: '' })).body
}

let n = 0
const run = Math.floor(Math.random() * 0xffffffff)
  .toString(16)
  .padStart(8, '0')
export const newId = () => `${run}-0000-7000-9000-${(++n).toString(16).padStart(12, '0')}`

export function reading(file, unit, more = {}) {
  return {
    type: 'reading',
    id: newId(),
    at: '2026-06-01T08:00:00Z',
    person: PERSON,
    device: 'trial',
    unit,
    trait: file.trial.traits.observed[0].key,
    visit: file.trial.traits.visits[0].key,
    sample: 1,
    observer: PERSON,
    value: { kind: 'number', value: 60, typed: '60', typedMeasure: null },
    supersedes: [],
    confirmed: false,
    ...more,
  }
}

export const plotsOf = (file) => file.layouts[0].units.filter((unit) => unit.walk !== null)
