import { FLAGS, type Note } from '@canter/core/trial'
import { Button, Textarea } from '@mantine/core'
import { useState } from 'react'
import { makeNote } from '../records/make.ts'
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
  onWrite: (note: Note) => void
}) {
  const [flag, setFlag] = useState<(typeof FLAGS)[number] | null>(null)
  const [text, setText] = useState('')
  const put = (): void => {
    onWrite(makeNote(person, { unit, trait: null, kind: flag ? 'flag' : 'remark', flag, text: text.trim() || flag! }))
    onClose()
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
