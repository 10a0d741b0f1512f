import { shown, formatPlain, withUnit } from '@canter/core/quantity'
import type { PlotRow } from '@canter/core/numbers'
import type { FieldRecord, Note, Reading, Trait } from '@canter/core/trial'
import { Button, SegmentedControl } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { IconArrowLeft, IconArrowRight, IconFlag } from '@tabler/icons-react'
import { useCallback, useEffect, useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { usePerson } from '../api/queries.ts'
import { FlagForm } from '../forms/flag-form.tsx'
import { ReadingField } from '../forms/reading-field.tsx'
import { useOpenTrial } from '../pages/trial-context.ts'
import { keep } from '../records/sync.ts'
import { makeReading, makeRetraction } from '../records/make.ts'
import { swatchFill, treatmentColours } from '../plan/colours.ts'
import classes from './walk.module.css'

const NO_ROWS: readonly PlotRow[] = []

/** Plot by plot in walking order, one hand, with or without a signal. */
export function WalkStep() {
  const { trial, layout, table, records } = useOpenTrial()
  const person = usePerson()
  const [search, setSearch] = useSearchParams()
  const only = search.get('only')
  const traits = only ? trial.traits.filter((trait) => trait.key === only) : trial.traits
  const rows = table?.rows ?? NO_ROWS
  const asked = rows.findIndex((row) => row.unit.id === search.get('plot'))
  const firstOpen = rows.findIndex((row) => traits.some((trait) => row.values.get(trait.key)?.kind === 'none'))
  const at = asked >= 0 ? asked : Math.max(0, firstOpen)
  const row = rows[at]
  const [flagging, setFlagging] = useState(false)
  const [held, setHeld] = useState(false)
  const mine = useRef<FieldRecord[]>([])
  const [last, setLast] = useState<FieldRecord | null>(null)

  const goTo = useCallback(
    (index: number) => {
      const to = rows[Math.min(rows.length - 1, Math.max(0, index))]
      if (!to) return
      setFlagging(false)
      setSearch(
        (before) => {
          const next = new URLSearchParams(before)
          next.set('plot', to.unit.id)
          return next
        },
        { replace: true },
      )
    },
    [rows, setSearch],
  )
  // The plot one stands on stays in the address, so that a reload finds it again.
  useEffect(() => {
    if (asked < 0 && row) goTo(at)
  }, [asked, at, goTo, row])

  const write = useCallback(
    async (record: FieldRecord) => {
      await keep(trial.id, record)
      mine.current.push(record)
      setLast(record)
    },
    [trial.id],
  )
  const takeBack = useCallback(async () => {
    const record = mine.current.pop()
    if (!record) return
    await keep(trial.id, makeRetraction(person.id, record.id, 'Undo'))
    setLast(mine.current.at(-1) ?? null)
  }, [person.id, trial.id])
  useHotkeys(
    [
      ['PageDown', () => goTo(at + 1)],
      ['PageUp', () => goTo(at - 1)],
      ['mod+Z', () => void takeBack()],
    ],
    [],
  )

  if (!layout || !row) {
    return (
      <div>
        <p className="sentence lead">There are no plots to walk yet.</p>
        <p>
          Lay the trial out under <Link to={`/trials/${trial.id}/ground`}>Ground</Link>; then the plots come here one after another, in the
          order one walks.
        </p>
      </div>
    )
  }
  const factor = trial.factors[0]!
  const level = factor.levels.find((each) => each.key === row.unit.received[factor.key])
  const colour = treatmentColours(factor).get(level?.key ?? '')
  const done = rows.filter((each) => traits.every((trait) => each.values.get(trait.key)?.kind !== 'none')).length
  return (
    <div className={classes.walk}>
      <div className={classes.top}>
        <SegmentedControl
          size="xs"
          aria-label="Traits to take"
          value={only ?? 'all'}
          onChange={(value) =>
            setSearch(
              (before) => {
                const next = new URLSearchParams(before)
                if (value === 'all') next.delete('only')
                else next.set('only', value)
                return next
              },
              { replace: true },
            )
          }
          data={[{ value: 'all', label: 'All traits' }, ...trial.traits.map((trait) => ({ value: trait.key, label: trait.code }))]}
        />
        <span className="small quiet" data-testid="walk-progress">
          {done} of {rows.length} plots done
        </span>
      </div>
      <div className={classes.place}>
        <Button variant="outline" className={classes.turn} aria-label="Last plot" disabled={at === 0 || held} onClick={() => goTo(at - 1)}>
          <IconArrowLeft />
        </Button>
        <div className={classes.here}>
          <div className={classes.code} data-testid="walk-plot">
            {row.unit.code}
          </div>
          <div>
            <span className="swatch" style={{ background: swatchFill(colour) }} />
            <span data-testid="walk-treatment">{level?.code}</span>
            <span className="quiet">
              {' '}
              · {at + 1} of {rows.length}
            </span>
          </div>
        </div>
        <Button
          variant="outline"
          className={classes.turn}
          aria-label="Next plot"
          disabled={at === rows.length - 1 || held}
          onClick={() => goTo(at + 1)}
        >
          <IconArrowRight />
        </Button>
      </div>
      <PlotForm
        key={`${row.unit.id} ${only ?? ''}`}
        row={row}
        traits={traits}
        occasion={layout.structure.occasions[0] ?? 'season'}
        person={person.id}
        onWrite={write}
        onHold={setHeld}
        onDone={() => (at < rows.length - 1 ? goTo(at + 1) : undefined)}
      />
      <Notes notes={row.notes} onTakeBack={(note) => void write(makeRetraction(person.id, note.id, 'Taken back'))} />
      {flagging ? (
        <FlagForm unit={row.unit.id} person={person.id} onClose={() => setFlagging(false)} onWrite={(record) => void write(record)} />
      ) : (
        <div className={classes.acts}>
          <Button variant="outline" className={classes.act} leftSection={<IconFlag size={18} />} onClick={() => setFlagging(true)}>
            Flag or note
          </Button>
          <Button variant="subtle" className={classes.act} disabled={!last} onClick={() => void takeBack()}>
            Take back last
          </Button>
        </div>
      )}
      <p className="small quiet">
        {records.waiting > 0 ? `${records.waiting} waiting on this device. ` : 'Everything is sent. '}
        Each value is kept on this device first; nothing is lost without a signal.
      </p>
      {records.refused.map((each) => (
        <p key={each.id} className="caution small">
          A record was not taken by the server: {each.problem} It is kept on this device.
        </p>
      ))}
    </div>
  )
}

interface PlotFormProps {
  readonly row: PlotRow
  readonly traits: readonly Trait[]
  readonly occasion: string
  readonly person: string
  readonly onWrite: (record: FieldRecord) => Promise<void>
  readonly onHold: (held: boolean) => void
  readonly onDone: () => void
}

/** The fields of one plot; Enter goes from field to field and on to the next plot. */
function PlotForm({ row, traits, occasion, person, onWrite, onHold, onDone }: PlotFormProps) {
  const { units } = usePerson()
  const form = useRef<HTMLDivElement>(null)
  const [asking, setAsking] = useState<ReadonlySet<string>>(new Set())
  useEffect(() => onHold(asking.size > 0), [asking, onHold])
  useEffect(() => () => onHold(false), [onHold])
  const focusFrom = useCallback((index: number): boolean => {
    const fields = form.current?.querySelectorAll<HTMLElement>('[data-entry]')
    const field = fields?.[index]
    field?.focus()
    if (field instanceof HTMLInputElement) field.select()
    return field !== undefined
  }, [])
  // Only when one comes to the plot, not with each value.
  const arrived = useRef(false)
  useEffect(() => {
    if (arrived.current) return
    arrived.current = true
    const first = traits.findIndex((trait) => row.values.get(trait.key)?.kind === 'none')
    // A phone would open its keyboard over the page; there the hand chooses.
    if (window.matchMedia('(min-width: 48em)').matches) focusFrom(Math.max(0, first))
  })
  return (
    <div ref={form} className={classes.fields}>
      {traits.map((trait, i) => {
        const value = row.values.get(trait.key)
        const own: readonly Reading[] = value?.kind === 'value' || value?.kind === 'conflict' ? value.readings : []
        return (
          <ReadingField
            key={trait.key}
            trait={trait}
            value={value ?? { kind: 'none' }}
            system={units}
            describe={(stored) => {
              const out = shown(stored, trait.unit, units)
              return withUnit(formatPlain(out.value, 5), out.unit)
            }}
            onAsking={(open) =>
              setAsking((before) => {
                const next = new Set(before)
                if (open) next.add(trait.key)
                else next.delete(trait.key)
                return next
              })
            }
            onNext={() => {
              if (!focusFrom(i + 1)) onDone()
            }}
            onValue={(typed, confirmed, missingReading) =>
              onWrite(
                makeReading(person, {
                  unit: row.unit.id,
                  trait: trait.key,
                  occasion,
                  value: typed,
                  supersedes: [...own.map((each) => each.id), ...(missingReading ? [missingReading] : [])],
                  confirmed,
                }),
              )
            }
            unit={row.unit.id}
          />
        )
      })}
    </div>
  )
}

function Notes({ notes, onTakeBack }: { notes: readonly Note[]; onTakeBack: (note: Note) => void }) {
  if (notes.length === 0) return null
  return (
    <ul className={classes.notes}>
      {notes.map((note) => (
        <li key={note.id}>
          <strong>{note.kind === 'left out' ? 'Left out' : (note.flag ?? 'Note')}</strong>: {note.text}{' '}
          <button type="button" className="link-button small" onClick={() => onTakeBack(note)}>
            Take back
          </button>
        </li>
      ))}
    </ul>
  )
}
