import { analyseCommand } from './analyse.ts'
import { UsageError } from './usage-error.ts'

const HELP = `canter: trials from files

  canter analyse PACKAGE.zip [--trait KEY] [--json]
      Analyse a trait of an exported trial package; the response that
      matters when none is named. --json prints the whole result.

  canter --help
      This text.

Exit code 0: done; 1: the file cannot be analysed; 2: the call is wrong.`

const [verb, ...rest] = process.argv.slice(2)
try {
  if (verb === 'analyse') process.stdout.write(analyseCommand(rest))
  else if (verb === undefined || verb === '--help' || verb === '-h') console.log(HELP)
  else throw new UsageError(`There is no “${verb}”. Known: analyse. See canter --help.`)
} catch (error) {
  console.error(`canter: ${error instanceof Error ? error.message : String(error)}`)
  process.exitCode = error instanceof UsageError ? 2 : 1
}
