import { traitsAt, type Field } from '@canter/core/numbers'
import { fateInWords, fateKind, HALF, type FieldRecord, type Note, type Trait, type Unit } from '@canter/core/trial'
import { Button, Modal, SegmentedControl, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useHotkeys } from '@mantine/hooks'
import { IconArrowLeft, IconArrowRight, IconFlag } from '@tabler/icons-react'
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import { Link } from 'react-router'
import { answersThere, showAnswers, useSlice } from '../data/book.ts'
import { makeReading, makeRetraction } from '../data/make.ts'
import { useOpenGround } from '../data/open-trial.ts'
import { useAddPerson, usePeople, usePerson } from '../data/queries.ts'
import { useRecordState } from '../data/record-state.ts'
import { useSelection } from '../data/selection.ts'
import { keep } from '../data/sync.ts'
import { FlagForm } from '../forms/flag-form.tsx'
import { Happened } from '../forms/happened.tsx'
import { RefusedRecords } from '../forms/refused-records.tsx'
import { ReadingField } from '../forms/reading-field.tsx'
import { useTypedAhead, type TypedAhead } from '../forms/typed-ahead.ts'
import { swatchFill, treatmentColours } from '@canter/core/ground'
import classes from './walk.module.css'

/** Stop by stop in walking order, one hand, with or without a signal. */
export function WalkStep() {
  const { trial, layout, site, visit, treatmentOf } = useOpenGround()
  const person = usePerson()
  const people = usePeople()
  const selection = useSelection()
  const only = selection.get('only')
  const other = people.find((each) => each.id === selection.get('observer'))
  const observer = other?.id ?? person.id
  const traits = useMemo(() => traitsAt(trial, visit.key), [trial, visit.key])
  const stops = useMemo(() => (layout?.units ?? []).filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!), [layout])
  const walked = useSlice(trial.id, layout ? `walk ${site.key} ${visit.key} ${only ?? ''}` : null, (from) =>
    from.walk(trial.id, site.key, visit.key, only),
  )
  // A stake names its plot: where halves are read one by one, the first of them.
  const plot = selection.get('plot')
  const there = stops.findIndex((unit) => unit.id === plot)
  const asked = there >= 0 || plot === null ? there : stops.findIndex((unit) => unit.kind === HALF && unit.in.includes(plot))
  const firstOpen = walked ? stops.findIndex((unit) => unit.id === walked.firstOpen) : -1
  const at = asked >= 0 ? asked : Math.max(0, firstOpen)
  const stop = walked === undefined && asked < 0 ? undefined : stops[at]
  const [flagging, setFlagging] = useState(false)
  const [held, setHeld] = useState(false)
  const [failed, setFailed] = useState<string | null>(null)
  const ahead = useTypedAhead()
  const mine = useRef<FieldRecord[]>([])
  const [last, setLast] = useState<FieldRecord | null>(null)

  const { set } = selection
  const goTo = useCallback(
    (index: number) => {
      const to = stops[Math.min(stops.length - 1, Math.max(0, index))]
      if (!to) return
      setFlagging(false)
      // The value just given and the next plot are drawn as one.
      flushSync(() => {
        showAnswers()
        set({ plot: to.id })
      })
    },
    [set, stops],
  )
  // The place as it is when a key or a button is pressed, so that these need not be drawn again with each plot.
  const here = useRef(at)
  useEffect(() => {
    here.current = at
  }, [at])
  const on = useCallback(() => goTo(here.current + 1), [goTo])
  const back = useCallback(() => goTo(here.current - 1), [goTo])
  const flag = useCallback(() => setFlagging(true), [])
  const observe = useCallback((next: string) => set({ observer: next }), [set])
  const take = useCallback((trait: string | null) => set({ only: trait }), [set])
  // The plot one stands on stays in the address, so that a reload finds it again.
  useEffect(() => {
    if (asked < 0 && stop) goTo(at)
  }, [asked, at, goTo, stop])

  const write = useCallback(
    async (record: FieldRecord) => {
      await keep(trial.id, record)
      await answersThere()
      mine.current.push(record)
      setLast(record)
    },
    [trial.id],
  )
  const attempt = useCallback((act: Promise<void>) => {
    act.then(
      () => setFailed(null),
      (error: unknown) => setFailed(error instanceof Error ? error.message : String(error)),
    )
  }, [])
  const takeBack = useCallback(() => {
    const record = mine.current.at(-1)
    if (!record) return
    attempt(
      keep(trial.id, makeRetraction(person.id, record.id, 'Undo')).then(() => {
        mine.current.pop()
        setLast(mine.current.at(-1) ?? null)
      }),
    )
  }, [attempt, person.id, trial.id])
  useHotkeys(
    [
      ['PageDown', () => goTo(at + 1)],
      ['PageUp', () => goTo(at - 1)],
      ['mod+Z', takeBack],
    ],
    [],
  )

  if (!layout) {
    return (
      <div>
        <p className="sentence lead">There are no plots to walk yet.</p>
        <p>
          Lay {trial.sites.length > 1 ? site.name : 'the trial'} out under{' '}
          <Link to={`/trials/${trial.id}/ground?site=${site.key}`}>Ground</Link>; then the plots come here one after another, in the order
          one walks: “203, N120: gross root weight 84.2 kg, Enter, dirt tare 7.5 %, Enter”, and on to the next plot.
        </p>
      </div>
    )
  }
  if (!stop) return <p className="quiet">One moment…</p>
  if (traits.length === 0) {
    return (
      <p className="sentence lead">
        Nothing is taken at this visit. Say under <Link to={`/trials/${trial.id}/question`}>Question</Link> what is measured, and when.
      </p>
    )
  }
  const treatment = treatmentOf(stop.id)
  const colour = treatmentColours(trial.treatments).get(treatment?.key ?? '')
  return (
    <div className={classes.walk}>
      <div className={classes.top}>
        <TraitsPicker traits={traits} only={only} onPick={take} />
        <span className="small quiet" data-testid="walk-progress">
          {walked ? `${walked.done} of ${walked.of} ${stop.kind}s done` : ''}
        </span>
      </div>
      <div className={classes.place}>
        <Turn way="Last plot" disabled={at === 0 || held} onTurn={back} />
        <div className={classes.here}>
          <div className={classes.code} data-testid="walk-plot">
            {stop.code}
          </div>
          <div>
            <span className="swatch" style={{ background: swatchFill(colour) }} />
            <span data-testid="walk-treatment">{treatment?.code}</span>
            <span className="quiet">
              {' '}
              · {at + 1} of {stops.length}
            </span>
          </div>
        </div>
        <Turn way="Next plot" disabled={at === stops.length - 1 || held} onTurn={on} />
      </div>
      <StopForm
        key={`${stop.id} ${visit.key} ${observer} ${only ?? ''}`}
        stop={stop}
        traits={traits}
        only={only}
        observer={observer}
        apart={other !== undefined}
        onWrite={write}
        onHold={setHeld}
        ahead={ahead}
        onDone={() => (at < stops.length - 1 ? goTo(at + 1) : ahead.drop())}
        onTakeBack={(note) => attempt(write(makeRetraction(person.id, note.id, 'Taken back')))}
      />
      {flagging ? (
        <>
          <FlagForm unit={stop.id} person={person.id} onClose={() => setFlagging(false)} onWrite={write} />
          <Happened key={stop.id} unit={stop} large />
        </>
      ) : (
        <Acts canTakeBack={last !== null} onFlag={flag} onTakeBack={takeBack} />
      )}
      {failed && (
        <p className="caution small" role="alert">
          Not kept: {failed}
        </p>
      )}
      <ObserverPicker observer={observer} onChange={observe} />
      <OnDevice />
    </div>
  )
}

