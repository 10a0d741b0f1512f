import { calculationOf, contradiction, emptiedShare, workedSheet, type Pass } from '@canter/core/amounts'
import { figure, formatPlain, parseQuantity } from '@canter/core/quantity'
import type { Actual, Site, Trial } from '@canter/core/trial'
import { Button, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useState, type ReactNode } from 'react'
import { usePerson } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import classes from './doses.module.css'

const WAYS: readonly { readonly value: Actual['how']; readonly label: string }[] = [
  { value: 'calibrated', label: 'as calibrated beforehand' },
  { value: 'emptied', label: 'by what was filled and left' },
  { value: 'weighed back', label: 'weighed back, or known otherwise' },
]

/** What really went out at a pass: by calibration, by what was emptied, or weighed back; and whether these agree. */
export function WentOut({ trial, site, pass, beside }: { trial: Trial; site: Site; pass: Pass; beside: ReactNode }) {
  const { save } = useSaving()
  const { units: system } = usePerson()
  const [open, setOpen] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const records = (trial.amounts.actual ?? []).filter((each) => each.site === site.key && pass.doses.some(({ key }) => key === each.dose) && each.part >= pass.part && each.part < pass.part + pass.alike) // prettier-ignore
  // What was calibrated for this pass is what is offered first.
  const own = (trial.amounts.sheets ?? []).findLast((sheet) => sheet.site === site.key && pass.doses.some(({ key }) => key === sheet.pass?.dose) && sheet.pass!.part === pass.part && calculationOf(sheet.calculation)?.group === 'calibration') // prettier-ignore
  const form = useForm({
    initialValues: { level: '', part: String(pass.part), how: 'emptied', sheet: '', filled: '', left: '', share: '', on: '', note: '' },
  })
  const { values } = form
  const planned = pass.carrier ?? pass.all
  const calibrations = (trial.amounts.sheets ?? []).flatMap((sheet) => {
    const worked = sheet.site === null || sheet.site === site.key ? workedSheet(sheet) : null
    const share = worked?.reckoned.ok ? (calculationOf(sheet.calculation)?.share?.(worked.reckoned.figures) ?? null) : null
    return share === null ? [] : [{ sheet, share }]
  })
  const shareOf = (): number | string => {
    if (values.how === 'calibrated') return calibrations.find((each) => each.sheet.key === values.sheet)?.share ?? 'Choose the worksheet of the calibration: one that names what was wanted.' // prettier-ignore
    if (values.how === 'emptied') {
      const [filled, left] = [parseQuantity(values.filled, planned.unit || ''), parseQuantity(values.left.trim() === '' ? '0' : values.left, planned.unit || '')] // prettier-ignore
      if (!filled.ok) return filled.problem
      if (!left.ok) return left.problem
      return emptiedShare(filled.value, left.value, planned.value) ?? 'More was left than was filled.'
    }
    const read = parseQuantity(values.share, '%')
    return read.ok ? read.value : read.problem
  }
  const share = shareOf()
  // On what stands when it is saved: another device may have put something on record meanwhile.
  const keep = (change: (standing: readonly Actual[]) => readonly Actual[]) =>
    save('amounts', ({ amounts }) => ({ actual: change(amounts.actual ?? []) }))
  const levels = pass.turns.flatMap((turn) =>
    turn.row?.recipient.level ? [{ value: turn.row.recipient.level.key, label: turn.name }] : [],
  )
  const same = (a: Actual, b: Pick<Actual, 'dose' | 'level' | 'part'>): boolean =>
    a.dose === b.dose && a.level === b.level && a.part === b.part
  // Where levels were said one by one each has a dose of its own, and what is said of all is said of each.
  const dosesOf = (level: string): readonly string[] =>
    level === ''
      ? pass.doses.map(({ key }) => key)
      : pass.rows.filter((row) => row.recipient.level?.key === level).map((row) => row.dose.key)
  const nameOf = (of: Actual): string =>
    levels.find((level) => level.value === of.level)?.label ??
    (pass.doses.length > 1 ? pass.rows.find((row) => row.dose.key === of.dose)?.recipient.named?.name : undefined) ??
    'All treatments'
  const doubts = records.flatMap((each) => {
    const other = each.how === 'calibrated' ? records.find((one) => one.how === 'emptied' && same(one, each)) : undefined
    const text = other && !each.note && !other.note ? contradiction(each.share, other.share) : null
    return text ? [{ each, other: other!, text }] : []
  })
  const settle = (patch: { readonly drop?: Actual; readonly note: string; readonly on: Actual }) =>
    void keep((standing) => standing.filter((each) => each.key !== patch.drop?.key).map((each) => (each.key === patch.on.key ? { ...each, note: patch.note } : each))) // prettier-ignore
  return (
    <div style={{ gridColumn: '1 / -1' }}>
      {records.map((each) => (
        <p key={each.key} className="small" style={{ margin: '2px 0' }} data-testid="went-out">
          {nameOf(each)}
          {pass.alike > 1 ? `, pass ${each.part + 1}` : ''}: <strong>{formatPlain(each.share, 4)} %</strong> of the plan{' '}
          {WAYS.find((way) => way.value === each.how)!.label}
          {each.on ? `, ${each.on}` : ''}
          {each.note ? ` (${each.note})` : ''}{' '}
          <button
            type="button"
            className="link-button"
            aria-label={`Remove what went out, ${formatPlain(each.share, 4)} %`}
            onClick={() => void keep((standing) => standing.filter((one) => one.key !== each.key))}
          >
            Remove
          </button>
        </p>
      ))}
      {doubts.map(({ each, other, text }) => (
        <div key={each.key} className="caution small" role="group" aria-label="Which is right">
          {text}{' '}
          <button
            type="button"
            className="link-button"
            onClick={() => settle({ drop: other, on: each, note: 'what was emptied is taken for misread' })}
          >
            The calibration
          </button>{' '}
          <button
            type="button"
            className="link-button"
            onClick={() => settle({ drop: each, on: other, note: 'the calibration did not hold' })}
          >
            What was emptied
          </button>{' '}
          <button type="button" className="link-button" onClick={() => settle({ on: other, note: 'not known which is right' })}>
            Not known
          </button>
        </div>
      ))}
      {open ? (
        <form
          className={classes.form}
          aria-label="What went out"
          onSubmit={(event) => {
            event.preventDefault()
            if (typeof share === 'string') return setProblem(share)
            const actual: Omit<Actual, 'key' | 'dose'> = {
              site: site.key,
              part: Number(values.part),
              level: values.level === '' ? null : values.level,
              share: Number(share.toPrecision(9)),
              how: values.how as Actual['how'],
              on: values.on === '' ? null : values.on,
              note: values.note.trim(),
              sheet: values.how === 'calibrated' ? values.sheet : null,
            }
            void keep((stands) =>
              dosesOf(values.level).reduce((all, dose) => [...all, { ...actual, key: newKey(all), dose }], stands),
            ).then((saved) => {
              setProblem(saved.ok || saved.left ? null : saved.problem)
              if (saved.ok) setOpen(false)
            })
          }}
        >
          <div className="fields" style={{ alignItems: 'start' }}>
            {levels.length > 0 && (
              <Select
                label="Of"
                data={[{ value: '', label: 'All treatments' }, ...levels]}
                allowDeselect={false}
                {...form.getInputProps('level')}
              />
            )}
            {pass.alike > 1 && (
              <Select
                label="Pass"
                allowDeselect={false}
                data={Array.from({ length: pass.alike }, (_, i) => ({ value: String(pass.part + i), label: `Pass ${pass.part + i + 1}` }))}
                {...form.getInputProps('part')}
              />
            )}
            <Select className="half" label="How it is known" data={[...WAYS]} allowDeselect={false} {...form.getInputProps('how')} />
            {values.how === 'calibrated' && (
              <Select
                className="wide"
                label="Calibration"
                placeholder={calibrations.length === 0 ? 'none is kept as a worksheet yet' : 'a worksheet'}
                data={calibrations.map((each) => ({
                  value: each.sheet.key,
                  label: `${each.sheet.title}: ${formatPlain(each.share, 4)} %`,
                }))}
                {...form.getInputProps('sheet')}
              />
            )}
            {values.how === 'emptied' && (
              <>
                <TextInput
                  label="Filled in all"
                  description={`planned ${figure(planned, system)}`}
                  inputWrapperOrder={['label', 'input', 'description', 'error']}
                  {...form.getInputProps('filled')}
                />
                <TextInput label="Left over" placeholder="0" {...form.getInputProps('left')} />
              </>
            )}
            {values.how === 'weighed back' && <TextInput label="Of what was planned" rightSection="%" {...form.getInputProps('share')} />}
            <TextInput label="On" type="date" {...form.getInputProps('on')} />
            <TextInput className="half" label="Note" maxLength={500} {...form.getInputProps('note')} />
          </div>
          <p className="small quiet" style={{ margin: 0 }} aria-live="polite">
            {typeof share === 'number' ? `${formatPlain(share, 4)} % of what was planned went out.` : (problem ?? '')}
          </p>
          {problem && typeof share === 'string' && (
            <p className="caution small" role="alert">
              {problem}
            </p>
          )}
          <div>
            <Button type="submit" size="compact-md" variant="outline">
              Put on record
            </Button>{' '}
            <Button size="compact-md" variant="subtle" onClick={() => setOpen(false)}>
              Leave it
            </Button>
          </div>
        </form>
      ) : (
        <span className={classes.beside}>
          <button
            type="button"
            className="link-button small"
            onClick={() => {
              if (own) form.setValues({ level: own.pass?.level ?? '', how: 'calibrated', sheet: own.key })
              setOpen(true)
            }}
          >
            What really went out
          </button>
          {beside}
        </span>
      )}
    </div>
  )
}

function newKey(all: readonly Actual[]): string {
  let n = all.length + 1
  while (all.some((each) => each.key === `out-${n}`)) n++
  return `out-${n}`
}
