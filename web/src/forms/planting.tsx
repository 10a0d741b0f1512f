import type { Span, Unit } from '@canter/core/trial'
import { agesInWords, dayInWords, daysBetween, spanInWords } from '@canter/core/trial'
import { Button, Group } from '@mantine/core'
import { modals } from '@mantine/modals'
import dayjs from 'dayjs'
import { useState } from 'react'
import { makeOperation, makeRetraction } from '../data/make.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useSelection } from '../data/selection.ts'
import { keep } from '../data/sync.ts'
import { ExtraPlot } from './extra-plot.tsx'
import { Happened } from './happened.tsx'
import { WhenField, whenMeant } from './when-field.tsx'

/** The day a site is planted, and what its plots got instead of what was planned. */
export function Planting() {
  const { trial, site, layout, progress, fixed, units, visit } = useOpenTrial()
  const person = usePerson()
  const selection = useSelection()
  // The day where one stands, not that of another time zone.
  const [on, setOn] = useState(() => dayjs().format('YYYY-MM-DD'))
  const [meant, setMeant] = useState<Span | null>(null)
  const year = site.season ?? trial.question.season
  const read = whenMeant(on, meant, { year, known: [] })
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
          Planted <strong>{spanInWords({ from: planted.on, to: planted.until ?? planted.on })}</strong>. {planted.text}{' '}
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
          <WhenField label="Planted on" text={on} year={year} known={[]} onText={setOn} chosen={meant} onChosen={setMeant} />
          <Button
            variant="outline"
            disabled={!read.ok}
            onClick={() => {
              if (!read.ok) return
              const { from, to, typed } = read.span
              const range = from === to ? {} : { until: to }
              put(
                makeOperation(person.id, { kind: 'planted', siteKey: site.key, on: from, ...range, text: from === to ? '' : `“${typed}”` }),
              )
            }}
          >
            Mark as planted
          </Button>
          <span className="small quiet">From then on the plan of {site.name} is fixed.</span>
        </Group>
      )}
      {planted && visit.on !== null && visit.on >= planted.on && (
        <p className="small quiet" style={{ margin: '4px 0' }}>
          At “{visit.name}”, {dayInWords(visit.on)}:{' '}
          {agesInWords(daysBetween({ from: planted.on, to: planted.until ?? planted.on }, { from: visit.on, to: visit.on }))} after
          planting.
        </p>
      )}
      {problem && <p className="caution small">Not kept: {problem}</p>}
      {fixed &&
        (chosen ? (
          treatedFrom(chosen, units, new Set(layout.structure.factors.map((each) => each.appliedTo))).map((unit) => (
            <Happened key={unit.id} unit={unit} />
          ))
        ) : (
          <p className="small quiet">
            Was a plot lost, moved, replanted or given something else? Pick it on the plan to put that on record.
          </p>
        ))}
      {fixed && site.again === null && <ExtraPlot />}
    </section>
  )
}

/** The unit picked and those it lies in, as far as something was put on them. */
function treatedFrom(unit: Unit, units: ReadonlyMap<string, Unit>, applied: ReadonlySet<string>): Unit[] {
  const found = [unit]
  for (const id of unit.in) {
    const above = units.get(id)
    if (above) for (const each of treatedFrom(above, units, applied)) if (applied.has(each.kind) && !found.includes(each)) found.push(each)
  }
  return found
}
