import type { PlacedRow } from './plots.ts'
import { layoutFrom } from './units.ts'
import { counted, formatPlain, plural } from '../../quantity/index.ts'
import { traitsFrom, type TraitColumn } from './traits.ts'
import { likelySlips, spellings, type Likely } from './spelling.ts'
import { NOTHING_THERE, numberOf, type RoleKey } from './roles.ts'
import { variedIn, type Varied } from './varied.ts'
import type { Asked, ImportSaid, OddRow } from './said.ts'
import type { Source } from './source-table.ts'
import { dayInWords, type Layout, type TrialDraft } from '../../trial/index.ts'
import { newTrialDraft } from '../../numbers/index.ts'

/** A table as it is understood, before anything of it is kept. */
export interface Understood {
  readonly draft: TrialDraft
  readonly layouts: readonly Layout[]
  /** Readings and notes still to be signed by somebody: unit, trait, visit and what was written. */
  readonly values: readonly {
    readonly unit: string
    readonly trait: string
    readonly visit: string
    readonly cell: string
    readonly sample: number
  }[]
  readonly leftOut: readonly { readonly unit: string; readonly text: string }[]
  readonly notes: readonly { readonly unit: string; readonly text: string }[]
  /** The structure in words, to be confirmed. */
  readonly sentences: readonly string[]
  readonly asked: readonly Asked[]
  readonly odd: readonly OddRow[]
  readonly likely: readonly Likely[]
  /** What keeps it from being taken over. */
  readonly problems: readonly string[]
}

/** A row that is a plot, spelled as it is to be read. */
interface Row {
  readonly line: number
  readonly cell: (role: RoleKey) => string
  readonly levels: readonly string[]
  readonly amounts: readonly (number | null)[]
  readonly treatment: string
  readonly cells: readonly string[]
}

/** Reads a table as a trial: which plots stand where, what was varied within what, what was measured. Nothing is kept by it. */
export function understand(source: Source, said: ImportSaid, newId: () => string): Understood {
  const at = (role: RoleKey): number => said.matched.findIndex((each) => each.role === role)
  const many = (role: RoleKey): number[] => said.matched.flatMap((each, c) => (each.role === role ? [c] : []))
  const problems: string[] = []
  const odd: OddRow[] = []
  const factorColumns = many('factor')
  if (factorColumns.length === 0 && at('treatment') === -1) problems.push('Say which column is the treatment, or what was varied.')
  if (factorColumns.length > 4) problems.push('At most four things are varied at once: say of the others that they are not taken over.')
  const spelled = spelledColumns(
    source,
    said,
    [...factorColumns, ...['treatment', 'planned', 'block', 'site'].map((role) => at(role as RoleKey))],
    odd,
  )
  const rows = plotRows(source, said, spelled, factorColumns, odd)
  if (problems.length === 0 && rows.length === 0) problems.push('No row has a treatment: is the right column matched?')
  const varied =
    problems.length === 0
      ? variedIn(
          factorColumns.map((c) => said.matched[c]!),
          rows,
        )
      : null
  if (varied && varied.treatments.list.length < 2) problems.push('All rows have the same treatment: there is nothing to compare.')
  if (!varied || problems.length > 0)
    return {
      ...NOTHING_UNDERSTOOD,
      draft: newTrialDraft(said.season),
      problems,
      odd,
      likely: likelyIn(source, said, factorColumns, spelled),
    }
  const visits = [...new Set(rows.map((row) => row.cell('visit')).filter(Boolean))]
  const columns = many('trait').map((column): TraitColumn => ({ column, ...said.matched[column]! }))
  const traits = traitsFrom(
    columns,
    rows.map((row) => ({ line: row.line, cells: row.cells })),
    visits,
    said.on,
    odd,
  )
  const built = layoutFrom(placedRows(rows, varied, odd), varied, said, newId)
  const sampled = {
    ...traits.traits,
    observed: traits.traits.observed.map((trait) => ({ ...trait, samples: Math.min(100, built.samples) })),
  }
  const draft = draftOf(said, varied, built, sampled)
  const values = rows.flatMap((row) => {
    const unit = built.unitOf(row.line)
    if (unit === undefined) return []
    const visit = traits.visitOf(row.cell('visit'))
    return traits.columns.flatMap(({ column, key }) => {
      const cell = row.cells[column]!
      return NOTHING_THERE.test(cell) || !traits.isValue(key, cell)
        ? []
        : [{ unit, trait: key, visit, cell, sample: built.sampleOf(row.line) }]
    })
  })
  const texts = (role: RoleKey) => [...new Map(rows.flatMap((row) => (row.cell(role) === '' || built.unitOf(row.line) === undefined ? [] : [[built.unitOf(row.line)!, row.cell(role)] as const])))].map(([unit, text]) => ({ unit, text })) // prettier-ignore
  odd.push(...built.odd)
  return {
    draft,
    layouts: built.layouts,
    values,
    leftOut: texts('left out'),
    notes: texts('note'),
    sentences: sentencesOf(
      built,
      varied,
      traits.columns.map(({ name, key }) => ({ name, values: values.filter((each) => each.trait === key).length })),
      said,
    ),
    asked: built.asked,
    odd: odd.sort((a, b) => a.line - b.line),
    likely: likelyIn(source, said, factorColumns, spelled),
    problems: built.problems,
  }
}

