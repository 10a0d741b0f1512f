import type { Design } from './design.ts'
import { shuffled } from './random.ts'
import { searched } from './searched.ts'
import { commonProblems, inRowsAndColumns, marksFor, numberIn, UnitMaker } from './units.ts'

/**
 * Some rows of a Latin square: every treatment once in every row, and once at most in every
 * column (W. J. Youden, Contr. Boyce Thompson Inst. 9, 1937). The columns are searched so that
 * pairs meet in them as evenly as can be.
 */
export const incompleteLatinSquare: Design = {
  key: 'incomplete-latin-square',
  name: 'Incomplete Latin square',
  about:
    'Every treatment once in every row, and some in every column: a Latin square with fewer rows than treatments. For ground that changes two ways where a whole square is too much.',
  repeat: 'Rows',
  dealt: 'Every treatment once in each row, and in columns so that pairs meet evenly; rows, columns and treatments put in order by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [],
  searched: true,

  problems(question) {
    const t = question.treatments.list.length
    const r = question.choice.replicates
    const found = commonProblems(question, t * r)
    if (found.length > 0) return found
    if (t < 3) return ['With two treatments take blocks, or paired strips.']
    if (r >= t) return [`${r} rows for ${t} treatments are a whole square or more: take a Latin square.`]
    if (r < 2) return ['One row compares nothing across the columns: take at least 2 rows.']
    return (t - 1) * (r - 2) < 1 ? ['Two rows leave nothing to judge chance by: take 3 rows or more.'] : []
  },

  figures({ treatments: { list, factors }, choice }) {
    const [t, r] = [list.length, choice.replicates]
    return {
      units: t * r,
      times: list.map(() => r),
      errors: [{ unit: choice.unit, df: (t - 1) * (r - 2), factors: factors.map((each) => each.key) }],
      efficiency: null,
    }
  },

  deal(request) {
    const { treatments, choice, chance } = request
    const [t, r] = [treatments.list.length, choice.replicates]
    const [rows, columns] = [[...Array(r).keys()], [...Array(t).keys()]]
    // Cyclic to begin with, so that no column has a treatment twice.
    const order = shuffled(columns, chance)
    const start = rows.flatMap((row) => columns.map((column) => order[(column + row) % t]!))
    const cells = rows.flatMap((group) => columns.map((column) => ({ units: [column], group })))
    const found = searched(request, t, { cells, units: t, start })
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const [rowOrder, columnOrder] = [shuffled(rows, chance), shuffled(columns, chance)]
    const rowUnits = rows.map((row) => make.group('row', `row ${row + 1}`, [site], null))
    const columnUnits = columns.map((column) => make.group('column', `column ${column + 1}`, [site], null))
    for (const row of rows) {
      for (const column of columns) {
        const entry = found[rowOrder[row]! * t + columnOrder[column]!]!
        make.treated(
          numberIn(row + 1, column + 1, t),
          [rowUnits[row]!, columnUnits[column]!],
          { in: site.id, column, row },
          marks(treatments.list[entry]!),
        )
      }
    }
    return {
      structure: inRowsAndColumns(request, 'constrained'),
      units: make.units,
    }
  },
}
