import type { Unit } from '@canter/core/trial'
import { Button, Group, Radio, Select, TextInput } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { useState } from 'react'
import { useTreatmentChange } from '../api/trial-file.ts'
import { useOpenTrial } from '../pages/trial-context.ts'

/** Puts on record that a plot carries another treatment than was written, and why. */
export function TreatmentChangeForm({ unit }: { unit: Unit }) {
  const { trial } = useOpenTrial()
  const factor = trial.factors[0]!
  const { mutate, isPending } = useTreatmentChange(trial.id)
  const [level, setLevel] = useState(unit.received[factor.key]!)
  const [change, setChange] = useState<'label corrected' | 'misapplied'>('misapplied')
  const [reason, setReason] = useState('')
  const ready = level !== unit.received[factor.key] && reason.trim() !== ''
  return (
    <form
      aria-label={`Correct plot ${unit.code}`}
      style={{ marginTop: 10 }}
      onSubmit={(event) => {
        event.preventDefault()
        mutate(
          { unit: unit.id, level, change, reason: reason.trim() },
          {
            onSuccess: () => setReason(''),
            onError: (error) => notifications.show({ color: 'red', title: 'Not changed', message: error.message }),
          },
        )
      }}
    >
      <div className="fields">
        <Select
          label={`Plot ${unit.code} really got`}
          data={factor.levels.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` }))}
          value={level}
          allowDeselect={false}
          onChange={(value) => value && setLevel(value)}
          className="half"
        />
        <TextInput label="Reason" value={reason} onChange={(event) => setReason(event.currentTarget.value)} className="half" />
      </div>
      <Radio.Group value={change} onChange={(value) => setChange(value)} mt={8} aria-label="What happened">
        <Group>
          <Radio value="misapplied" label="It was treated by mistake: analysed as received, and the evidence counts less" />
          <Radio value="label corrected" label="Only the label was wrong: nothing else changes" />
        </Group>
      </Radio.Group>
      <Button type="submit" mt={8} size="compact-md" variant="outline" disabled={!ready} loading={isPending}>
        Put on record
      </Button>
    </form>
  )
}
