import type { Design, DesignQuestion, DesignSetting } from './design.ts'
import { shuffled } from './random.ts'
import { MOST_ENTRIES, once, searched } from './searched.ts'
import { commonProblems, countedSetting, inRowsAndColumns, marksFor, numberIn, oneError, UnitMaker } from './units.ts'

const ROWS: DesignSetting = {
  key: 'rows',
  name: 'Rows in a replicate',
  kind: 'count',
  about: 'Rows times columns is the number of treatments.',
  usual: ({ treatments: { list } }) => nearSquare(list.length),
  range: ({ treatments: { list } }) => [2, Math.max(2, Math.floor(list.length / 2))],
}

/**
 * Rows and columns in complete replicates (K. R. Nair and C. R. Rao, Science and Culture 7,
 * 1942; resolvable: J. A. John and E. R. Williams, Cyclic and Computer Generated Designs, 1995).
 * Searched for the highest average efficiency factor with rows and columns both taken out.
 */
export const rowColumn: Design = {
  key: 'row-column',
  name: 'Rows and columns in complete replicates',
  about:
    'Every treatment once in each replicate, each replicate a grid of rows and columns. For many entries on ground that changes both ways. Searched so that pairs meet evenly in rows and in columns.',
  repeat: 'Replicates',
  dealt:
    'Every treatment once in each replicate, rows and columns searched for the best comparisons; rows, columns and treatments put in order by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [ROWS],
  searched: true,

  problems(question) {
    const t = question.treatments.list.length
    const rows = countedSetting(question, ROWS)
    const found = commonProblems(question, t * question.choice.replicates)
    if (found.length > 0) return found
    if (t > MOST_ENTRIES) return [`At most ${MOST_ENTRIES} treatments; here are ${t}.`]
    if (question.choice.replicates < 2) return ['One replicate of rows and columns has nothing to judge chance by: take at least 2.']
    if (nearSquare(t) < 2 || t < 6) return [`${t} treatments make no grid of rows and columns: ${nearestGrids(t)}.`]
    if (!Number.isInteger(rows) || rows < 2 || t % rows !== 0 || t / rows < 2) {
      const possible = dividers(t).join(', ')
      return [`${rows} rows do not make a grid of ${t}: take ${possible} rows.`]
    }
    return errorDf(question) < 0 ? ['Too few replicates for rows and columns both: take one more, or small blocks.'] : []
  },

  figures: (question) =>
    oneError(
      question,
      question.treatments.list.map(() => question.choice.replicates),
      errorDf(question),
      null,
    ),

  deal(request) {
    const { treatments, choice, chance } = request
    const t = treatments.list.length
    const [rows, columns] = gridOf(request)
    const replicates = [...Array(choice.replicates).keys()]
    const each = rows + columns
    const cells = replicates.flatMap((group) =>
      Array.from({ length: t }, (_, i) => ({
        units: [group * each + Math.floor(i / columns), group * each + rows + (i % columns)],
        group,
      })),
    )
    const start = replicates.flatMap(() => once(t, request))
    const found = searched(request, t, { cells, units: each * choice.replicates, start })
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    for (const r of replicates) {
      const block = make.group('block', String(r + 1), [site], { in: site.id, column: r, row: null })
      const rowUnits = Array.from({ length: rows }, (_, row) => make.group('row', `${r + 1} row ${row + 1}`, [block], null))
      const columnUnits = Array.from({ length: columns }, (_, column) => make.group('column', `${r + 1} col ${column + 1}`, [block], null))
      const [rowOrder, columnOrder] = [shuffled([...rowUnits.keys()], chance), shuffled([...columnUnits.keys()], chance)]
      for (const row of rowUnits.keys()) {
        for (const column of columnUnits.keys()) {
          const entry = found[r * t + rowOrder[row]! * columns + columnOrder[column]!]!
          make.treated(
            numberIn(r + 1, row * columns + column + 1, t),
            [rowUnits[row]!, columnUnits[column]!],
            { in: block.id, column, row },
            marks(treatments.list[entry]!),
          )
        }
      }
    }
    return {
      structure: inRowsAndColumns(request, 'constrained', true),
      units: make.units,
    }
  },
}

function gridOf(question: DesignQuestion): [number, number] {
  const rows = countedSetting(question, ROWS)
  return [rows, question.treatments.list.length / rows]
}

function errorDf(question: DesignQuestion): number {
  const [t, r] = [question.treatments.list.length, question.choice.replicates]
  const [rows, columns] = gridOf(question)
  return r * t - r - r * (rows - 1) - r * (columns - 1) - (t - 1)
}

function dividers(n: number): number[] {
  return Array.from({ length: Math.max(0, Math.floor(n / 2) - 1) }, (_, i) => i + 2).filter((each) => n % each === 0)
}

/** The divider nearest below the root; 1 where there is none. */
function nearSquare(n: number): number {
  for (let each = Math.floor(Math.sqrt(n)); each > 1; each--) if (n % each === 0) return each
  return 1
}

function nearestGrids(t: number): string {
  const near = [t - 2, t - 1, t + 1, t + 2].filter((each) => each >= 6 && nearSquare(each) > 1)
  return near.length > 0 ? `take ${near.join(' or ')}, or small blocks` : 'take blocks'
}