const Turn = memo(function Turn({ way, disabled, onTurn }: { way: 'Last plot' | 'Next plot'; disabled: boolean; onTurn: () => void }) {
  return (
    <Button variant="outline" className={classes.turn} aria-label={way} disabled={disabled} onClick={onTurn}>
      {way === 'Last plot' ? <IconArrowLeft /> : <IconArrowRight />}
    </Button>
  )
})

interface ActsProps {
  readonly canTakeBack: boolean
  readonly onFlag: () => void
  readonly onTakeBack: () => void
}

const Acts = memo(function Acts({ canTakeBack, onFlag, onTakeBack }: ActsProps) {
  return (
    <div className={classes.acts}>
      <Button variant="outline" className={classes.act} leftSection={<IconFlag size={18} />} onClick={onFlag}>
        Flag, note or what happened
      </Button>
      <Button variant="subtle" className={classes.act} disabled={!canTakeBack} onClick={onTakeBack}>
        Take back last
      </Button>
    </div>
  )
})

interface TraitsPickerProps {
  readonly traits: readonly Trait[]
  readonly only: string | null
  readonly onPick: (trait: string | null) => void
}

const TraitsPicker = memo(function TraitsPicker({ traits, only, onPick }: TraitsPickerProps) {
  return (
    <SegmentedControl
      size="xs"
      aria-label="Traits to take"
      value={only ?? 'all'}
      onChange={(value) => onPick(value === 'all' ? null : value)}
      data={[{ value: 'all', label: 'All traits' }, ...traits.map((trait) => ({ value: trait.key, label: trait.code }))]}
    />
  )
})

