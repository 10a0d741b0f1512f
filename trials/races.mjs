// Pairs of writes at the same moment: what is acknowledged stands, and nothing is refused that fits.
import { join } from 'node:path'
import { inFolder, laidOut, newId, PERSON, plotsOf, reading, start, stop } from './kit.mjs'

export const name = 'races'

/** What is changed while readings come in; each on a trial of its own, whose readings fit before and after. */
const CHANGES = {
  'a layout of another site': async ({ call, file }) => {
    const { trial } = await addSite(call, file)
    return call('POST', `/api/trials/${trial.id}/sites/site-2/layout`, { version: trial.version, seed: 7, reason: '' })
  },
  'a new trait': ({ call, file }) =>
    edit(call, file, 'traits', {
      observed: [...file.trial.traits.observed, { ...file.trial.traits.observed[0], key: 'fresh', code: 'FR', name: 'Fresh' }],
    }),
  'a new visit': ({ call, file }) =>
    edit(call, file, 'traits', { visits: [...file.trial.traits.visits, { key: 'later', name: 'Later', on: null }] }),
  'another title': ({ call, file }) => edit(call, file, 'question', { title: 'Another title' }),
  'a new person': ({ call }) => call('POST', '/api/people', { name: `Helper ${newId().slice(-6)}` }),
  'a package export': ({ call, file }) => call('GET', `/api/trials/${file.trial.id}/files/package`),
  'a note': ({ call, file }) =>
    call('POST', `/api/trials/${file.trial.id}/records`, {
      records: [
        {
          type: 'note',
          id: newId(),
          at: '2026-06-01T08:00:00Z',
          person: PERSON,
          device: 'trial',
          unit: plotsOf(file)[0].id,
          trait: null,
          kind: 'remark',
          flag: null,
          text: 'Wet.',
        },
      ],
    }),
}

export async function run({ short }) {
  const rounds = short ? 2 : 40
  return inFolder(async (folder) => {
    const server = await start(join(folder, 'a.sqlite'))
    const { call } = server
    let [sent, lost, refused, failed] = [0, 0, 0, 0]
    for (const change of Object.values(CHANGES)) {
      for (let round = 0; round < rounds; round++) {
        const file = await laidOut(call)
        const plots = plotsOf(file)
        const records = Array.from({ length: 6 }, (_, i) => reading(file, plots[i].id))
        const send = async (record) => ({
          record,
          reply: await call('POST', `/api/trials/${file.trial.id}/records`, { records: [record] }),
        })
        const before = records.slice(0, 3).map(send)
        const changing = change({ call, file })
        const replies = await Promise.all([...before, ...records.slice(3).map(send)])
        if ((await changing).status >= 400) failed++
        // And once more, now that it is done: facts that were kept from before would show here.
        replies.push(await send(reading(file, plots[7].id)))
        const held = new Set((await call('GET', `/api/trials/${file.trial.id}/records`)).body.records.map(({ record }) => record.id))
        for (const { record, reply } of replies) {
          sent++
          if (reply.status !== 200) refused++
          else if (!held.has(record.id)) lost++
        }
      }
    }
    // A reading of a unit that comes with the change itself.
    for (let round = 0; round < rounds; round++) {
      const file = await laidOut(call)
      const { trial } = await addSite(call, file)
      const laying = call('POST', `/api/trials/${trial.id}/sites/site-2/layout`, { version: trial.version, seed: 7, reason: '' })
      const early = await call('POST', `/api/trials/${trial.id}/records`, { records: [reading(file, newId())] })
      const laid = (await laying).body
      if (early.status >= 500) failed++
      const fresh = laid.layouts.find((layout) => layout.siteKey === 'site-2').units.find((unit) => unit.walk !== null)
      const reply = await call('POST', `/api/trials/${trial.id}/records`, { records: [reading(laid, fresh.id)] })
      sent++
      if (reply.status !== 200) refused++
    }
    await stop(server)
    return {
      ok: lost + refused + failed === 0,
      line: `${Object.keys(CHANGES).length + 1} pairs, ${rounds} races each: ${sent} readings, ${lost} lost, ${refused} refused wrongly, ${failed} changes failed`,
    }
  })
}

async function edit(call, file, section, patch) {
  return call('PATCH', `/api/trials/${file.trial.id}/sections/${section}`, {
    version: file.trial.versions[section],
    patch,
    reason: 'Race',
    confirm: true,
  })
}

async function addSite(call, file) {
  const [site] = file.trial.sites
  const added = await edit(call, file, 'sites', { 'site-2': { ...site, key: 'site-2', name: 'Second' } })
  if (added.status !== 200) throw new Error(added.text)
  return added.body
}
