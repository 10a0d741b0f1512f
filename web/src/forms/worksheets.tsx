import {
  calculationCautions,
  calculationOf,
  calculations,
  knownAt,
  reckon,
  workedSheet,
  type Calculation,
  type CalculationInput,
} from '@canter/core/amounts'
import { figure, shownUnit, workingLine, type UnitSystem } from '@canter/core/quantity'
import type { Unit, Worksheet } from '@canter/core/trial'
import { Button, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import classes from './worksheets.module.css'

/** A worksheet that is worked on: one that is kept, or a new one (key: null). */
export type OpenedSheet = Pick<Worksheet, 'calculation' | 'title' | 'on' | 'given' | 'system' | 'note' | 'pass'> & {
  readonly key: string | null
}

const GROUPS = [...new Set(calculations.map((each) => each.group))].map((group) => ({
  group: group.charAt(0).toUpperCase() + group.slice(1),
  items: calculations.filter((each) => each.group === group).map(({ key, name }) => ({ value: key, label: name })),
}))

interface WorksheetsProps {
  readonly units: readonly Unit[]
  readonly opened: OpenedSheet | null
  /** Another that was asked for while one is open. */
  readonly waiting: string | null
  readonly onOpen: (opened: OpenedSheet | null) => void
}

/** Calculations kept with the trial: solutions, seed, water, calibration; each with its figures, and one of them open. */
export function Worksheets({ units, opened, waiting, onOpen: setOpened }: WorksheetsProps) {
  const { known: trial, site } = useOpenTrial()
  const { save } = useSaving()
  const { units: system } = usePerson()
  const [failed, setFailed] = useState<string | null>(null)
  const all = trial.amounts.sheets ?? []
  const mine = all.filter((each) => each.site === null || each.site === site.key)
  const put = async (change: (sheets: readonly Worksheet[]) => readonly Worksheet[]): Promise<void> => {
    const saved = await save('amounts', ({ amounts }) => ({ sheets: change(amounts.sheets ?? []) }))
    setFailed(saved.ok ? null : saved.problem)
    if (saved.ok) setOpened(null)
  }
  const keep = ({ key, ...rest }: OpenedSheet): Promise<void> =>
    put((stands) => {
      if (key !== null && stands.some((each) => each.key === key))
        return stands.map((each) => (each.key === key ? { ...rest, key, site: each.site } : each))
      const taken = new Set(stands.map((each) => each.key))
      let n = stands.length + 1
      while (taken.has(`sheet-${n}`)) n++
      return [...stands, { ...rest, key: `sheet-${n}`, site: site.key }]
    })
  const begin = (calculation: Calculation): void =>
    setOpened(newSheet(calculation, calculation.name, knownAt(calculation, site, units, system), system))
  return (
    <section className="section" aria-labelledby="worksheets" data-testid="worksheets">
      <h2 className="section-title" id="worksheets">
        Worksheets
      </h2>
      {mine.map((sheet) =>
        opened?.key === sheet.key ? null : (
          <Kept
            key={sheet.key}
            sheet={sheet}
            system={system}
            trial={trial.id}
            onOpen={() => setOpened(sheet)}
            onRemove={() => void put((stands) => stands.filter((each) => each.key !== sheet.key))}
          />
        ),
      )}
      {failed && (
        <p className="caution small" role="alert">
          Not kept: {failed}
        </p>
      )}
      {opened && waiting !== null && (
        <p className="caution small" role="alert" ref={(line) => void line?.scrollIntoView({ block: 'center' })}>
          Keep this worksheet or leave it first; then begin “{waiting}”.
        </p>
      )}
      {opened ? (
        <Sheet key={opened.key ?? `${opened.calculation} ${opened.title}`} opened={opened} onKeep={keep} onLeave={() => setOpened(null)} />
      ) : (
        <Select
          label="Work something out"
          placeholder="a drench, seed for a stand, a sprayer, run time …"
          className={classes.begin}
          data={GROUPS}
          searchable
          value={null}
          onChange={(key) => {
            const calculation = key === null ? undefined : calculationOf(key)
            if (calculation) begin(calculation)
          }}
        />
      )}
    </section>
  )
}

export function newSheet(
  { key: calculation }: Pick<Calculation, 'key'>,
  title: string,
  given: Readonly<Record<string, string>>,
  system: UnitSystem,
  pass: Worksheet['pass'] = null,
): OpenedSheet {
  return { key: null, calculation, title, on: null, given, system, note: '', pass }
}

interface KeptProps {
  readonly sheet: Worksheet
  readonly system: UnitSystem
  readonly trial: string
  readonly onOpen: () => void
  readonly onRemove: () => void
}

/** One that is kept, with its first figures. */
function Kept({ sheet, system, trial, onOpen, onRemove }: KeptProps) {
  const worked = workedSheet(sheet)
  const figures = worked?.reckoned.ok ? Object.values(worked.reckoned.figures) : []
  return (
    <div className={classes.kept}>
      <div>
        <button type="button" className="link-button" onClick={onOpen}>
          {sheet.title}
        </button>
        {sheet.on && <span className="quiet small"> {sheet.on}</span>}
      </div>
      <div className={classes.first}>
        {figures.slice(0, 3).map((each) => (
          <span key={each.label}>
            <span className="quiet">{each.label}</span> <strong>{figure(each, system)}</strong>
          </span>
        ))}
        {worked === null && <span className="caution">This version has no calculation “{sheet.calculation}”.</span>}
        {worked && !worked.reckoned.ok && <span className="caution">{worked.reckoned.problems[0]!.problem}</span>}
      </div>
      <div className={classes.acts}>
        <Link to={`/trials/${trial}/worksheet?sheet=${sheet.key}`} className="small">
          Print
        </Link>
        <button type="button" className="link-button small" onClick={onRemove} aria-label={`Remove ${sheet.title}`}>
          Remove
        </button>
      </div>
    </div>
  )
}

interface SheetProps {
  readonly opened: OpenedSheet
  readonly onKeep: (sheet: OpenedSheet) => Promise<void>
  readonly onLeave: () => void
}

/** What is asked on one side, what it comes to on the other, worked out as one types. */
function Sheet({ opened, onKeep, onLeave }: SheetProps) {
  const { units: system } = usePerson()
  const calculation = calculationOf(opened.calculation)
  const form = useForm({
    initialValues: { title: opened.title, on: opened.on ?? '', note: opened.note, given: { ...opened.given } },
    validate: { title: (value) => (value.trim() === '' ? 'Name it, so that it is found again.' : null) },
  })
  const [tried, setTried] = useState(false)
  const top = useRef<HTMLFormElement>(null)
  // It may have been begun further up, at its pass.
  useEffect(() => {
    void top.current?.scrollIntoView({ block: 'center' })
  }, [])
  const [busy, setBusy] = useState(false)
  if (!calculation) return <p className="caution">This version has no calculation “{opened.calculation}”.</p>
  const { given } = form.values
  const reckoned = reckon(calculation, given, (unit) => shownUnit(unit, opened.system))
  const problems = reckoned.ok ? [] : reckoned.problems
  const problemOf = ({ key }: CalculationInput): string | undefined => {
    const typed = (given[key] ?? '').trim() !== ''
    return typed || tried ? problems.find((each) => each.input === key)?.problem : undefined
  }
  const whole = problems.filter((each) => each.input === '')
  return (
    <form
      ref={top}
      className={classes.sheet}
      aria-label={calculation.name}
      onSubmit={form.onSubmit(({ title, on, note }) => {
        setTried(true)
        if (!reckoned.ok) return
        setBusy(true)
        const filled = Object.fromEntries(Object.entries(given).filter(([, text]) => text.trim() !== ''))
        void onKeep({ ...opened, title: title.trim(), on: on === '' ? null : on, note: note.trim(), given: filled }).finally(() =>
          setBusy(false),
        )
      })}
    >
      <p className="small quiet" style={{ margin: 0 }}>
        {calculation.about} Any measure may be typed with a figure; without one it is taken as shown.
      </p>
      <div className={classes.sides}>
        <div className={classes.inputs}>
          {calculation.inputs.map((input) =>
            input.kind === 'choice' ? (
              <Select
                key={input.key}
                label={input.name}
                data={[...input.choices!]}
                searchable
                error={problemOf(input)}
                value={given[input.key] ?? null}
                onChange={(value) => form.setFieldValue(`given.${input.key}`, value ?? '')}
              />
            ) : (
              <TextInput
                key={input.key}
                label={input.name}
                type={input.kind === 'date' ? 'date' : 'text'}
                placeholder={
                  input.usual !== undefined ? `usually ${input.usual}` : input.optional ? 'may be left out' : `e.g. ${input.example}`
                }
                rightSection={<span className="quiet small">{shownUnit(input.unit, opened.system)}</span>}
                rightSectionWidth={62}
                rightSectionProps={{ style: { justifyContent: 'flex-end' } }}
                error={problemOf(input)}
                value={given[input.key] ?? ''}
                onChange={(event) => form.setFieldValue(`given.${input.key}`, event.currentTarget.value)}
              />
            ),
          )}
        </div>
        <div className={classes.figures} aria-live="polite">
          {reckoned.ok ? (
            <table className="ruled" data-testid="worked">
              <tbody>
                {Object.entries(reckoned.figures).map(([key, each]) => (
                  <tr key={key}>
                    <td>
                      {each.label}
                      <div className="quiet small">{each.terms ? workingLine(each, system) : ''}</div>
                    </td>
                    <td className="number">
                      <strong>{figure(each, system, 4)}</strong>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="quiet small">{whole[0]?.problem ?? 'What it comes to stands here as soon as all that is needed is given.'}</p>
          )}
          {reckoned.ok &&
            reckoned.doubts.map((text) => (
              <p key={text} className="caution small">
                {text}
              </p>
            ))}
          {calculationCautions(calculation).map((text) => (
            <p key={text} className="caution small">
              {text}
            </p>
          ))}
        </div>
      </div>
      <div className={classes.keep}>
        <TextInput label="Title" maxLength={120} {...form.getInputProps('title')} />
        <TextInput label="Made or measured on" type="date" {...form.getInputProps('on')} />
        <TextInput label="Note" maxLength={2000} {...form.getInputProps('note')} />
      </div>
      <div>
        <Button type="submit" size="compact-md" variant="outline" loading={busy}>
          Keep with the trial
        </Button>{' '}
        <Button size="compact-md" variant="subtle" onClick={onLeave}>
          Leave it
        </Button>
      </div>
    </form>
  )
}
