import { edgesOf, edgesOver, extentOf, harvestedArea, plotArea, runsOf } from '@canter/core/ground'
import { counted, formatQuantity, plural, workingLine } from '@canter/core/quantity'
import { defaultAcross, type Site, type Unit } from '@canter/core/trial'
import { Switch } from '@mantine/core'
import { useMemo } from 'react'
import { usePerson } from '../data/queries.ts'
import { CountField } from './count-field.tsx'
import { QuantityField } from './quantity-field.tsx'
import type { Commit } from './use-commit.ts'

type Length =
  'plotWidth' | 'plotLength' | 'harvestWidth' | 'harvestLength' | 'plotGap' | 'rowAlley' | 'groupGap' | 'blockAlley' | 'pathWidth'

interface Field {
  readonly field: Length
  readonly label: string
  readonly low: number
  readonly high: number
}

/** Measures of units, of what is harvested, of what lies between, and of what is grown around. */
export function SizesSheet({
  site,
  units,
  change,
}: {
  site: Site
  units: readonly Unit[]
  change: Commit<Readonly<Record<string, unknown>>>
}) {
  const { units: system } = usePerson()
  const { ground, design } = site
  const runs = useMemo(() => runsOf(units), [units])
  const edges = useMemo(() => edgesOf(units, ground), [ground, units])
  const extent = extentOf(units, ground.border, edges)
  const has = (kind: Unit['kind']): boolean => units.some((unit) => unit.kind === kind)
  const name = design.unit.charAt(0).toUpperCase() + design.unit.slice(1)
  const { rows, machine = null, stretches } = ground
  const setLength = (field: Length, value: number) => {
    const patch: Record<string, unknown> = { [`ground.${field}`]: value }
    // A narrower plot takes its harvested strip with it.
    if (field === 'plotWidth' && ground.harvestWidth > value) patch['ground.harvestWidth'] = value
    if (field === 'plotLength' && ground.harvestLength > value) patch['ground.harvestLength'] = value
    if (field === 'plotWidth' && rows) patch['ground.rows'] = { ...rows, spacing: value / rows.count }
    if (field === 'plotWidth' && machine) patch['ground.machine'] = { ...machine, width: value / machine.passes }
    return change(patch)
  }
  const setRows = (next: NonNullable<typeof rows> | null) => {
    if (next === null) return change({ 'ground.rows': null, 'ground.stretches': null })
    const width = Number((next.count * next.spacing).toPrecision(12))
    return change({
      'ground.rows': next,
      'ground.machine': null,
      'ground.plotWidth': width,
      'ground.harvestWidth': Math.min(ground.harvestWidth, width),
    })
  }
  const setMachine = (next: NonNullable<typeof machine> | null) => {
    if (!next) return change({ 'ground.machine': null })
    const width = Number((next.passes * next.width).toPrecision(12))
    return change({
      'ground.machine': next,
      'ground.rows': null,
      'ground.stretches': null,
      'ground.plotWidth': width,
      'ground.harvestWidth': Math.min(ground.harvestWidth, width),
    })
  }
  const lengths = (fields: readonly Field[]) =>
    fields.map(({ field, label, low, high }) => (
      <QuantityField
        key={field}
        label={label}
        value={ground[field]}
        unit="m"
        low={low}
        high={high}
        onCommit={(value) => (value === null ? undefined : setLength(field, value))}
      />
    ))
  const metres = (value: number): string => formatQuantity(value, 'm', system)
  const guards = edges.filter((edge) => edge.kind === 'guard').length
  const over = useMemo(() => edgesOver(units, edges), [edges, units])
  const perRow = rows?.plants ? Math.floor(ground.plotLength / rows.plants + 1e-9) : null
  const harvestedRows = rows ? Math.round(ground.harvestWidth / rows.spacing) : 0
  return (
    <>
      <div className="fields">
        {rows ? (
          <>
            <CountField
              label={`Rows in a ${design.unit}`}
              value={rows.count}
              low={1}
              high={500}
              onCommit={(count) => (count === null ? undefined : setRows({ ...rows, count }))}
            />
            <QuantityField
              label="Row spacing"
              value={rows.spacing}
              unit="m"
              low={0.01}
              high={50}
              onCommit={(spacing) => (spacing === null ? undefined : setRows({ ...rows, spacing }))}
            />
            <QuantityField
              label="Plants in the row"
              description="from one to the next"
              value={rows.plants}
              unit="m"
              low={0.005}
              high={50}
              optional
              onCommit={(plants) => change({ 'ground.rows': { ...rows, plants } })}
            />
          </>
        ) : machine ? (
          <>
            <QuantityField
              label="Machine width"
              value={machine.width}
              unit="m"
              low={0.1}
              high={60}
              onCommit={(width) => (width === null ? undefined : setMachine({ ...machine, width }))}
            />
            <CountField
              label={`Passes in a ${design.unit}`}
              value={machine.passes}
              low={1}
              high={20}
              onCommit={(passes) => (passes === null ? undefined : setMachine({ ...machine, passes }))}
            />
          </>
        ) : (
          lengths([{ field: 'plotWidth', label: `${name} width`, low: 0.02, high: 200 }])
        )}
        {lengths([{ field: 'plotLength', label: `${name} length`, low: 0.02, high: 1000 }])}
        {rows && stretches ? (
          <>
            <CountField
              label="Stretches cut"
              value={stretches.count}
              low={1}
              high={100}
              onCommit={(count) => (count === null ? undefined : change({ 'ground.stretches': { ...stretches, count } }))}
            />
            <QuantityField
              label="Length of each"
              value={stretches.length}
              unit="m"
              low={0.02}
              high={1000}
              onCommit={(length) => (length === null ? undefined : change({ 'ground.stretches': { ...stretches, length } }))}
            />
          </>
        ) : (
          <>
            {rows && Math.abs(harvestedRows * rows.spacing - ground.harvestWidth) < 1e-6 ? (
              <CountField
                label="Rows harvested"
                value={harvestedRows}
                low={1}
                high={rows.count}
                onCommit={(count) =>
                  count === null ? undefined : change({ 'ground.harvestWidth': Number((count * rows.spacing).toPrecision(12)) })
                }
              />
            ) : (
              lengths([{ field: 'harvestWidth', label: 'Harvested width', low: 0.02, high: 200 }])
            )}
            {lengths([{ field: 'harvestLength', label: 'Harvested length', low: 0.02, high: 1000 }])}
          </>
        )}
        {lengths([
          { field: 'plotGap', label: `Gap between ${plural(design.unit)}`, low: 0, high: 50 },
          { field: 'rowAlley', label: 'Alley between rows', low: 0, high: 50 },
          ...(has('main plot') ? [{ field: 'groupGap' as const, label: 'Gap between main plots', low: 0, high: 100 }] : []),
          ...(has('block') ? [{ field: 'blockAlley' as const, label: 'Alley between blocks', low: 0, high: 100 }] : []),
        ])}
        {runs.map(({ kind, within, count }) => (
          <CountField
            key={kind}
            label={`${capital(plural(kind))} side by side`}
            value={Math.min(count, ground.across[kind] ?? defaultAcross(kind, within, count))}
            low={1}
            high={500}
            onCommit={(value) => (value === null ? undefined : change({ 'ground.across': { ...ground.across, [kind]: value } }))}
          />
        ))}
        <Switch
          label="Plots lie to and fro"
          checked={ground.serpentine}
          onChange={(event) => void change({ 'ground.serpentine': event.currentTarget.checked })}
          className="half"
        />
      </div>
      <details>
        <summary className="small">Crop rows, the machine, paths, guards{design.unit === 'pot' ? ' and pots' : ''}</summary>
        <div className="fields">
          <Switch
            className="half"
            label="Width counted in crop rows"
            checked={rows !== null}
            onChange={(event) => void setRows(event.currentTarget.checked ? rowsLike(ground.plotWidth) : null)}
          />
          <Switch
            className="half"
            label="As wide as the machine, or passes of it"
            checked={machine !== null}
            onChange={(event) => void setMachine(event.currentTarget.checked ? { width: ground.plotWidth, passes: 1 } : null)}
          />
          {rows && (
            <Switch
              className="half"
              label="Harvested by hand, in stretches of row"
              checked={stretches !== null}
              onChange={(event) =>
                void change({
                  'ground.stretches': event.currentTarget.checked ? { count: 2, length: Math.min(2, ground.plotLength) } : null,
                })
              }
            />
          )}
          <CountField
            label={`${capital(plural(design.unit))} between paths`}
            value={ground.pathEvery === 0 ? null : ground.pathEvery}
            low={1}
            high={500}
            optional
            placeholder="no paths"
            onCommit={(value) =>
              change({ 'ground.pathEvery': value ?? 0, ...(value && ground.pathWidth === 0 ? { 'ground.pathWidth': 0.5 } : {}) })
            }
          />
          {ground.pathEvery > 0 && lengths([{ field: 'pathWidth', label: 'Width of a path', low: 0, high: 50 }])}
          <CountField
            label="Guards at each end of a row"
            value={ground.guardPlots}
            low={0}
            high={10}
            onCommit={(value) => change({ 'ground.guardPlots': value ?? 0 })}
          />
          <CountField
            label="Guard rows before and behind"
            value={ground.guardRows}
            low={0}
            high={10}
            onCommit={(value) => change({ 'ground.guardRows': value ?? 0 })}
          />
          <Switch
            label="Fillers in empty places"
            checked={ground.fillers}
            onChange={(event) => void change({ 'ground.fillers': event.currentTarget.checked })}
          />
          {(design.unit === 'pot' || ground.round || ground.offset) && (
            <>
              <Switch
                label="Round"
                checked={ground.round}
                onChange={(event) => void change({ 'ground.round': event.currentTarget.checked })}
              />
              <Switch
                label="Every second row set half a place aside"
                checked={ground.offset}
                onChange={(event) => void change({ 'ground.offset': event.currentTarget.checked })}
              />
            </>
          )}
        </div>
      </details>
      {over.length > 0 && (
        <p className="caution small">
          {counted(over.length, 'guard plot')} {over.length === 1 ? 'lies' : 'lie'} over other plots: set the blocks further apart, or take
          fewer guards.
        </p>
      )}
      <p className="small quiet">
        {units.length > 0 && (
          <>
            The whole site takes {metres(extent.width)} × {metres(extent.length)}.{' '}
          </>
        )}
        {(rows ?? machine) && (
          <>
            Each {design.unit} is {metres(ground.plotWidth)} wide.{' '}
          </>
        )}
        {rows && perRow !== null && perRow > 0 && (
          <>
            {counted(perRow, 'plant')} in a row, {counted(perRow * rows.count, 'plant')} in a {design.unit}.{' '}
          </>
        )}
        {guards > 0 && <>{counted(guards, 'guard plot')} to be sown. </>}
        {edges.length > guards && <>{counted(edges.length - guards, 'filler')} to be sown. </>}
        Treated: {workingLine(plotArea(ground), system)}. Harvested: {workingLine(harvestedArea(ground), system)}.
      </p>
    </>
  )
}

/** As many rows as a width is likely to hold. */
function rowsLike(width: number): { count: number; spacing: number; plants: null } {
  const count = Math.max(1, Math.round(width / 0.45))
  return { count, spacing: width / count, plants: null }
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
