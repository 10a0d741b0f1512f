import { treatmentOn, type Unit } from '@canter/core/trial'
import { Button, Group, Select, TextInput } from '@mantine/core'
import { useState } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'
import { useSwap } from '../data/trial-file.ts'

/** Swaps the plot picked with another before anything is planted, and says what that does to the draw. */
export function SwapForm({ unit, onDealAnew }: { unit: Unit; onDealAnew: () => void }) {
  const { trial, layout, units } = useOpenTrial()
  const { remember } = useSaving()
  const { mutate, isPending } = useSwap(trial.id)
  const [other, setOther] = useState<string | null>(null)
  const [reason, setReason] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const [open, setOpen] = useState(false)
  const applied = layout?.structure.factors.filter((each) => each.appliedTo === unit.kind) ?? []
  const swaps = layout?.structure.swapped?.length ?? 0
  if (!layout || applied.length === 0) return null
  const codeOf = (each: Unit): string => treatmentOn(each, units, trial.treatments, 'planned')?.code ?? ''
  const mates = layout.units.filter(
    (each) => each.kind === unit.kind && each.id !== unit.id && each.in.join() === unit.in.join() && JSON.stringify(each.planned) !== JSON.stringify(unit.planned), // prettier-ignore
  )
  return (
    <div style={{ marginTop: 8 }} data-testid="swap">
      {swaps > 0 && (
        <p className="caution small">
          {swaps === 1 ? 'One pair of plots was' : `${swaps} pairs of plots were`} swapped by hand: the treatments are no longer randomised
          here, and the answer will be a comparison, not a trial.{' '}
          <button type="button" className="link-button" onClick={onDealAnew}>
            Deal out anew
          </button>
        </p>
      )}
      {!open ? (
        <button type="button" className="link-button small" onClick={() => setOpen(true)}>
          Swap {unit.kind} {unit.code} with another
        </button>
      ) : (
        <form
          aria-label={`Swap ${unit.kind} ${unit.code}`}
          onSubmit={(event) => {
            event.preventDefault()
            if (!other || reason.trim() === '') return setProblem(other ? 'Say why.' : 'Pick the other.')
            mutate(
              { unit: unit.id, with: other, reason: reason.trim() },
              {
                onSuccess: (file) => {
                  remember(file)
                  setProblem(null)
                  setReason('')
                  setOther(null)
                  setOpen(false)
                },
                onError: (error) => setProblem(error.message),
              },
            )
          }}
        >
          <p className="small quiet" style={{ margin: '2px 0' }}>
            A plot put where one likes it is no longer put there by chance: after a swap what was dealt out to {unit.kind}s counts as not
            randomised. To have another draw, deal out anew instead.
          </p>
          <Group align="end" gap="xs">
            <Select
              label={`${unit.kind} ${unit.code} (${codeOf(unit)}) with`}
              data={mates.map((each) => ({ value: each.id, label: `${each.code}: ${codeOf(each)}` }))}
              value={other}
              onChange={setOther}
              searchable
              w={150}
            />
            <TextInput label="Why" value={reason} onChange={(event) => setReason(event.currentTarget.value)} />
            <Button type="submit" size="compact-md" variant="outline" loading={isPending}>
              Swap
            </Button>
            <Button size="compact-md" variant="subtle" onClick={onDealAnew}>
              Deal out anew
            </Button>
          </Group>
          {problem && <p className="caution small">{problem}</p>}
        </form>
      )}
    </div>
  )
}
