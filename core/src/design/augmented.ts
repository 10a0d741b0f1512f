import type { Treatment } from '../trial/index.ts'
import { APART, ordersFor } from './constrained.ts'
import type { Design, DesignQuestion, DesignSetting } from './design.ts'
import { shuffled } from './random.ts'
import { evenSizes } from './searched.ts'
import { commonProblems, countedSetting, inBlocks, inRowsAndColumns, marksFor, numberIn, settingOf, UnitMaker } from './units.ts'

const WAYS: DesignSetting = {
  key: 'ways',
  name: 'Ground is taken out by',
  kind: 'choice',
  about: 'Rows and columns need checks in all of them.',
  usual: () => 'blocks',
  options: () => [
    { value: 'blocks', name: 'blocks' },
    { value: 'rows and columns', name: 'rows and columns' },
  ],
}

const COLUMNS: DesignSetting = {
  key: 'columns',
  name: 'Columns',
  kind: 'count',
  about: 'Used with rows and columns: the rows are the blocks.',
  usual: (question) => Math.ceil(unitsOf(question) / question.choice.replicates),
  range: (question) => [2, Math.max(2, unitsOf(question))],
}

/**
 * Augmented designs: checks in every block, and each new entry once (W. T. Federer, Biometrics
 * 17, 1961; rows and columns: W. T. Federer and D. Raghavarao, Biometrics 31, 1975).
 */
export const augmented: Design = {
  key: 'augmented',
  name: 'Checks among single entries',
  about:
    'Checks stand in every block, each new entry once in all. For hundreds of entries with seed for one plot each. Checks tell how good the ground is and give the error; entries are compared with it, not sharply.',
  repeat: 'Blocks',
  dealt: 'Checks in every block, each other entry once; places dealt out by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [WAYS, COLUMNS, APART],

  problems(question) {
    const { checks, entries } = sortsOf(question)
    const b = question.choice.replicates
    const found = commonProblems(question, unitsOf(question))
    if (found.length > 0) return found
    if (checks.length < 2)
      return ['Say which treatments are the checks: give at least two of them the role of a standard or an untreated control.']
    if (entries.length < 2) return ['Besides the checks there are fewer than two entries: take complete blocks.']
    if (b < 2) return ['Take at least 2 blocks, so that the checks are repeated.']
    if (entries.length < b) return [`${b} blocks for ${entries.length} entries: take at most ${entries.length}.`]
    if (settingOf(question, WAYS) !== 'rows and columns') return []
    const columns = countedSetting(question, COLUMNS)
    if (!Number.isInteger(columns) || columns < checks.length + 1) return [`Take at least ${checks.length + 1} columns.`]
    if (columns * b !== unitsOf(question)) {
      const fit = unitsOf(question) / b
      return [
        Number.isInteger(fit)
          ? `${b} rows of ${columns} are not the ${unitsOf(question)} units it takes: take ${fit} columns.`
          : `${entries.length} entries and ${checks.length} checks do not fill ${b} rows: take ${nearestEntries(question)} entries, or blocks.`,
      ]
    }
    return errorDf(question) < 1 ? ['The checks do not stand in enough rows and columns to judge both: take more rows, or blocks.'] : []
  },

  figures(question) {
    const { treatments, choice } = question
    const { checks } = sortsOf(question)
    return {
      units: unitsOf(question),
      times: treatments.list.map((each) => (checks.includes(each) ? choice.replicates : 1)),
      errors: [{ unit: choice.unit, df: errorDf(question), factors: treatments.factors.map((each) => each.key) }],
      efficiency: null,
    }
  },

  deal(request) {
    const { treatments, choice, chance } = request
    const { checks, entries } = sortsOf(request)
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const sizes = evenSizes(entries.length, choice.replicates)
    const order = shuffled(entries, chance)
    const share = (b: number): Treatment[] => order.splice(0, sizes[b])
    const twoWays = settingOf(request, WAYS) === 'rows and columns'
    const orders = ordersFor<Treatment>(request, [['block', sizes.length]], checks.length + Math.max(...sizes))
    if (!twoWays) {
      sizes.forEach((_, b) => {
        const block = make.group('block', String(b + 1), [site], { in: site.id, column: b, row: null })
        const members = orders.next([...checks, ...share(b)], b === 0)
        members.forEach((treatment, i) =>
          make.treated(numberIn(b + 1, i + 1, members.length), [block], { in: block.id, column: i, row: null }, marks(treatment)),
        )
      })
    } else {
      const columns = countedSetting(request, COLUMNS)
      const rowUnits = sizes.map((_, row) => make.group('row', `row ${row + 1}`, [site], null))
      const columnUnits = Array.from({ length: columns }, (_, column) => make.group('column', `column ${column + 1}`, [site], null))
      const columnOrder = shuffled([...columnUnits.keys()], chance)
      const checkOrder = shuffled(checks, chance)
      const rowOrder = shuffled([...rowUnits.keys()], chance)
      for (const row of rowUnits.keys()) {
        const at = new Map(checkOrder.map((check, c) => [columnOrder[checkPlace(rowOrder[row]!, c, checks.length, columns)]!, check]))
        for (const column of columnUnits.keys()) {
          make.treated(
            numberIn(row + 1, column + 1, columns),
            [rowUnits[row]!, columnUnits[column]!],
            { in: site.id, column, row },
            marks(at.get(column) ?? order.shift()!),
          )
        }
      }
    }
    return {
      structure: twoWays ? inRowsAndColumns(request, 'constrained') : inBlocks(request, orders.how),
      units: make.units,
    }
  },
}

/** Each check once a row; from row to row they move on by as many places as there are checks, so that all columns come to have some. */
function checkPlace(row: number, check: number, checks: number, columns: number): number {
  return (row * checks + check + Math.floor((row * checks + check) / columns)) % columns
}

/** Checks are those with a role; the rest are entries. */
function sortsOf({ treatments: { list } }: DesignQuestion): { checks: Treatment[]; entries: Treatment[] } {
  return { checks: list.filter((each) => each.role !== 'none'), entries: list.filter((each) => each.role === 'none') }
}

function unitsOf(question: DesignQuestion): number {
  const { checks, entries } = sortsOf(question)
  return checks.length * question.choice.replicates + entries.length
}

function errorDf(question: DesignQuestion): number {
  const { checks } = sortsOf(question)
  const b = question.choice.replicates
  const columns = settingOf(question, WAYS) === 'rows and columns' ? countedSetting(question, COLUMNS) - 1 : 0
  return (checks.length - 1) * (b - 1) - columns
}

function nearestEntries(question: DesignQuestion): string {
  const { entries } = sortsOf(question)
  const b = question.choice.replicates
  return [Math.floor(entries.length / b) * b, Math.ceil(entries.length / b) * b].filter((each) => each > 1).join(' or ')
}