/** What waits on this device, and what was not taken with the reason. */
const OnDevice = memo(function OnDevice() {
  const { trial } = useOpenGround()
  const { waiting, refused, online } = useRecordState(trial.id)
  return (
    <>
      <p className="small quiet">
        {waiting > 0
          ? `${waiting} waiting on this device. `
          : online
            ? refused.length > 0
              ? 'Everything else is sent. '
              : 'Everything is sent. '
            : 'No signal. '}
        Each value is kept on this device first; nothing is lost without a signal.
      </p>
      <RefusedRecords />
    </>
  )
})

interface StopFormProps {
  readonly stop: Unit
  readonly traits: readonly Trait[]
  readonly only: string | null
  readonly observer: string
  readonly apart: boolean
  readonly onWrite: (record: FieldRecord) => Promise<void>
  readonly onHold: (held: boolean) => void
  readonly ahead: TypedAhead
  readonly onDone: () => void
  readonly onTakeBack: (note: Note) => void
}

/** The fields of one stop; Enter goes from field to field and on to the next stop. */
function StopForm({ stop, traits, only, observer, apart, onWrite, onHold, ahead, onDone, onTakeBack }: StopFormProps) {
  const { trial, visit, units } = useOpenGround()
  const person = usePerson()
  const people = usePeople()
  const form = useRef<HTMLDivElement>(null)
  const [asking, setAsking] = useState<ReadonlySet<string>>(new Set())
  const shown = useSlice(trial.id, `stop ${stop.id} ${visit.key} ${only ?? ''}`, (from) => from.stop(trial.id, stop.id, visit.key, only))
  useEffect(() => onHold(asking.size > 0), [asking, onHold])
  useEffect(() => () => onHold(false), [onHold])
  const focusFrom = useCallback(
    (index: number): boolean => {
      const fields = form.current?.querySelectorAll<HTMLElement>('[data-entry]')
      const field = fields?.[index]
      field?.focus()
      if (field instanceof HTMLInputElement) field.select()
      if (field) ahead.release()
      return field !== undefined
    },
    [ahead],
  )
  // Only when one comes to the stop, not with each value; and once the stop is known.
  const arrived = useRef(false)
  useEffect(() => {
    if (arrived.current || !shown || shown.fields.length === 0) return
    arrived.current = true
    const first = shown.fields.findIndex((field) => field.readings.every((reading) => apart && reading.observer !== observer))
    // A phone would open its keyboard over the page; there the hand chooses.
    if (window.matchMedia('(min-width: 48em)').matches) focusFrom(Math.max(0, first))
    else ahead.drop()
  })
  if (!shown) return <div className={classes.fields} />
  const nameOf = (id: string): string => people.find((each) => each.id === id)?.name ?? 'somebody else'
  const gone = shown.fates.some((fate) => fateKind(fate.kind).compared === 'gone')
  return (
    <>
      {shown.fates.map((fate) => (
        <p key={fate.id} className="caution small">
          {fateInWords(fate, { factors: trial.treatments.factors, unit: (id) => units.get(id) })}.
        </p>
      ))}
      {gone && shown.fields.length === 0 && <p className="quiet">Nothing is read on it any more. Go on to the next.</p>}
      <div ref={form} className={classes.fields}>
        {shown.fields.map((field, i) => {
          const trait = traits.find((each) => each.key === field.trait)!
          const key = `${field.unit} ${field.trait} ${field.sample}`
          return (
            <ReadingField
              key={key}
              field={field}
              trait={trait}
              observer={observer}
              apart={apart}
              nameOf={nameOf}
              system={person.units}
              onAsking={(open) =>
                setAsking((before) => {
                  const next = new Set(before)
                  if (open) next.add(key)
                  else next.delete(key)
                  return next
                })
              }
              ahead={ahead}
              onNext={() => {
                if (!focusFrom(i + 1)) onDone()
              }}
              onValue={(value, confirmed, supersedes) =>
                onWrite(
                  makeReading(person.id, {
                    unit: field.unit,
                    trait: field.trait,
                    visit: visit.key,
                    sample: field.sample,
                    observer,
                    value,
                    supersedes: [...supersedes],
                    confirmed,
                  }),
                )
              }
            />
          )
        })}
      </div>
      <Notes notes={shown.notes} fields={shown.fields} onTakeBack={onTakeBack} />
    </>
  )
}

