import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { pino } from 'pino'
import { createApplication } from './application.ts'
import { StoreProblem } from './store/opening.ts'

/** Serves a database file with the built interface. PORT (4180) and CANTER_DATABASE choose where. */
const port = Number(process.env['PORT'] ?? 4180)
if (!Number.isInteger(port) || port < 0 || port > 65535) {
  console.error(`PORT must be a whole number up to 65535; it is “${process.env['PORT']}”.`)
  process.exit(2)
}
const database = process.env['CANTER_DATABASE'] ?? fileURLToPath(new URL('../../data/canter.sqlite', import.meta.url))
const web = fileURLToPath(new URL('../../web/dist', import.meta.url))
if (!existsSync(web)) {
  console.error('The interface is not built. Run: npm run demo, or npm start.')
  process.exit(2)
}

try {
  const application = await createApplication({
    database,
    web,
    checkReplies: false,
    log: pino({ level: process.env['LOG_LEVEL'] ?? 'warn' }),
  })
  const server = await application.listen(port)
  const address = server.address()
  console.log(`Canter is open at http://127.0.0.1:${typeof address === 'object' && address ? address.port : port}/`)
  const stop = (): void => void application.close().then(() => process.exit(0))
  process.on('SIGINT', stop)
  process.on('SIGTERM', stop)
} catch (error) {
  const code = (error as { code?: string }).code
  const words =
    error instanceof StoreProblem
      ? error.message
      : code === 'EADDRINUSE'
        ? `Port ${port} is taken. Choose another: PORT=4181 npm start`
        : code === 'EACCES'
          ? `Port ${port} is not allowed here. Choose one above 1024: PORT=4181 npm start`
          : null
  console.error(words ?? error)
  process.exit(1)
}
