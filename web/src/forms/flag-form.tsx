import { FLAGS, type Note } from '@canter/core/trial'
import { Button, Textarea } from '@mantine/core'
import { useState } from 'react'
import { makeNote } from '../data/make.ts'
import classes from './reading-field.module.css'

/** A flag by one tap, or a note in words, about the plot one stands on. */
export function FlagForm({
  unit,
  person,
  onClose,
  onWrite,
}: {
  unit: string
  person: string
  onClose: () => void
  /** Throws when the device could not keep it. */
  onWrite: (note: Note) => Promise<void>
}) {
  const [flag, setFlag] = useState<(typeof FLAGS)[number] | null>(null)
  const [text, setText] = useState('')
  const [failed, setFailed] = useState<string | null>(null)
  const put = (): void => {
    onWrite(
      makeNote(person, { unit, trait: null, kind: flag ? 'flag' : 'remark', flag, text: (text.trim() || flag!).slice(0, 2000) }),
    ).then(onClose, (error: unknown) => setFailed(error instanceof Error ? error.message : String(error)))
  }
  return (
    <div role="group" aria-label="Flag or note">
      <div className={classes.choices}>
        {FLAGS.map((each) => (
          <Button
            key={each}
            className={classes.choice}
            variant={flag === each ? 'filled' : 'outline'}
            aria-pressed={flag === each}
            onClick={() => setFlag(flag === each ? null : each)}
          >
            {each}
          </Button>
        ))}
      </div>
      <Textarea
        label="In words"
        value={text}
        maxLength={2000}
        error={failed && `Not kept. ${failed}`}
        onChange={(event) => setText(event.currentTarget.value)}
        autosize
        minRows={2}
        mt={8}
        size="md"
      />
      <div className={classes.choices}>
        <Button className={classes.choice} disabled={flag === null && text.trim() === ''} onClick={put}>
          Keep it
        </Button>
        <Button className={classes.choice} variant="subtle" onClick={onClose}>
          Leave it
        </Button>
      </div>
    </div>
  )
}
