import { parseArgs } from 'node:util'
import { counted } from '@canter/core/quantity'
import { backUp, putBack } from '@canter/server/store/backup'
import { UsageError } from './usage-error.ts'

export async function backupCommand(args: readonly string[]): Promise<string> {
  const [file, copy] = two(args, 'canter backup DATABASE COPY')
  return `Copied to ${copy}: ${inWords(await backUp(file, copy))}. The copy was opened and counted.\n`
}

export async function restoreCommand(args: readonly string[]): Promise<string> {
  const [copy, file] = two(args, 'canter restore COPY DATABASE')
  const { kept, ...held } = await putBack(copy, file)
  return `${file} now holds ${inWords(held)}.${kept ? ` What stood there is kept as ${kept}.` : ''} Browsers send again what they hold and it lacks.\n`
}

function inWords({ trials, records }: { trials: number; records: number }): string {
  return `${counted(trials, 'trial')}, ${counted(records, 'record')}`
}

function two(args: readonly string[], usage: string): [string, string] {
  const { positionals } = parseArgs({ args: [...args], allowPositionals: true })
  if (positionals.length !== 2) throw new UsageError(`Name two files: ${usage}`)
  return [positionals[0]!, positionals[1]!]
}