const NOTHING_UNDERSTOOD = { layouts: [], values: [], leftOut: [], notes: [], sentences: [], asked: [] } as const

type Spelled = ReadonlyMap<number, ReadonlyMap<string, string>>

function spelledColumns({ columns, rows }: Source, said: ImportSaid, wanted: readonly number[], odd: OddRow[]): Spelled {
  return new Map(
    wanted
      .filter((c) => c >= 0)
      .map((c) => {
        const cells = rows.map((row) => row.cells[c]!).filter((cell) => !NOTHING_THERE.test(cell))
        const own = spellings(cells, said.same[columns[c]!])
        for (const { line, cells: all } of rows) {
          const read = own.get(all[c]!)
          if (read !== undefined && read !== all[c])
            odd.push({ line, text: `“${all[c]}” in ${columns[c]} is read as “${read}”.`, effect: 'read as' })
        }
        return [c, own] as const
      }),
  )
}

function likelyIn({ columns, rows }: Source, { matched }: ImportSaid, factors: readonly number[], spelled: Spelled): Likely[] {
  const wanted = factors.length > 0 ? factors : [matched.findIndex((each) => each.role === 'treatment')]
  return wanted
    .filter((c) => c >= 0)
    .flatMap((c) =>
      likelySlips(
        columns[c]!,
        rows.flatMap((row) => (NOTHING_THERE.test(row.cells[c]!) ? [] : [spelled.get(c)?.get(row.cells[c]!) ?? row.cells[c]!])),
      ),
    )
}

function plotRows({ columns, rows }: Source, { matched }: ImportSaid, spelled: Spelled, factors: readonly number[], odd: OddRow[]): Row[] {
  const at = new Map(matched.map((each, c) => [each.role, c]))
  const amounts = factors.map((c) =>
    matched.findIndex((each, i) => each.role === 'amount' && (i === c + 1 || columns[i]!.startsWith(`${columns[c]!}_amount`))),
  )
  return rows.flatMap(({ line, cells }): Row[] => {
    const read = (c: number): string => {
      const own = cells[c] ?? ''
      return NOTHING_THERE.test(own) ? '' : (spelled.get(c)?.get(own) ?? own)
    }
    const cell = (role: RoleKey): string => (at.has(role) ? read(at.get(role)!) : '')
    // “none” and the like may be the name of a level: nothing is varied only where the cell is empty.
    const levels = factors.map((c) => (cells[c]!.trim() === '' ? '' : (spelled.get(c)?.get(cells[c]!) ?? cells[c]!)))
    const treatment = cell('treatment')
    if (levels.every((each) => each === '') && treatment === '') {
      odd.push({
        line,
        text: `No treatment stands there (${cells.filter(Boolean).slice(0, 4).join(', ')}): it is no plot of the trial.`,
        effect: 'left out',
      })
      return []
    }
    if (factors.length > 0 && levels.some((each) => each === '') && treatment === '') {
      odd.push({ line, text: `${columns[factors[levels.indexOf('')]!]} is empty: what it got is not known.`, effect: 'left out' })
      return []
    }
    return [{ line, cell, levels, amounts: amounts.map((c) => (c === -1 ? null : numberOf(cells[c]!))), treatment, cells }]
  })
}

