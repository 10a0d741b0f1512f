import { rmSync } from 'node:fs'
import { Store } from '@canter/server/store/store'
import { demoShelf, demoTrials } from './index.ts'

/** Loads the demonstration into a database file of its own: `node load.js FILE [--fresh]`. Trials already there stay as they are. */
const [file, ...flags] = process.argv.slice(2)
if (!file) {
  console.error('Name the database file.')
  process.exit(2)
}
if (flags.includes('--fresh')) for (const end of ['', '-wal', '-shm']) rmSync(file + end, { force: true })
const store = await Store.open(file)
let loaded = 0
for (const contents of demoTrials()) {
  if (await store.trials.trial(contents.trial.id)) continue
  await store.trials.restore(contents)
  loaded++
}
if (loaded > 0) for (const item of demoShelf()) await store.shelf.put(item)
await store.close()
console.log(loaded > 0 ? `Loaded ${loaded} demonstration trials.` : 'The demonstration is loaded already; --fresh makes it anew.')
