import { isOutside, type Field } from '@canter/core/numbers'
import { formatPlain, shown, shownUnit, withUnit, type UnitSystem } from '@canter/core/quantity'
import { readingInWords, traitKind, type Choice, type Reading, type ReadingValue, type Trait } from '@canter/core/trial'
import { Button, Menu } from '@mantine/core'
import { IconBan, IconCheck } from '@tabler/icons-react'
import dayjs from 'dayjs'
import { useEffect, useId, useRef, useState } from 'react'
import classes from './reading-field.module.css'
import type { TypedAhead } from './typed-ahead.ts'

interface ReadingFieldProps {
  readonly field: Field
  readonly trait: Trait
  readonly observer: string
  /** Somebody asked for the readings of this observer and of nobody else. */
  readonly apart: boolean
  readonly nameOf: (person: string) => string
  readonly system: UnitSystem
  /** Keeps a value; throws when the device could not. */
  readonly onValue: (value: ReadingValue, confirmed: boolean, supersedes: readonly string[]) => Promise<void>
  readonly onNext: () => void
  readonly ahead: TypedAhead
  /** Whether a question about an odd value is open. */
  readonly onAsking: (open: boolean) => void
}

const REASONS = ['Plot lost', 'Plant dead', 'Sample lost', 'Not taken', 'Cannot be read']