function placedRows(rows: readonly Row[], varied: Varied, odd: OddRow[]): PlacedRow[] {
  const number = (row: Row, role: RoleKey): number | null => {
    const cell = row.cell(role)
    if (cell === '') return null
    const found = numberOf(cell)
    if (found === null) odd.push({ line: row.line, text: `“${cell}” is no number for ${role}.`, effect: 'missing' })
    return found
  }
  return rows.flatMap((row): PlacedRow[] => {
    const marks = varied.marks(row)
    if (!marks) return []
    const planned = row.cell('planned') === '' ? undefined : varied.called(row.cell('planned'))
    return [
      {
        line: row.line,
        site: row.cell('site'),
        visit: row.cell('visit'),
        kind: row.cell('kind'),
        code: row.cell('plot'),
        block: row.cell('block'),
        main: row.cell('main plot'),
        bench: row.cell('bench'),
        liesIn: row.cell('lies in'),
        row: number(row, 'row'),
        column: number(row, 'column'),
        x: number(row, 'x'),
        y: number(row, 'y'),
        width: number(row, 'width'),
        length: number(row, 'length'),
        turn: number(row, 'turn'),
        walk: number(row, 'walk'),
        marks,
        planned: planned
          ? (varied.marks({ levels: [], amounts: [], treatment: row.cell('planned') }) ?? marksOfCalled(varied, row.cell('planned')))
          : null,
      },
    ]
  })
}

function marksOfCalled(varied: Varied, name: string): Record<string, string> | null {
  const treatment = varied.called(name)
  return treatment
    ? {
        ...treatment.levels,
        ...(varied.treatments.factors.every((factor) => treatment.levels[factor.key] !== undefined) ? {} : { outside: treatment.key }),
      }
    : null
}

function draftOf(
  said: ImportSaid,
  { treatments }: Varied,
  { sites }: ReturnType<typeof layoutFrom>,
  traits: TrialDraft['traits'],
): TrialDraft {
  const draft = newTrialDraft(said.season)
  return {
    ...draft,
    question: { ...draft.question, title: said.title.trim() || 'Imported trial', crop: said.crop.trim() || 'not said' },
    treatments,
    traits,
    sites,
  }
}

function sentencesOf(
  { layouts, structureWords }: ReturnType<typeof layoutFrom>,
  { treatments }: Varied,
  measured: readonly { readonly name: string; readonly values: number }[],
  said: ImportSaid,
): string[] {
  const units = layouts.reduce((sum, layout) => sum + layout.units.filter((unit) => unit.walk !== null).length, 0)
  return [
    `${counted(units, said.kind)} at ${layouts.length === 1 ? 'one site' : `${layouts.length} sites`}, with ${counted(treatments.list.length, 'treatment')}.`,
    ...structureWords,
    measured.length === 0
      ? 'Nothing measured is taken over.'
      : `Measured${said.on ? ` on ${dayInWords(said.on)}` : ''}: ${measured.map(({ name, values }) => `${name} (${formatPlain(values)} ${plural('value', values)})`).join(', ')}.`,
  ]
}
