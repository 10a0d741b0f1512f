import { analyseCommand } from './analyse.ts'
import { analyseTableCommand } from './analyse-table.ts'
import { checkTableCommand } from './check-table.ts'
import { namesTable } from './table-arguments.ts'
import { UsageError } from './usage-error.ts'

const HELP = `canter: trials from files

  canter analyse PACKAGE.zip [--trait KEY] [--json]
      Analyse a trait of an exported trial package; the response that
      matters when none is named. --json prints the whole result.

  canter analyse --data plots.csv --plan plan.json --trait COLUMN
                 [--options options.json] [--json]
      Analyse a table. The plan says what was applied to which kind of
      unit, and which columns name them (docs/plan-file.md); the model
      follows from it. Options: significance, method, tests, protect
      (docs/result-file.md).

  canter check --data plots.csv --plan plan.json --trait COLUMN
      Tell what is odd in a table before it is believed.

  For example, four blocks of six plots, one variety on each:
      {"canterPlan": 1,
       "structure": {"schema": 1,
         "kinds": [{"kind": "block", "in": []}, {"kind": "plot", "in": ["block"]}],
         "factors": [{"factor": "variety", "appliedTo": "plot",
                      "within": "block", "how": "randomised"}],
         "controls": [], "seed": null, "occasions": []},
       "columns": {"units": {"block": ["block"]}, "factors": {"variety": "variety"}}}

  canter --help
      This text.

Exit code 0: done; 1: a file cannot be analysed; 2: the call is wrong.`

const [verb, ...rest] = process.argv.slice(2)
try {
  if (verb === 'analyse') process.stdout.write(namesTable(rest) ? analyseTableCommand(rest) : analyseCommand(rest))
  else if (verb === 'check') process.stdout.write(checkTableCommand(rest))
  else if (verb === undefined || verb === '--help' || verb === '-h') console.log(HELP)
  else throw new UsageError(`There is no “${verb}”. Known: analyse, check. See canter --help.`)
} catch (error) {
  console.error(`canter: ${error instanceof Error ? error.message : String(error)}`)
  process.exitCode = error instanceof UsageError ? 2 : 1
}
