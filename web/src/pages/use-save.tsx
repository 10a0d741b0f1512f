import type { TrialDraft, TrialFile } from '@canter/core/trial'
import { Button, Group, Modal, Textarea } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { createContext, useCallback, useContext, useRef, useState, type ReactNode } from 'react'
import { ApiProblem } from '../api/client.ts'
import { draftOf, useEditTrial, type Edit } from '../api/trial-file.ts'
import { useQueryClient } from '@tanstack/react-query'

interface Saving {
  /** Saves a change of the trial's facts at once; asks for a reason where one is needed. */
  readonly save: (patch: Partial<TrialDraft>) => void
  readonly undo: () => void
  readonly canUndo: boolean
  readonly state: 'saved' | 'saving'
  /** Counts changes that were not taken: fields then show again what stands. */
  readonly resets: number
}

const SavingContext = createContext<Saving | null>(null)

export function useSaving(): Saving {
  const saving = useContext(SavingContext)
  if (!saving) throw new Error('No trial is open here')
  return saving
}

type Asked = { kind: 'reason'; edit: Edit; text: string } | { kind: 'stale'; edit: Edit; current: TrialFile } | null

/** Saving as one goes, with undo, a reason where the ground is fixed, and both versions shown when two people edit. */
export function SavingProvider({ trial, children }: { trial: string; children: ReactNode }) {
  const { mutate, isPending } = useEditTrial(trial)
  const client = useQueryClient()
  const [asked, setAsked] = useState<Asked>(null)
  const [depth, setDepth] = useState(0)
  const [resets, setResets] = useState(0)
  const past = useRef<TrialDraft[]>([])

  const send = useCallback(
    (edit: Edit, undoing = false) => {
      const before = client.getQueryData<TrialFile>(['trial', trial])
      mutate(edit, {
        onSuccess: () => {
          if (before && !undoing) past.current = [...past.current.slice(-30), draftOf(before)]
          setDepth(past.current.length)
          setAsked(null)
        },
        onError: (error) => {
          if (error instanceof ApiProblem && error.problem.status === 409 && error.problem.current) {
            setAsked({ kind: 'stale', edit, current: error.problem.current as TrialFile })
          } else if (error instanceof ApiProblem && error.problem.errors?.some((each) => each.path === 'reason')) {
            setAsked({ kind: 'reason', edit, text: error.message })
          } else {
            setResets((count) => count + 1)
            notifications.show({ color: 'red', title: 'Not saved', message: error.message, autoClose: 12_000 })
          }
        },
      })
    },
    [client, mutate, trial],
  )

  const save = useCallback((patch: Partial<TrialDraft>) => send({ patch }), [send])
  const undo = useCallback(() => {
    const last = past.current.pop()
    if (last) send({ patch: last, reason: 'Undo' }, true)
  }, [send])

  return (
    <SavingContext.Provider value={{ save, undo, canUndo: depth > 0, state: isPending ? 'saving' : 'saved', resets }}>
      {children}
      <ReasonDialog
        asked={asked}
        onGiven={(edit) => send(edit)}
        onLeft={() => {
          setAsked(null)
          setResets((count) => count + 1)
        }}
      />
      {asked?.kind === 'stale' && (
        <StaleDialog
          asked={asked}
          onMine={() => send({ ...asked.edit, version: asked.current.trial.version })}
          onTheirs={() => {
            client.setQueryData(['trial', trial], asked.current)
            setAsked(null)
            setResets((count) => count + 1)
          }}
        />
      )}
    </SavingContext.Provider>
  )
}

function ReasonDialog({ asked, onGiven, onLeft }: { asked: Asked; onGiven: (edit: Edit) => void; onLeft: () => void }) {
  const [reason, setReason] = useState('')
  return (
    <Modal opened={asked?.kind === 'reason'} onClose={onLeft} title="A reason, for the record" closeButtonProps={{ 'aria-label': 'Close' }}>
      {asked?.kind === 'reason' && (
        <form
          onSubmit={(event) => {
            event.preventDefault()
            if (reason.trim()) onGiven({ ...asked.edit, reason: reason.trim() })
            setReason('')
          }}
        >
          <p>{asked.text}</p>
          <Textarea
            data-autofocus
            label="Reason"
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
            minRows={2}
            autosize
          />
          <Group mt="md" justify="flex-end">
            <Button variant="subtle" onClick={onLeft}>
              Leave it as it was
            </Button>
            <Button type="submit" disabled={reason.trim() === ''}>
              Change it on record
            </Button>
          </Group>
        </form>
      )}
    </Modal>
  )
}

function StaleDialog({ asked, onMine, onTheirs }: { asked: Extract<Asked, { kind: 'stale' }>; onMine: () => void; onTheirs: () => void }) {
  const fields = Object.keys(asked.edit.patch) as (keyof TrialDraft)[]
  return (
    <Modal opened onClose={onTheirs} size="lg" title="Changed elsewhere meanwhile" closeButtonProps={{ 'aria-label': 'Close' }}>
      <p>Someone saved this trial after you opened it. Both are kept in the history; choose which stands.</p>
      <table className="ruled">
        <thead>
          <tr>
            <th>What</th>
            <th>Yours</th>
            <th>What stands now</th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field}>
              <td>{field}</td>
              <td>{brief(asked.edit.patch[field])}</td>
              <td>{brief(asked.current.trial[field])}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Group mt="md" justify="flex-end">
        <Button variant="outline" onClick={onTheirs}>
          Keep what stands
        </Button>
        <Button onClick={onMine}>Take mine</Button>
      </Group>
    </Modal>
  )
}

function brief(value: unknown): string {
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > 160 ? `${text.slice(0, 160)}…` : text
}
