import type { Unit } from '@canter/core/trial'
import { Button, Group, TextInput } from '@mantine/core'
import { modals } from '@mantine/modals'
import dayjs from 'dayjs'
import { useState } from 'react'
import { makeOperation, makeRetraction } from '../data/make.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useSelection } from '../data/selection.ts'
import { keep } from '../data/sync.ts'
import { TreatmentChangeForm } from './treatment-change.tsx'

/** The day a site is planted, and what its plots got instead of what was planned. */
export function Planting() {
  const { trial, site, layout, progress, fixed, units } = useOpenTrial()
  const person = usePerson()
  const selection = useSelection()
  // The day where one stands, not that of another time zone.
  const [on, setOn] = useState(() => dayjs().format('YYYY-MM-DD'))
  const [problem, setProblem] = useState<string | null>(null)
  const chosen = units.get(selection.get('plot') ?? '')
  const planted = progress.planted.find((each) => each.siteKey === site.key)
  if (!layout) return null
  const put = (record: Parameters<typeof keep>[1]): void => {
    keep(trial.id, record).then(
      () => setProblem(null),
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    )
  }
  return (
    <section className="section" aria-labelledby="planted">
      <h2 className="section-title" id="planted">
        On the ground
      </h2>
      {planted ? (
        <p style={{ margin: 0 }}>
          Planted on <strong>{dayjs(planted.on).format('D MMMM YYYY')}</strong>. {planted.text}{' '}
          <button
            type="button"
            className="link-button small"
            onClick={() =>
              modals.openConfirmModal({
                title: 'Take back “planted”?',
                children:
                  (progress.sites[site.key]?.readings ?? 0) > 0
                    ? 'The plots have readings, so the plan stays locked all the same.'
                    : 'The plan can then be randomised again. The record of the marking stays.',
                labels: { confirm: 'Take it back', cancel: 'Leave it' },
                onConfirm: () => put(makeRetraction(person.id, planted.id, 'Marked planted by mistake')),
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
            onClick={() => put(makeOperation(person.id, { kind: 'planted', siteKey: site.key, on, text: '' }))}
          >
            Mark as planted
          </Button>
          <span className="small quiet">From then on the plan of {site.name} is fixed.</span>
        </Group>
      )}
      {problem && <p className="caution small">Not kept: {problem}</p>}
      {fixed &&
        (chosen ? (
          treatedFrom(chosen, units, new Set(layout.structure.factors.map((each) => each.appliedTo))).map((unit) => (
            <TreatmentChangeForm key={`${unit.id} ${JSON.stringify(unit.received)}`} unit={unit} />
          ))
        ) : (
          <p className="small quiet">Did a plot get something else than planned? Pick it on the plan to correct it on record.</p>
        ))}
    </section>
  )
}

/** The unit picked and those it lies in, as far as something was put on them. */
function treatedFrom(unit: Unit, units: ReadonlyMap<string, Unit>, applied: ReadonlySet<string>): Unit[] {
  const found = applied.has(unit.kind) ? [unit] : []
  for (const id of unit.in) {
    const above = units.get(id)
    if (above) for (const each of treatedFrom(above, units, applied)) if (!found.includes(each)) found.push(each)
  }
  return found
}