/** One thing to be read: typed or tapped, asked about when odd, kept with what it corrects. What could not be kept stays in the field, and says so. */
export function ReadingField(props: ReadingFieldProps) {
  const { field, trait, observer, apart, nameOf, system, onValue, onNext, ahead, onAsking } = props
  const [asked, setAsked] = useState<{ value: ReadingValue; number: number } | null>(null)
  const [failed, setFailed] = useState<string | null>(null)
  const id = useId()
  const kind = traitKind(trait.kind)
  const own = ownReadings(field.readings, observer, apart)
  const others = field.readings.filter((reading) => !own.includes(reading))
  const conflict = own.length > 1
  const standing = own.length === 1 ? own[0]! : null
  const name = fieldName(trait, field)
  const ask = (next: typeof asked): void => {
    setAsked(next)
    onAsking(next !== null)
  }
  const give = async (value: ReadingValue, confirmed = false): Promise<boolean> => {
    try {
      await onValue(
        value,
        confirmed,
        own.map((reading) => reading.id),
      )
      setFailed(null)
      ask(null)
      return true
    } catch (error) {
      setFailed(error instanceof Error ? error.message : String(error))
      return false
    }
  }
  const offer = async (value: ReadingValue, number: number | null, next: boolean): Promise<boolean> => {
    if (number !== null && isOutside(trait, number)) {
      ask({ value, number })
      return true
    }
    if (next) ahead.hold()
    const kept = await give(value)
    if (kept && next) onNext()
    if (!kept) ahead.drop()
    return kept
  }
  const describe = (stored: number): string => {
    const out = shown(stored, trait.unit, system)
    return withUnit(formatPlain(out.value, 5), out.unit)
  }
  return (
    <div className={classes.field} {...(kind.choices ? { role: 'group', 'aria-labelledby': `${id}-label` } : {})}>
      <div className={classes.head}>
        <label id={`${id}-label`} htmlFor={kind.choices ? undefined : id} className={classes.label}>
          {name}
        </label>
        <span className={classes.standing}>{standing ? standingText(standing, describe) : ''}</span>
        <Menu position="bottom-end">
          <Menu.Target>
            <Button variant="subtle" c="var(--ink-soft)" className={classes.none} aria-label={`No value of ${name}`}>
              <IconBan size={18} />
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Label>No value, because</Menu.Label>
            {REASONS.map((reason) => (
              <Menu.Item key={reason} className={classes.reason} onClick={() => void give({ kind: 'missing', reason })}>
                {reason}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
      </div>
      {conflict ? (
        <div className={classes.ask} role="alert">
          Entered twice. Which holds?
          <div className={classes.choices}>
            {own.map((reading) => (
              <Button key={reading.id} className={classes.choice} variant="outline" onClick={() => void give(reading.value, true)}>
                {standingText(reading, describe)} <span className="quiet">&nbsp;{dayjs(reading.at).format('HH:mm')}</span>
              </Button>
            ))}
          </div>
        </div>
      ) : kind.choices ? (
        <Choices
          name={name}
          choices={kind.choices(trait)}
          standing={standing?.value ?? null}
          onChoose={(choice) => void offer(choice.value, kind.figure(choice.value, trait), true)}
        />
      ) : (
        <TypedEntry
          id={id}
          trait={trait}
          system={system}
          standing={standing}
          asking={asked !== null}
          onValue={(value, number, next) => offer(value, number, next)}
          onNext={onNext}
        />
      )}
      {others.map((reading) => (
        <div key={reading.id} className="small quiet">
          {nameOf(reading.observer)} read {standingText(reading, describe)}
        </div>
      ))}
      {asked && (
        <div className={classes.ask} role="alert">
          {describe(asked.number)} is outside what is plausible ({trait.low === null ? '' : describe(trait.low)} to{' '}
          {trait.high === null ? '' : describe(trait.high)}). Look again while you stand there: is it right?
          <div className={classes.choices}>
            <Button
              className={classes.choice}
              leftSection={<IconCheck size={18} />}
              onClick={() => void give(asked.value, true).then((kept) => kept && onNext())}
            >
              It is right
            </Button>
            <Button
              className={classes.choice}
              variant="outline"
              onClick={() => {
                ask(null)
                document.getElementById(id)?.focus()
              }}
            >
              Type again
            </Button>
          </div>
        </div>
      )}
      {failed && (
        <div className={classes.problem} role="alert">
          Not kept. {failed}
        </div>
      )}
    </div>
  )
}

/** What a new value would correct: one's own readings, or those of the only other who has read it, unless the two are to stand beside each other. */
function ownReadings(readings: readonly Reading[], observer: string, apart: boolean): readonly Reading[] {
  const mine = readings.filter((reading) => reading.observer === observer)
  if (mine.length > 0 || apart) return mine
  return new Set(readings.map((reading) => reading.observer)).size === 1 ? readings : []
}

/** The trait, with the plant or the sample where there are several. */
function fieldName(trait: Trait, field: Field): string {
  const sample = field.samples > 1 ? `, sample ${field.sample}` : ''
  return trait.on === 'unit' ? `${trait.name}${sample}` : `${trait.name}, ${field.kind} ${field.code.split('.').at(-1)}${sample}`
}

function standingText(reading: Reading, describe: (stored: number) => string): string {
  const { value } = reading
  if (value.kind === 'number') return describe(value.value)
  if (value.kind === 'below limit') return `< ${describe(value.limit)}`
  if (value.kind === 'above limit') return `> ${describe(value.limit)}`
  return readingInWords(value)
}

function TypedEntry({
  id,
  trait,
  system,
  standing,
  asking,
  onValue,
  onNext,
}: {
  id: string
  trait: Trait
  system: UnitSystem
  standing: Reading | null
  asking: boolean
  onValue: (value: ReadingValue, number: number | null, next: boolean) => Promise<boolean>
  onNext: () => void
}) {
  const kind = traitKind(trait.kind)
  const text = standing ? textOf(standing.value, trait, system) : ''
  const [typed, setTyped] = useState(text)
  const [problem, setProblem] = useState<string | null>(null)
  // What was given last: Enter and leaving the field are one reading, though the device takes a moment to keep it.
  const committed = useRef(text)
  useEffect(() => {
    setTyped(text)
    committed.current = text
  }, [text])
  useEffect(() => {
    if (!asking) committed.current = text
  }, [asking, text])
  const commit = (next: boolean): void => {
    const given = typed.trim()
    if (given === committed.current || given === '') {
      setProblem(null)
      if (given === '') setTyped(committed.current)
      if (next) onNext()
      return
    }
    const read = kind.read(given, trait, system)
    setProblem(read.ok ? null : read.problem)
    if (!read.ok) return
    committed.current = given
    void onValue(read.value, read.number, next).then((kept) => {
      if (!kept) committed.current = text
    })
  }
  return (
    <>
      <div className={classes.entry}>
        <input
          id={id}
          data-entry
          className={classes.input}
          type={kind.keyboard === 'date' ? 'date' : 'text'}
          inputMode={kind.keyboard === 'decimal' ? 'decimal' : 'text'}
          enterKeyHint="next"
          autoComplete="off"
          value={typed}
          placeholder={kind.keyboard === 'text' ? `for example ${kind.example}` : undefined}
          aria-invalid={problem !== null}
          aria-describedby={`${id}-unit`}
          onChange={(event) => setTyped(event.currentTarget.value)}
          onBlur={() => commit(false)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') {
              event.preventDefault()
              commit(true)
            }
            if (event.key === 'Escape') setTyped(text)
          }}
        />
        <span className={classes.unit} id={`${id}-unit`}>
          {kind.measured ? shownUnit(trait.unit, system) : ''}
        </span>
      </div>
      {problem && (
        <div className={classes.problem} role="alert">
          {problem}
        </div>
      )}
    </>
  )
}

/** A value as it would be typed. */
function textOf(value: ReadingValue, trait: Trait, system: UnitSystem): string {
  const number = (stored: number): string => formatPlain(shown(stored, trait.unit, system).value, 6)
  switch (value.kind) {
    case 'number':
      return number(value.value)
    case 'below limit':
      return `< ${number(value.limit)}`
    case 'above limit':
      return `> ${number(value.limit)}`
    case 'count':
      return value.of === null ? String(value.value) : `${value.value} of ${value.of}`
    case 'date':
    case 'text':
      return value.value
    default:
      return ''
  }
}

/** Big buttons for answers; the digit keys work while one of them has the focus. */
function Choices({
  name,
  choices,
  standing,
  onChoose,
}: {
  name: string
  choices: readonly Choice[]
  standing: ReadingValue | null
  onChoose: (choice: Choice) => void
}) {
  const chosen = choices.findIndex((choice) => standing !== null && JSON.stringify(choice.value) === JSON.stringify(standing))
  const short = choices.every((choice) => choice.label.length <= 3)
  const described = choices.filter((choice) => choice.meaning !== '')
  const meaning = described.filter((choice) => choices.indexOf(choice) <= chosen).at(-1)
  return (
    <>
      <div
        className={short ? classes.scores : classes.choices}
        onKeyDown={(event) => {
          const choice = choices.find((each) => each.label === event.key)
          if (event.key !== ' ' && choice) onChoose(choice)
        }}
      >
        {choices.map((choice, i) => (
          <Button
            key={choice.label}
            className={short ? classes.score : classes.choice}
            variant={i === chosen ? 'filled' : 'outline'}
            aria-pressed={i === chosen}
            aria-label={`${name} ${choice.label}`}
            title={choice.meaning || undefined}
            data-entry={i === 0 ? true : undefined}
            tabIndex={i === 0 || i === chosen ? 0 : -1}
            onClick={() => onChoose(choice)}
          >
            {choice.label}
          </Button>
        ))}
      </div>
      {described.length > 0 && (
        <div className="small quiet">
          {meaning && chosen >= 0
            ? `${meaning.label}: ${meaning.meaning}`
            : `${described[0]!.label}: ${described[0]!.meaning}; ${described.at(-1)!.label}: ${described.at(-1)!.meaning}`}
        </div>
      )}
    </>
  )
}
