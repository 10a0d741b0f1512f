import type { FieldRecord } from '@canter/core/trial'
import { readingInWords } from '@canter/core/trial'
import { Button, Group, Textarea } from '@mantine/core'
import { useState } from 'react'
import type { LocalRecord } from '../data/local-store.ts'
import { useOpenGround } from '../data/open-trial.ts'
import { useRecordState } from '../data/record-state.ts'
import { useSelection } from '../data/selection.ts'
import { keep, setAside } from '../data/sync.ts'
import classes from './reading-field.module.css'

/** What the server would not take, each with its reason: mended, sent again or put aside by a person, never lost by itself. */
export function RefusedRecords() {
  const { trial } = useOpenGround()
  const { refused } = useRecordState(trial.id)
  return refused.map((each) => <Refused key={each.id} refused={each} />)
}

function Refused({ refused: { record, problem } }: { refused: LocalRecord }) {
  const { trial, layouts } = useOpenGround()
  const { set } = useSelection()
  const [text, setText] = useState(record.type === 'note' ? record.text : '')
  const [failed, setFailed] = useState<string | null>(null)
  const attempt = (act: Promise<void>): void => {
    act.then(
      () => setFailed(null),
      (error: unknown) => setFailed(error instanceof Error ? error.message : String(error)),
    )
  }
  const unit = 'unit' in record && record.unit ? unitOf(record.unit) : undefined
  function unitOf(id: string) {
    for (const { siteKey, units } of layouts) {
      const found = units.find((each) => each.id === id)
      if (found) return { ...found, siteKey }
    }
    return undefined
  }
  const trait = record.type === 'reading' ? trial.traits.observed.find((each) => each.key === record.trait) : undefined
  return (
    <div className={classes.ask} role="alert">
      <strong>
        {unit ? `${unit.kind.charAt(0).toUpperCase()}${unit.kind.slice(1)} ${unit.code}` : 'The trial'}: {whatItSays(record, trait?.name)}
      </strong>{' '}
      was not taken. {problem} It is kept on this device until you decide.
      {record.type === 'note' && (
        <Textarea
          label="Mend the text"
          autosize
          maxRows={6}
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
          description={`${text.trim().length} of at most 2000 characters`}
        />
      )}
      <Group gap="xs" mt={8}>
        <Button
          size="sm"
          disabled={record.type === 'note' && (text.trim() === '' || text.trim().length > 2000)}
          onClick={() => attempt(keep(trial.id, record.type === 'note' ? { ...record, text: text.trim() } : record))}
        >
          {record.type === 'note' && text !== record.text ? 'Send it mended' : 'Send again'}
        </Button>
        {record.type === 'reading' && unit && (
          <Button size="sm" variant="outline" onClick={() => set({ plot: unit.id, site: unit.siteKey, visit: record.visit })}>
            Go there and read again
          </Button>
        )}
        <Button size="sm" variant="subtle" onClick={() => attempt(setAside(record.id))}>
          Put it aside
        </Button>
      </Group>
      {failed && <div className={classes.problem}>{failed}</div>}
    </div>
  )
}

function whatItSays(record: FieldRecord, trait: string | undefined): string {
  switch (record.type) {
    case 'reading':
      return `${trait ?? record.trait} ${record.value.kind === 'number' ? record.value.typed : readingInWords(record.value)}`
    case 'note':
      return `the note “${record.text.length > 60 ? `${record.text.slice(0, 60)}…` : record.text}”`
    case 'operation':
      return `${record.kind} on ${record.on}`
    default:
      return 'a value taken back'
  }
}
