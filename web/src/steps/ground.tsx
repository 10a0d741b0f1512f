import { blockShape, harvestedArea, layoutProblems, plotArea, siteExtent } from '@canter/core/ground'
import { formatQuantity, workingLine } from '@canter/core/quantity'
import type { Ground } from '@canter/core/trial'
import { Button, Group, NumberInput, Switch, TextInput } from '@mantine/core'
import { modals } from '@mantine/modals'
import { notifications } from '@mantine/notifications'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { usePerson } from '../api/queries.ts'
import { useRandomise } from '../api/trial-file.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'
import { TreatmentChangeForm } from '../forms/treatment-change.tsx'
import { useOpenTrial } from '../pages/trial-context.ts'
import { useSaving } from '../pages/use-save.tsx'
import { keep } from '../records/sync.ts'
import { makeOperation, makeRetraction } from '../records/make.ts'

const LENGTHS: {
  field: 'plotWidth' | 'plotLength' | 'harvestWidth' | 'harvestLength' | 'plotGap' | 'rowAlley' | 'blockAlley' | 'border'
  label: string
  low: number
  high: number
}[] = [
  { field: 'plotWidth', label: 'Plot width', low: 0.05, high: 200 },
  { field: 'plotLength', label: 'Plot length', low: 0.05, high: 1000 },
  { field: 'harvestWidth', label: 'Harvested width', low: 0.05, high: 200 },
  { field: 'harvestLength', label: 'Harvested length', low: 0.05, high: 1000 },
  { field: 'plotGap', label: 'Gap between plots', low: 0, high: 50 },
  { field: 'rowAlley', label: 'Alley between rows', low: 0, high: 50 },
  { field: 'blockAlley', label: 'Alley between blocks', low: 0, high: 100 },
  { field: 'border', label: 'Border around', low: 0, high: 100 },
]

/** Sizes and places of the plots; chance that deals out the treatments; the day it is planted. */
export function GroundStep() {
  const { trial, fixed } = useOpenTrial()
  const { save } = useSaving()
  const { units } = usePerson()
  const site = trial.sites[0]!
  const ground = site.ground
  const change = (patch: Partial<Ground>): void => {
    const next = { ...ground, ...patch }
    // A narrower plot takes its harvested strip with it.
    next.harvestWidth = Math.min(next.harvestWidth, next.plotWidth)
    next.harvestLength = Math.min(next.harvestLength, next.plotLength)
    save({ sites: [{ ...site, ground: next }] })
  }
  const perBlock = trial.factors[0]!.levels.length
  const shape = blockShape(perBlock, ground)
  const extent = siteExtent(trial.replicates, perBlock, ground)
  const metres = (value: number): string => formatQuantity(value, 'm', units)
  return (
    <>
      <section className="section" aria-labelledby="site">
        <h2 className="section-title" id="site">
          The site
        </h2>
        <div className="fields">
          <CommitText
            className="half"
            label="Name"
            value={site.name}
            onCommit={(name) => save({ sites: [{ ...site, name }] })}
            check={(text) => (text === '' ? 'Name the site.' : null)}
          />
          <CommitText className="wide" label="Soil and slope" value={site.soil} onCommit={(soil) => save({ sites: [{ ...site, soil }] })} />
        </div>
      </section>
      <section className="section" aria-labelledby="plots">
        <h2 className="section-title" id="plots">
          Plots {fixed && <span className="small quiet">planted: a change needs a reason</span>}
        </h2>
        <div className="fields">
          {LENGTHS.map(({ field, label, low, high }) => (
            <QuantityField
              key={field}
              label={label}
              value={ground[field]}
              unit="m"
              low={low}
              high={high}
              onCommit={(value) => value !== null && change({ [field]: value })}
            />
          ))}
          <NumberInput
            label="Plots side by side in a block"
            value={ground.columnsPerBlock}
            min={1}
            max={200}
            allowDecimal={false}
            onChange={(value) =>
              typeof value === 'number' && value >= 1 && value !== ground.columnsPerBlock && change({ columnsPerBlock: value })
            }
          />
          <NumberInput
            label="Blocks side by side"
            value={ground.blocksAcross}
            min={1}
            max={50}
            allowDecimal={false}
            onChange={(value) =>
              typeof value === 'number' && value >= 1 && value !== ground.blocksAcross && change({ blocksAcross: value })
            }
          />
          <Switch
            label="Plot numbers run to and fro"
            checked={ground.serpentine}
            onChange={(event) => change({ serpentine: event.currentTarget.checked })}
            className="half"
          />
        </div>
        <p className="small quiet">
          Each block is {shape.columns} × {shape.rows} plots. The whole site takes {metres(extent.width)} × {metres(extent.length)}.
          Treated: {workingLine(plotArea(ground), units)}. Harvested: {workingLine(harvestedArea(ground), units)}.
        </p>
      </section>
      <Chance />
      <Planting />
      <History />
    </>
  )
}

