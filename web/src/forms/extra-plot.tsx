import { capital } from '@canter/core/analysis'
import { Button, Group, Select, TextInput } from '@mantine/core'
import { useState } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'
import { useExtraUnit } from '../data/trial-file.ts'

const NOTHING = 'nothing'

/** Puts on record that a plot stands which no plan has: it is read like the others, and compared with none. */
export function ExtraPlot() {
  const { trial, site } = useOpenTrial()
  const { remember } = useSaving()
  const { mutate, isPending } = useExtraUnit(trial.id)
  const [open, setOpen] = useState(false)
  const [treatment, setTreatment] = useState<string>(NOTHING)
  const [reason, setReason] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const { unit } = site.design
  if (!open)
    return (
      <p className="small" style={{ margin: '8px 0 0' }}>
        <button type="button" className="link-button" onClick={() => setOpen(true)}>
          Add a {unit} that no plan has
        </button>
      </p>
    )
  return (
    <form
      aria-label={`A ${unit} that no plan has`}
      onSubmit={(event) => {
        event.preventDefault()
        if (reason.trim() === '') return setProblem('Say how it came to stand there.')
        mutate(
          { site: site.key, treatment: treatment === NOTHING ? null : treatment, reason: reason.trim() },
          {
            onSuccess: (file) => {
              remember(file)
              setOpen(false)
              setReason('')
              setProblem(null)
            },
            onError: (error) => setProblem(error.message),
          },
        )
      }}
    >
      <div className="fields" style={{ marginTop: 8 }}>
        <Select
          className="half"
          label="It got"
          allowDeselect={false}
          data={[
            { value: NOTHING, label: 'nothing of what is varied' },
            ...trial.treatments.list.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` })),
          ]}
          value={treatment}
          onChange={(value) => setTreatment(value ?? NOTHING)}
        />
        <TextInput
          className="half"
          label="How it came to stand there"
          maxLength={1000}
          value={reason}
          error={problem}
          onChange={(event) => setReason(event.currentTarget.value)}
        />
      </div>
      <p className="small quiet" style={{ margin: '4px 0' }}>
        {capital(unit)}s beside the plan are walked and read like the others, and compared with none: nobody dealt them out.
      </p>
      <Group>
        <Button type="submit" size="compact-md" variant="outline" loading={isPending}>
          Put it on record
        </Button>
        <Button size="compact-md" variant="subtle" onClick={() => setOpen(false)}>
          Leave it
        </Button>
      </Group>
    </form>
  )
}
