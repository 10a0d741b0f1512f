import type { RowView } from '@canter/core/numbers'
import type { UnitSystem } from '@canter/core/quantity'
import type { DerivedTrait, Trait, Unit } from '@canter/core/trial'
import { createColumnHelper, flexRender, getCoreRowModel, getSortedRowModel, useReactTable, type SortingState } from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef, useState } from 'react'
import { resolvedText, traitMeasure } from '../plan/trait-text.ts'
import classes from './values-grid.module.css'

export interface FactorColumn {
  readonly key: string
  readonly name: string
  /** Code of the level a unit got, and its place among the levels. */
  readonly levelOf: (unit: string) => { readonly code: string; readonly place: number }
}

interface ValuesGridProps {
  /** In walking order. */
  readonly units: readonly Unit[]
  readonly codeOf: (unit: string) => string
  /** Of several factors each has a column, sorted in the order of its levels. */
  readonly factors: readonly FactorColumn[]
  readonly traits: readonly (Trait | DerivedTrait)[]
  readonly system: UnitSystem
  readonly selected: string | null
  readonly trait: string
  readonly kind: string
  /** Rows for the units in sight. */
  readonly rowsOf: (units: readonly string[]) => ReadonlyMap<string, RowView>
  readonly onPick: (unit: string, trait?: string) => void
  readonly onTrait: (trait: string) => void
}

const column = createColumnHelper<Unit>()

/** Every value of every unit; only the rows in sight are drawn and asked for. */
export function ValuesGrid(props: ValuesGridProps) {
  const { units, codeOf, factors, traits, system, selected, trait, kind, rowsOf, onPick, onTrait } = props
  const scroll = useRef<HTMLDivElement>(null)
  const [sorting, setSorting] = useState<SortingState>([])
  const columns = useMemo(
    () => [
      column.accessor('code', {
        id: 'unit',
        header: kind.charAt(0).toUpperCase() + kind.slice(1),
        sortingFn: (a, b) => a.original.walk! - b.original.walk!,
      }),
      column.accessor((unit) => codeOf(unit.id), { id: 'treatment', header: 'Treatment' }),
      ...factors.map(({ key, name, levelOf }) => column.accessor((unit) => levelOf(unit.id).place, { id: `factor ${key}`, header: name })),
    ],
    [codeOf, factors, kind],
  )
  const table = useReactTable({
    data: units as Unit[],
    columns,
    state: { sorting },
    onSortingChange: setSorting,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const { rows } = table.getRowModel()
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroll.current, estimateSize: () => 29, overscan: 12 })
  const items = virtual.getVirtualItems()
  const shown = rowsOf(items.map((item) => rows[item.index]!.original.id))
  const place = rows.findIndex((row) => row.original.id === selected)
  useEffect(() => {
    if (place >= 0) virtual.scrollToIndex(place, { align: 'auto' })
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another unit is picked: the table stays where a person has scrolled it
  }, [selected])
  const before = items[0]?.start ?? 0
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0)
  return (
    <div className={classes.scroll} tabIndex={0} role="region" aria-label={`Values of all ${kind}s`} ref={scroll}>
      <table className={`ruled ${classes.grid}`} data-testid="values" aria-rowcount={rows.length + 1}>
        <thead>
          <tr>
            {table.getFlatHeaders().map((header) => (
              <th
                key={header.id}
                aria-sort={
                  header.column.getIsSorted() === 'asc' ? 'ascending' : header.column.getIsSorted() === 'desc' ? 'descending' : 'none'
                }
              >
                <button type="button" className={classes.column} onClick={header.column.getToggleSortingHandler()}>
                  {flexRender(header.column.columnDef.header, header.getContext())}
                </button>
              </th>
            ))}
            {traits.map((each) => (
              <th key={each.key} className="number">
                <button
                  type="button"
                  className={classes.column}
                  data-chosen={each.key === trait}
                  onClick={() => onTrait(each.key)}
                  title={`Show ${each.name} on the plan`}
                >
                  {each.name}
                  <span className="quiet" style={{ whiteSpace: 'nowrap' }}>
                    {' '}
                    {traitMeasure(each, system)}
                  </span>
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {before > 0 && <tr style={{ height: before }} aria-hidden />}
          {items.map(({ index }) => {
            const unit = rows[index]!.original
            const row = shown.get(unit.id)
            return (
              <tr key={unit.id} data-chosen={unit.id === selected} aria-rowindex={index + 2}>
                <td>
                  <button type="button" className="link-button" onClick={() => onPick(unit.id)}>
                    {unit.code}
                  </button>
                </td>
                <td>{codeOf(unit.id)}</td>
                {factors.map((each) => (
                  <td key={each.key}>{each.levelOf(unit.id).code}</td>
                ))}
                {traits.map((each) => (
                  <Cell key={each.key} unit={unit} row={row} trait={each} system={system} onPick={() => onPick(unit.id, each.key)} />
                ))}
              </tr>
            )
          })}
          {after > 0 && <tr style={{ height: after }} aria-hidden />}
        </tbody>
      </table>
    </div>
  )
}

function Cell({
  unit,
  row,
  trait,
  system,
  onPick,
}: {
  unit: Unit
  row: RowView | undefined
  trait: Trait | DerivedTrait
  system: UnitSystem
  onPick: () => void
}) {
  const value = row?.values.get(trait.key)
  const out = row?.leftOut.has(trait.key) ?? false
  const text = resolvedText(value, trait, system)
  if (!value || value.kind === 'none' || value.kind === 'missing' || value.kind === 'conflict') {
    return (
      <td className={`number ${classes.blank}`} title={value?.kind === 'missing' ? value.reason : undefined}>
        {text}
      </td>
    )
  }
  return (
    <td className="number" data-out={out ? true : undefined}>
      <button
        type="button"
        className="figure-button"
        onClick={onPick}
        style={out ? { textDecoration: 'line-through' } : undefined}
        aria-label={`${trait.name} of ${unit.kind} ${unit.code}: ${text}${out ? ', left out' : ''}`}
      >
        {text}
        {value.kind === 'value' && value.outOfRange ? ' ?' : ''}
      </button>
    </td>
  )
}