/** The seed and the dealing out of treatments. */
function Chance() {
  const { trial, layout, fixed } = useOpenTrial()
  const { mutate, isPending } = useRandomise(trial.id)
  const [seed, setSeed] = useState<string>('')
  const [search, setSearch] = useSearchParams()
  const problems = layoutProblems(trial)
  const typed = seed.trim() === '' ? null : Number(seed)
  const wrong = typed !== null && (!Number.isInteger(typed) || typed < 0 || typed > 2147483647)
  const deal = (): void => {
    const chosen = typed ?? crypto.getRandomValues(new Uint32Array(1))[0]! % 1_000_000
    mutate(
      { seed: chosen, reason: '' },
      {
        onSuccess: () => {
          setSeed('')
          if (search.has('plot')) setSearch({}, { replace: true })
        },
        onError: (error) => notifications.show({ color: 'red', title: 'Not randomised', message: error.message }),
      },
    )
  }
  return (
    <section className="section" aria-labelledby="chance">
      <h2 className="section-title" id="chance">
        Randomisation
      </h2>
      <p style={{ margin: '0 0 6px' }}>
        {layout ? (
          <>
            Every treatment once in each block, dealt out by chance. Seed <strong data-testid="seed">{layout.structure.seed}</strong>: the
            same seed makes the same plan again.
          </>
        ) : (
          'Nothing is dealt out yet. Chance, not choice, decides which plot gets what; the seed is kept so that the plan can be made again.'
        )}
      </p>
      {fixed ? (
        <p className="small quiet">
          Locked since it is planted or measured. A single plot that got something else is corrected below, on record.
        </p>
      ) : (
        <Group align="end" gap="md">
          <TextInput
            label="Seed (empty: drawn by chance)"
            value={seed}
            inputMode="numeric"
            w={190}
            error={wrong ? 'A whole number from 0 to 2147483647.' : null}
            onChange={(event) => setSeed(event.currentTarget.value)}
          />
          <Button onClick={deal} loading={isPending} disabled={problems.length > 0 || wrong}>
            {layout ? 'Randomise again' : 'Randomise and lay out'}
          </Button>
        </Group>
      )}
      {problems.map((problem) => (
        <p key={problem} className="caution">
          {problem}
        </p>
      ))}
    </section>
  )
}

function Planting() {
  const { trial, layout, progress, fixed } = useOpenTrial()
  const person = usePerson()
  const [search] = useSearchParams()
  const [on, setOn] = useState(() => new Date().toISOString().slice(0, 10))
  const plot = layout?.units.find((unit) => unit.id === search.get('plot') && unit.walk !== null)
  if (!layout) return null
  return (
    <section className="section" aria-labelledby="planted">
      <h2 className="section-title" id="planted">
        On the ground
      </h2>
      {progress.planted ? (
        <p style={{ margin: 0 }}>
          Planted on <strong>{progress.planted.on}</strong>. {progress.planted.text}{' '}
          <button
            type="button"
            className="link-button small"
            onClick={() =>
              modals.openConfirmModal({
                title: 'Take back “planted”?',
                children:
                  progress.readings > 0
                    ? 'The plots have readings, so the plan stays locked all the same.'
                    : 'The plan can then be randomised again. The record of the marking stays.',
                labels: { confirm: 'Take it back', cancel: 'Leave it' },
                onConfirm: () => void keep(trial.id, makeRetraction(person.id, progress.planted!.id, 'Marked planted by mistake')),
              })
            }
          >
            Marked by mistake?
          </button>
        </p>
      ) : (
        <Group align="end">
          <TextInput type="date" label="Planted on" value={on} onChange={(event) => setOn(event.currentTarget.value)} />
          <Button
            variant="outline"
            disabled={!/^\d{4}-\d{2}-\d{2}$/.test(on)}
            onClick={() => void keep(trial.id, makeOperation(person.id, { kind: 'planted', siteKey: layout.siteKey, on, text: '' }))}
          >
            Mark as planted
          </Button>
          <span className="small quiet">From then on the plan is fixed.</span>
        </Group>
      )}
      {fixed &&
        (plot ? (
          <TreatmentChangeForm key={plot.id} unit={plot} />
        ) : (
          <p className="small quiet">Did a plot get something else than planned? Pick it on the plan to correct it on record.</p>
        ))}
    </section>
  )
}

function History() {
  const { events } = useOpenTrial()
  return (
    <section className="section" aria-labelledby="history">
      <h2 className="section-title" id="history">
        History
      </h2>
      <table className="ruled">
        <tbody>
          {[...events]
            .reverse()
            .slice(0, 12)
            .map((event) => (
              <tr key={event.id}>
                <td className="quiet" style={{ whiteSpace: 'nowrap', width: 130 }}>
                  {event.at.slice(0, 16).replace('T', ' ')}
                </td>
                <td>
                  {event.what}
                  {event.reason && <span className="quiet">: {event.reason}</span>}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
    </section>
  )
}