function Notes({ notes, fields, onTakeBack }: { notes: readonly Note[]; fields: readonly Field[]; onTakeBack: (note: Note) => void }) {
  if (notes.length === 0) return null
  const within = (note: Note): string => {
    const field = fields.find((each) => each.unit === note.unit && each.kind === 'plant')
    return field ? ` (plant ${field.code.split('.').at(-1)})` : ''
  }
  return (
    <ul className={classes.notes}>
      {notes.map((note) => (
        <li key={note.id}>
          <strong>{note.kind === 'left out' ? 'Left out' : (note.flag ?? 'Note')}</strong>
          {within(note)}: {note.text}{' '}
          <button type="button" className="link-button small" onClick={() => onTakeBack(note)}>
            Take back
          </button>
        </li>
      ))}
    </ul>
  )
}

const SOMEBODY_ELSE = 'somebody else'

/** Who looks: one name unless somebody else is added. */
const ObserverPicker = memo(function ObserverPicker({ observer, onChange }: { observer: string; onChange: (observer: string) => void }) {
  const people = usePeople()
  const { mutate, isPending } = useAddPerson()
  const [adding, setAdding] = useState(false)
  const form = useForm({
    initialValues: { name: '' },
    validate: { name: (value) => (value.trim() === '' ? 'Type a name.' : null) },
  })
  return (
    <>
      <Select
        label="Observed by"
        className={classes.observer}
        data={[...people.map((each) => ({ value: each.id, label: each.name })), { value: SOMEBODY_ELSE, label: 'Somebody else…' }]}
        value={observer}
        allowDeselect={false}
        onChange={(value) => (value === SOMEBODY_ELSE ? setAdding(true) : value && onChange(value))}
      />
      <Modal opened={adding} onClose={() => setAdding(false)} title="Who looks?" closeButtonProps={{ 'aria-label': 'Close' }}>
        <form
          onSubmit={form.onSubmit(({ name }) =>
            mutate(name.trim(), {
              onSuccess: ({ people: all }) => {
                const found = all.find((each) => each.name === name.trim())
                if (found) onChange(found.id)
                form.reset()
                setAdding(false)
              },
              onError: (error) => form.setFieldError('name', error.message),
            }),
          )}
        >
          <TextInput data-autofocus label="Name, as it stands in the records" maxLength={80} {...form.getInputProps('name')} />
          <Button type="submit" mt="md" loading={isPending}>
            Add
          </Button>
        </form>
      </Modal>
    </>
  )
})
