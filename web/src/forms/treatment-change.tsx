import { isCrossing, marksOf, type Span, type Unit } from '@canter/core/trial'
import { Button, Group, Radio, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useState } from 'react'
import { useKnownDays } from '../data/known-days.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'
import { useTreatmentChange } from '../data/trial-file.ts'
import { WhenField, whenMeant } from './when-field.tsx'

/** Puts on record that a unit carries something else than was written, factor by factor, and why. */
export function TreatmentChangeForm({ unit }: { unit: Unit }) {
  const { trial, layout } = useOpenTrial()
  const { remember } = useSaving()
  const { mutate, isPending } = useTreatmentChange(trial.id)
  const [problem, setProblem] = useState<string | null>(null)
  const { treatments } = trial
  const own = layout?.structure.factors.filter((each) => each.appliedTo === unit.kind).map((each) => each.factor) ?? []
  // Where every factor was put on this unit, it carries a whole treatment; else levels of its own factors.
  const whole = !isCrossing(treatments) || (own.length === treatments.factors.length && own.length > 1)
  const current = whole ? (treatments.list.find((each) => same(marksOf(each, treatments.factors), unit.received))?.key ?? '') : ''
  const form = useForm({
    initialValues: { treatment: current, levels: { ...unit.received }, change: 'misapplied', reason: '', when: '' },
    validate: { reason: (value) => (value.trim() === '' ? 'Say what happened.' : null) },
  })
  const { values } = form
  const known = useKnownDays()
  const [meant, setMeant] = useState<Span | null>(null)
  const read = whenMeant(values.when, meant, { year: trial.question.season, known })
  const chosen = treatments.list.find((each) => each.key === values.treatment)
  const received = whole ? (chosen ? marksOf(chosen, treatments.factors) : unit.received) : values.levels
  const changed = !same(received, unit.received)
  if (own.length === 0) return <p className="small quiet">Nothing was put on this {unit.kind} by itself: pick the unit that was treated.</p>
  return (
    <form
      aria-label={`Correct ${unit.kind} ${unit.code}`}
      style={{ marginTop: 10 }}
      onSubmit={form.onSubmit(({ change, reason }) =>
        mutate(
          { unit: unit.id, received, change: change as 'misapplied', on: read.ok ? read.span : null, reason: reason.trim() },
          {
            onSuccess: (file) => {
              remember(file)
              setProblem(null)
              form.setFieldValue('reason', '')
            },
            onError: (error) => setProblem(error.message),
          },
        ),
      )}
    >
      <div className="fields">
        {whole ? (
          <Select
            label={`${unit.kind.charAt(0).toUpperCase()}${unit.kind.slice(1)} ${unit.code} really got`}
            data={treatments.list.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` }))}
            allowDeselect={false}
            className="half"
            {...form.getInputProps('treatment')}
          />
        ) : (
          treatments.factors
            .filter((factor) => own.includes(factor.key))
            .map((factor) => (
              <Select
                key={factor.key}
                label={`${unit.kind.charAt(0).toUpperCase()}${unit.kind.slice(1)} ${unit.code} really got${own.length > 1 ? `, ${factor.name.toLowerCase()}` : ''}`}
                data={factor.levels.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` }))}
                allowDeselect={false}
                className="half"
                {...form.getInputProps(`levels.${factor.key}`)}
              />
            ))
        )}
        <div className="half">
          <WhenField
            label="When, if it is known"
            text={values.when}
            year={trial.question.season}
            known={known}
            onText={(when) => form.setFieldValue('when', when)}
            chosen={meant}
            onChosen={setMeant}
          />
        </div>
        <TextInput label="Reason" className="half" maxLength={1000} {...form.getInputProps('reason')} />
      </div>
      <Radio.Group {...form.getInputProps('change')} mt={8} aria-label="What happened">
        <Group>
          <Radio value="misapplied" label="It was treated by mistake: analysed as received, and the evidence counts less" />
          <Radio value="label corrected" label="Only the label was wrong: nothing else changes" />
        </Group>
      </Radio.Group>
      {problem && <p className="caution small">Not put on record: {problem}</p>}
      <Button
        type="submit"
        mt={8}
        size="compact-md"
        variant="outline"
        disabled={!changed || (values.when.trim() !== '' && !read.ok)}
        loading={isPending}
      >
        Put on record
      </Button>
    </form>
  )
}

function same(a: Readonly<Record<string, string>>, b: Readonly<Record<string, string>>): boolean {
  const keys = new Set([...Object.keys(a), ...Object.keys(b)])
  return [...keys].every((key) => a[key] === b[key])
}
