import { layersOf, type Layer, type RowView } from '@canter/core/numbers'
import type { Unit } from '@canter/core/trial'
import { TextInput } from '@mantine/core'
import dayjs from 'dayjs'
import { useState } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'

/** What a piece of ground had got by a day, layer by layer. */
export function Layers({ unit, fates, operations }: { unit: Unit; fates: RowView['fates']; operations: RowView['operations'] }) {
  const { trial, layouts, events } = useOpenTrial()
  const [day, setDay] = useState(() => dayjs().format('YYYY-MM-DD'))
  const layers = layersOf({ trial, layouts, events, operations, fatesOf: () => fates }, unit.id, day)
  return (
    <div data-testid="layers" style={{ marginTop: 4 }}>
      <TextInput
        size="xs"
        type="date"
        label="What it had got by"
        value={day}
        onChange={(event) => setDay(event.currentTarget.value)}
        w={150}
      />
      <LayerList layers={layers} />
    </div>
  )
}

/** Layers as a list, the earliest first. */
export function LayerList({ layers }: { layers: readonly Layer[] }) {
  if (layers.length === 0) return <p className="small quiet">Nothing is on record by then.</p>
  return (
    <ol className="small" style={{ margin: '4px 0 0', paddingLeft: 18 }}>
      {layers.map(({ when, what }) => (
        <li key={`${when} ${what}`}>
          {what} <span className="quiet">{when}</span>
        </li>
      ))}
    </ol>
  )
}
