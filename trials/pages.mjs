// Fifty people with a page open each: how long a save takes, and how long until every other page has it.
import { join } from 'node:path'
import { inFolder, laidOut, pause, plotsOf, reading, start, stop } from './kit.mjs'

export const name = 'pages'

export async function run({ short }) {
  const [people, seconds] = short ? [10, 3] : [50, 30]
  return inFolder(async (folder) => {
    const server = await start(join(folder, 'a.sqlite'))
    const { call, url } = server
    const file = await laidOut(call, 6, 20)
    const path = `/api/trials/${file.trial.id}/records`
    const plots = plotsOf(file)
    const saved = new Map()
    const [saves, delays] = [[], []]
    let [fetches, notices] = [0, 0]

    /** A page as the browser has it: told of changes, it asks once for what comes after its cursor, and once more if told meanwhile. */
    const page = async (leaving) => {
      let [cursor, running, again] = [0, false, false]
      const seen = new Set()
      const pull = async () => {
        if (running) return void (again = true)
        running = true
        do {
          again = false
          fetches++
          const { body } = await call('GET', `${path}?after=${cursor}`)
          const now = performance.now()
          for (const { record } of body?.records ?? []) {
            seen.add(record.id)
            if (saved.has(record.id)) delays.push(now - saved.get(record.id))
          }
          cursor = body?.cursor ?? cursor
        } while (again)
        running = false
      }
      const reply = await fetch(`${url}/api/changes`, { signal: leaving })
      const read = async () => {
        try {
          for await (const piece of reply.body) {
            const told =
              Buffer.from(piece)
                .toString()
                .match(/"records"/g)?.length ?? 0
            notices += told
            if (told > 0) void pull()
          }
        } catch {
          // The page is closed.
        }
      }
      void read()
      return { seen, pull }
    }
    const leaving = new AbortController()
    const pages = await Promise.all(Array.from({ length: people }, () => page(leaving.signal)))
    const until = performance.now() + seconds * 1000
    await Promise.all(
      Array.from({ length: people }, async (_, who) => {
        await pause((who * 1000) / people)
        for (let i = 0; performance.now() < until; i++) {
          const record = reading(file, plots[(who + i) % plots.length].id)
          const began = performance.now()
          const { status } = await call('POST', path, { records: [record] })
          const took = performance.now() - began
          if (status === 200) {
            saves.push(took)
            saved.set(record.id, performance.now())
          }
          await pause(Math.max(0, 950 + ((who * 37 + i * 61) % 100) - took))
        }
      }),
    )
    await pause(1000)
    const behind = pages.filter(({ seen }) => [...saved.keys()].some((id) => !seen.has(id))).length
    leaving.abort()
    await stop(server)
    const p95 = (values) => values.sort((a, b) => a - b)[Math.floor(values.length * 0.95)] ?? 0
    const [save, delay] = [p95(saves), p95(delays)]
    return {
      ok: behind === 0 && (short || (save < 50 && delay < 250)),
      line: `${people} people for ${seconds} s: ${saves.length} saves, p95 ${Math.round(save)} ms; on every other page p95 ${Math.round(delay)} ms after; ${notices} notices, ${fetches} fetches, ${behind} pages behind at the end`,
    }
  })
}
