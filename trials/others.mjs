// Two others beside a long request, one who reads and one who saves, on a thread of their own: what the asker itself does with its answer is no wait of theirs.
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads'
import { fileURLToPath } from 'node:url'
import { caller, pause, plotsOf, reading } from './kit.mjs'

/** Begins; the function given back ends it and tells the longest that a read and a save took, in ms. */
export function others(url, file) {
  const worker = new Worker(fileURLToPath(import.meta.url), { workerData: { url, file } })
  const begun = new Promise((resolve, reject) => worker.once('message', resolve).once('error', reject))
  return {
    begun,
    end: () =>
      new Promise((resolve, reject) => {
        worker.once('message', resolve).once('error', reject)
        worker.postMessage('end')
      }),
  }
}

if (!isMainThread) {
  const { url, file } = workerData
  const call = caller(url)
  const small = plotsOf(file)
  const longest = { read: 0, save: 0, faults: [] }
  let going = true
  const acts = {
    read: () => call('GET', '/api/person'),
    save: (i) => call('POST', `/api/trials/${file.trial.id}/records`, { records: [reading(file, small[i % small.length].id)] }),
  }
  const loops = Object.entries(acts).map(async ([what, act]) => {
    for (let i = 0; going; i++) {
      const began = performance.now()
      const { status, text } = await act(i)
      longest[what] = Math.max(longest[what], performance.now() - began)
      if (status >= 400 || status === 0) longest.faults.push(`${what}: ${status} ${text.slice(0, 100)}`)
      await pause(5)
    }
  })
  parentPort.once('message', async () => {
    going = false
    await Promise.all(loops)
    parentPort.postMessage(longest)
    parentPort.close()
  })
  setTimeout(() => parentPort.postMessage('begun'), 60)
}
