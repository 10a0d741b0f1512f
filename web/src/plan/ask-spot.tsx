import { spotAt, type Spot } from '@canter/core/ground'
import { siteLayersOf, type RowView } from '@canter/core/numbers'
import type { Operation, Point } from '@canter/core/trial'
import dayjs from 'dayjs'
import { useState } from 'react'
import { createPortal } from 'react-dom'
import { useSlice } from '../data/book.ts'
import type { Part } from '../data/book-worker.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { capital } from './colouring/index.ts'
import { Layers, LayerList } from './layers.tsx'
import { perMetre, placeAt, usePointer, type WorkProps } from './plan-pointer.ts'
import classes from './plan.module.css'

const BESIDE = {
  guard: 'A guard plot: grown on, and of no treatment.',
  filler: 'A filler: grown on, and of no treatment.',
  outside: 'Beyond the edge of the ground.',
  path: 'A path between plots: nothing of what is varied was put there.',
} as const

/** What any square metre got: of a plot all its layers, of what lies between what the whole ground got. */
export function AskSpot({ layer, units, site, top, below }: WorkProps & { readonly below: HTMLElement }) {
  const { trial, visit } = useOpenTrial()
  const [at, setAt] = useState<{ point: Point; spot: Spot } | null>(null)
  usePointer(layer, {
    onDown: (event) => {
      const point = placeAt(layer, top, event)
      setAt({ point, spot: spotAt(units, site.ground, point) })
    },
  })
  const spot = at?.spot
  const asked = spot?.kind === 'unit' ? spot.unit.id : null
  const rows = useSlice<Part<RowView>>(trial.id, asked ? `row ${asked} ${visit.key}` : null, (from) =>
    from.rows(trial.id, [asked!], visit.key, null),
  )
  const operations = useSlice<Operation[]>(trial.id, 'operations', (from) => from.operations(trial.id))
  const row = rows?.items[0]
  if (!at || !spot) return null
  const { point } = at
  return (
    <>
      <circle cx={point[0]} cy={top - point[1]} r={5 / perMetre(layer)} className={classes.handle} data-testid="asked-spot" />
      {createPortal(
        <div className={classes.asked} data-testid="spot">
          {spot.kind === 'unit' ? (
            <>
              <strong>
                {capital(spot.unit.kind)} {spot.unit.code}
              </strong>
              {row && <Layers key={spot.unit.id} unit={spot.unit} fates={row.fates} operations={row.operations} />}
            </>
          ) : (
            <>
              <p style={{ margin: 0 }}>{spot.kind === 'avoided' ? `Avoided: ${spot.name}.` : BESIDE[spot.kind]}</p>
              {operations && <Beside operations={operations} />}
            </>
          )}
        </div>,
        below,
      )}
    </>
  )
}

/** What the whole ground got, by today. */
function Beside({ operations }: { operations: readonly Operation[] }) {
  const { trial, site } = useOpenTrial()
  return <LayerList layers={siteLayersOf({ trial, operations }, site.key, dayjs().format('YYYY-MM-DD'))} />
}
