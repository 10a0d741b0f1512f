import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { test as base } from '@playwright/test'

const root = fileURLToPath(new URL('..', import.meta.url))

async function freePort(): Promise<number> {
  const probe = createServer()
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve))
  const address = probe.address()
  await new Promise((resolve) => probe.close(resolve))
  return typeof address === 'object' && address ? address.port : 0
}

/** The real server over a database of its own, which can be killed and started again. */
export class Server {
  readonly port: number
  readonly folder: string
  #process: ChildProcess | null = null

  private constructor(port: number, folder: string) {
    this.port = port
    this.folder = folder
  }

  static async start(withDemo: boolean): Promise<Server> {
    const server = new Server(await freePort(), mkdtempSync(join(tmpdir(), 'canter-journey-')))
    if (withDemo) await finished(spawn(process.execPath, [join(root, 'demo/dist/load.js'), server.database], { stdio: 'ignore' }))
    await server.run()
    return server
  }

  get database(): string {
    return join(this.folder, 'journey.sqlite')
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  async run(): Promise<void> {
    const child = spawn(process.execPath, [join(root, 'server/dist/main.js')], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, PORT: String(this.port), CANTER_DATABASE: this.database },
    })
    this.#process = child
    await new Promise<void>((resolve, reject) => {
      child.stdout.once('data', () => resolve())
      child.once('exit', (code) => reject(new Error(`The server ended with ${code}`)))
    })
  }

  async kill(): Promise<void> {
    const child = this.#process
    this.#process = null
    if (!child) return
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill('SIGKILL')
    await gone
  }

  async end(): Promise<void> {
    await this.kill()
    rmSync(this.folder, { recursive: true, force: true })
  }
}

function finished(child: ChildProcess): Promise<void> {
  return new Promise((resolve, reject) => child.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`exit ${code}`)))))
}

/** Tests get an empty server or one with the demonstration, and pages that open on it. */
export const test = base.extend<{ empty: Server; demo: Server }>({
  empty: async ({ page: _ }, use) => {
    const server = await Server.start(false)
    await use(server)
    await server.end()
  },
  demo: async ({ page: _ }, use) => {
    const server = await Server.start(true)
    await use(server)
    await server.end()
  },
})

export { expect } from '@playwright/test'
