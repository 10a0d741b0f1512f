import { designs } from '@canter/core/design'
import { comparisonMethods, dateModels, groundModels } from '@canter/core/statistics'
import { amountsCommand } from './amounts.ts'
import { analyseCommand } from './analyse.ts'
import { analyseTableCommand } from './analyse-table.ts'
import { checkTableCommand } from './check-table.ts'
import { designCommand } from './design.ts'
import { backupCommand, restoreCommand } from './store-commands.ts'
import { namesTable } from './table-arguments.ts'
import { UsageError } from './usage-error.ts'

/** Words in lines that fit the page. */
function inLines(words: readonly string[]): string {
  return words
    .reduce<string[]>(
      (lines, each, i) => {
        const word = `${each}${i < words.length - 1 ? ',' : ''}`
        const last = lines.at(-1)!
        return `${last} ${word}`.length > 48 ? [...lines, word] : [...lines.slice(0, -1), `${last} ${word}`.trim()]
      },
      [''],
    )
    .join('\n                    ')
}

const methods = inLines(comparisonMethods.map(({ key, pairs }) => `${key}${pairs === 'control' ? ' (needs a control)' : ''}`))
const named = inLines(designs.map((each) => each.key))
const orBest = (models: readonly { key: string }[]): string => inLines([...models.map((each) => `"${each.key}"`), 'or "best"'])
const [dateKeys, groundKeys] = [orBest(dateModels), orBest(groundModels)]

const HELP = `canter: trials from files

  canter analyse PACKAGE.zip [--trait KEY] [--visit KEY] [--site KEY]
                 [--as-went-out] [--json]
      Analyse a trait of an exported trial package; the response that
      matters when none is named, at its last visit, on all sites.
      --as-went-out takes rates as they went out, where that is on
      record. --json prints the whole result.

  canter analyse --data plots.csv --plan plan.json --trait COLUMN
                 [--options options.json] [--json]
      Analyse a table. The plan says what was applied to which kind of
      unit, and which columns name them (docs/plan-file.md); the model
      follows from it. --json prints the whole result
      (docs/result-file.md).

  canter check --data plots.csv --plan plan.json --trait COLUMN [--json]
      Tell what is odd in a table before it is believed: slipped
      decimals, copied values, levels that may be one, far values,
      edges, and what the residuals say.

  For example, four blocks of six plots, one variety on each:
      {"canterPlan": 1,
       "structure": {"schema": 1,
         "kinds": [{"kind": "block", "in": []}, {"kind": "plot", "in": ["block"]}],
         "factors": [{"factor": "variety", "appliedTo": "plot",
                      "within": "block", "how": "randomised"}],
         "controls": [], "seed": null},
       "columns": {"units": {"block": ["block"]}, "factors": {"variety": "variety"}}}

  Options, all of them optional (docs/result-file.md):
      significance  0.05
      method        ${methods}
      side          of dunnett: two-sided, greater, less
      tests         I, II or III, of an unbalanced layout
      protect       true: pairs only after a significant F
      weights       equal or observed, in adjusted means
      fixed         kinds of unit taken out: ["main plot"]
      random        a sample of many: kinds of unit, factors, or their
                    crossings: ["site", "entry", "site:entry"]
      checks        levels of a random factor that keep their own mean:
                    {"entry": ["check1", "check2"]}
      errorBy       "site": an error variance for each
      dates         {"occasion": "date", "subject": "plot",
                    "covariance": ${dateKeys}}
      ground        ${groundKeys}
      df            kenward-roger or satterthwaite
      likelihood    REML or ML
      terms         [["variety"], ["nitrogen"]]: without interaction
      contrasts     [{"name": "early against late", "term": ["variety"],
                    "coefficients": {"a": 1, "b": 1, "c": -2}}]
      polynomials   ["nitrogen"]: linear, quadratic, ... parts
      equivalence   0.5: differences inside ± 0.5 count as none
      covariates    ["stand"], with "at" {"stand": 60} and
                    "slopes" common or separate
      scale         log, log10, log(y + 1), square root,
                    square root of (y + 1/2), arcsine, logit,
                    {"power": 0.33}

  canter design --request request.json --table plots.csv --plan plan.json
                [--seed N [--draw N]] [--json]
      Lay plots out by a design (docs/design-request.md). The table has
      a row a plot; with a column of what was measured it goes, with
      the plan, into canter analyse. Designs:
                    ${named}

  canter amounts FILE [--site KEY] [--units metric|us] [--json]
      What is to be weighed, poured, counted or run, with its working:
      of an exported trial package what goes on, pass by pass, what each
      treatment gets in all and the worksheets kept with it, or of a request.json (docs/amounts-request.md).

  canter amounts --list
      The calculations there are, and what each asks.

  canter backup DATABASE COPY
      A whole copy of a database file as it stands now, also while a
      server works on it; opened and counted before it gets its name.

  canter restore COPY DATABASE
      Put a backup in the place of a database whose server is stopped.
      What stood there is kept beside it; browsers send again what
      they hold and the backup lacks.

  canter --help
      This text.

Exit code 0: done; 1: a file cannot be analysed; 2: the call is wrong.`

/** What the reader of arguments says in its own words is said in ours. */
function inWords(error: unknown): string {
  const { code, message } = error as { code?: string; message?: string }
  const option = /'(--?[^ ']+)/.exec(message ?? '')?.[1]
  if (code?.startsWith('ERR_PARSE_ARGS'))
    return `${option ? `“${option}” is no option here, or lacks its value` : 'The call is not understood'}. See canter --help.`
  return message ?? String(error)
}

// Whoever reads only the head of it closes the pipe.
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1))

const [verb, ...rest] = process.argv.slice(2)
try {
  if (verb === undefined || [verb, ...rest].some((each) => each === '--help' || each === '-h')) console.log(HELP)
  else if (verb === 'analyse') process.stdout.write(namesTable(rest) ? analyseTableCommand(rest) : analyseCommand(rest))
  else if (verb === 'check') process.stdout.write(checkTableCommand(rest))
  else if (verb === 'amounts') process.stdout.write(amountsCommand(rest))
  else if (verb === 'design') process.stdout.write(designCommand(rest))
  else if (verb === 'backup') process.stdout.write(await backupCommand(rest))
  else if (verb === 'restore') process.stdout.write(await restoreCommand(rest))
  else throw new UsageError(`There is no “${verb}”. Known: analyse, check, design, backup, restore. See canter --help.`)
} catch (error) {
  console.error(`canter: ${inWords(error)}`)
  process.exitCode = error instanceof UsageError ? 2 : 1
}
