import { createApplication } from '../src/application.ts'

/** A server in a process of its own, to be killed in the middle of its work. */
const application = await createApplication({ database: process.argv[2]! })
const address = (await application.listen(0)).address()
console.log(`http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`)
