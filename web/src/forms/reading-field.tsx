import { isOutside, type PlotValue } from '@canter/core/numbers'
import { convert, formatPlain, parseQuantity, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import { currentRecords, type ReadingValue, type Trait } from '@canter/core/trial'
import { Button, Menu } from '@mantine/core'
import { IconBan, IconCheck } from '@tabler/icons-react'
import { useEffect, useId, useRef, useState } from 'react'
import { useOpenTrial } from '../pages/trial-context.ts'
import classes from './reading-field.module.css'

interface ReadingFieldProps {
  readonly trait: Trait
  readonly value: PlotValue
  readonly unit: string
  readonly system: UnitSystem
  /** A stored value as the person reads it. */
  readonly describe: (stored: number) => string
  readonly onValue: (value: ReadingValue, confirmed: boolean, supersedesMissing: string | null) => Promise<void>
  readonly onNext: () => void
  /** Whether a question about an odd value is open. */
  readonly onAsking: (open: boolean) => void
}

const REASONS = ['Plot lost', 'Sample lost', 'Not taken', 'Cannot be read']

/** One trait of one plot: typed or tapped, asked about when odd, kept with what it corrects. */
export function ReadingField(props: ReadingFieldProps) {
  const { trait, value, unit, describe, onValue, onNext, onAsking } = props
  const { records } = useOpenTrial()
  const [asked, setAsked] = useState<{ value: ReadingValue; number: number } | null>(null)
  const id = useId()
  const ask = (next: typeof asked): void => {
    setAsked(next)
    onAsking(next !== null)
  }

  const standingMissing = (): string | null => {
    if (value.kind !== 'missing') return null
    for (const reading of currentRecords(records.records).readings.values()) {
      if (reading.unit === unit && reading.trait === trait.key && reading.value.kind === 'missing') return reading.id
    }
    return null
  }
  const give = async (typed: ReadingValue, confirmed = false): Promise<void> => {
    await onValue(typed, confirmed, standingMissing())
    ask(null)
  }
  const offer = async (typed: ReadingValue, number: number, next: boolean): Promise<void> => {
    if (isOutside(trait, number)) {
      ask({ value: typed, number })
      return
    }
    await give(typed)
    if (next) onNext()
  }

  return (
    <div className={classes.field} {...(trait.kind === 'number' ? {} : { role: 'group', 'aria-labelledby': `${id}-label` })}>
      <div className={classes.head}>
        <label id={`${id}-label`} htmlFor={trait.kind === 'number' ? id : undefined} className={classes.label}>
          {trait.name}
        </label>
        <Standing value={value} describe={describe} />
        <Menu position="bottom-end">
          <Menu.Target>
            <Button variant="subtle" c="var(--ink-soft)" className={classes.none} aria-label={`No value of ${trait.name}`}>
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
      {value.kind === 'conflict' ? (
        <div className={classes.ask} role="alert">
          Entered twice. Which holds?
          <div className={classes.choices}>
            {value.readings.map((reading) =>
              reading.value.kind === 'number' || reading.value.kind === 'score' ? (
                <Button key={reading.id} className={classes.choice} variant="outline" onClick={() => void give(reading.value, true)}>
                  {describe(reading.value.value)} <span className="quiet">&nbsp;{reading.at.slice(11, 16)}</span>
                </Button>
              ) : null,
            )}
          </div>
        </div>
      ) : trait.kind === 'score' ? (
        <ScoreInput
          trait={trait}
          value={value}
          onScore={(score) => void offer({ kind: 'score', value: score, typed: String(score) }, score, true)}
        />
      ) : trait.kind === 'yes-no' ? (
        <div className={classes.choices}>
          {[true, false].map((yes, i) => (
            <Button
              key={String(yes)}
              className={classes.choice}
              variant={value.kind === 'value' && (value.worked.value === 1) === yes ? 'filled' : 'outline'}
              data-entry={i === 0 ? true : undefined}
              onClick={() => void give({ kind: 'yes/no', value: yes }).then(onNext)}
            >
              {yes ? 'Yes' : 'No'}
            </Button>
          ))}
        </div>
      ) : (
        <NumberEntry
          {...props}
          id={id}
          asking={asked !== null}
          onNumber={(typed, number, next) => void offer(typed, number, next)}
          onNext={onNext}
        />
      )}
      {asked && (
        <div className={classes.ask} role="alert">
          {describe(asked.number)} is outside what is plausible ({trait.low === null ? '' : describe(trait.low)} to{' '}
          {trait.high === null ? '' : describe(trait.high)}). Look again while you stand there: is it right?
          <div className={classes.choices}>
            <Button
              className={classes.choice}
              leftSection={<IconCheck size={18} />}
              onClick={() => void give(asked.value, true).then(onNext)}
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
    </div>
  )
}

function Standing({ value, describe }: { value: PlotValue; describe: (stored: number) => string }) {
  if (value.kind === 'value') return <span className={classes.standing}>{describe(value.worked.value)}</span>
  if (value.kind === 'missing') return <span className={classes.standing}>no value: {value.reason}</span>
  return <span className={classes.standing} />
}

function NumberEntry({
  trait,
  value,
  system,
  id,
  asking,
  onNumber,
  onNext,
}: ReadingFieldProps & { id: string; asking: boolean; onNumber: (typed: ReadingValue, number: number, next: boolean) => void }) {
  const own = shownUnit(trait.unit, system)
  const standing = value.kind === 'value' ? formatPlain(shown(value.worked.value, trait.unit, system).value, 6) : ''
  const [text, setText] = useState(standing)
  const [problem, setProblem] = useState<string | null>(null)
  // What was given last: Enter and leaving the field are one reading, though the device takes a moment to keep it.
  const committed = useRef(standing)
  useEffect(() => {
    setText(standing)
    committed.current = standing
  }, [standing])
  useEffect(() => {
    if (!asking) committed.current = standing
  }, [asking, standing])
  const commit = (next: boolean): void => {
    const typed = text.trim()
    if (typed === committed.current || typed === '') {
      setProblem(null)
      if (typed === '') setText(committed.current)
      if (next) onNext()
      return
    }
    const below = /^<\s*(.+)$/.exec(typed)
    const parsed = parseQuantity(below?.[1] ?? typed, trait.unit, own)
    setProblem(parsed.ok ? null : parsed.problem)
    if (!parsed.ok) return
    committed.current = typed
    const stored = Number(convert(parsed.value, trait.unit, trait.unit).toPrecision(12))
    if (below) onNumber({ kind: 'below limit', limit: stored, typed }, stored, next)
    else onNumber({ kind: 'number', value: stored, typed: typed.slice(0, 60) }, stored, next)
  }
  return (
    <>
      <div className={classes.entry}>
        <input
          id={id}
          data-entry
          className={classes.input}
          inputMode="decimal"
          enterKeyHint="next"
          autoComplete="off"
          value={text}
          aria-invalid={problem !== null}
          aria-describedby={`${id}-unit`}
          onChange={(event) => setText(event.currentTarget.value)}
          onBlur={() => commit(false)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') {
              event.preventDefault()
              commit(true)
            }
            if (event.key === 'Escape') setText(standing)
          }}
        />
        <span className={classes.unit} id={`${id}-unit`}>
          {own}
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

/** Big buttons for described steps; the digit keys work while one of them has the focus. */
function ScoreInput({ trait, value, onScore }: { trait: Trait; value: PlotValue; onScore: (score: number) => void }) {
  const low = trait.low ?? 1
  const high = trait.high ?? 9
  const scores = Array.from({ length: Math.min(12, high - low + 1) }, (_, i) => low + i)
  const standing = value.kind === 'value' ? value.worked.value : null
  const meaning = trait.steps.filter((step) => step.score <= (standing ?? -Infinity)).at(-1)
  return (
    <>
      <div
        className={classes.scores}
        onKeyDown={(event) => {
          const score = Number(event.key)
          if (event.key !== ' ' && scores.includes(score)) onScore(score)
        }}
      >
        {scores.map((score, i) => (
          <Button
            key={score}
            className={classes.score}
            variant={standing === score ? 'filled' : 'outline'}
            aria-pressed={standing === score}
            aria-label={`${trait.name} ${score}`}
            title={trait.steps.find((step) => step.score === score)?.meaning}
            data-entry={i === 0 ? true : undefined}
            tabIndex={i === 0 || standing === score ? 0 : -1}
            onClick={() => onScore(score)}
          >
            {score}
          </Button>
        ))}
      </div>
      <div className="small quiet">
        {meaning
          ? `${meaning.score}: ${meaning.meaning}`
          : `${trait.steps[0]?.score}: ${trait.steps[0]?.meaning}; ${trait.steps.at(-1)?.score}: ${trait.steps.at(-1)?.meaning}`}
      </div>
    </>
  )
}
