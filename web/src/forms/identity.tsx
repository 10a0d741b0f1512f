import { dayInWords, identities, withFactors, type Factor, type Treatments } from '@canter/core/trial'
import { Button, Group, Select, TextInput } from '@mantine/core'
import dayjs from 'dayjs'
import { useState } from 'react'
import type { Saved } from '../data/saving.ts'

const ANOTHER_NAME = 'another name'

/** Puts on record what a level turned out to be: something of another name, or the same as another level. */
export function Identity({ treatments, onChange }: { treatments: Treatments; onChange: (next: Treatments) => void | Promise<Saved> }) {
  const [open, setOpen] = useState(false)
  const found = identities(treatments)
  const alone = (factor: Factor) => factor.levels.filter((level) => (level.identity?.same ?? null) === null)
  const all = treatments.factors.flatMap((factor) => alone(factor).map((level) => ({ factor, level })))
  const [which, setWhich] = useState<string | null>(null)
  const [as, setAs] = useState<string>(ANOTHER_NAME)
  const [name, setName] = useState('')
  const [on, setOn] = useState(() => dayjs().format('YYYY-MM-DD'))
  const chosen = all.find(({ factor, level }) => `${factor.key} ${level.key}` === which)
  const ready = chosen && /^\d{4}-\d{2}-\d{2}$/.test(on) && (as !== ANOTHER_NAME || name.trim() !== '')
  const put = async (): Promise<void> => {
    if (!chosen) return
    const { factor, level } = chosen
    const next = {
      ...level,
      identity: { on, was: level.name, same: as === ANOTHER_NAME ? null : as },
      ...(as === ANOTHER_NAME ? { name: name.trim() } : {}),
    }
    const factors = treatments.factors.map((each) =>
      each === factor ? { ...each, levels: each.levels.map((one) => (one === level ? next : one)) } : each,
    )
    if ((await onChange(withFactors(treatments, factors)))?.ok) {
      setOpen(false)
      setWhich(null)
      setName('')
      setAs(ANOTHER_NAME)
    }
  }
  return (
    <div data-testid="identity" style={{ marginTop: 8 }}>
      {found.map(({ factor, level, same }) => (
        <p key={`${factor} ${level.key}`} className="small" style={{ margin: '4px 0' }}>
          <strong>{level.identity!.was}</strong> {same ? `is the same as ${same.name}` : `is ${level.name}`}, found on{' '}
          {dayInWords(level.identity!.on)}.
        </p>
      ))}
      {!open ? (
        <p className="small" style={{ margin: 0 }}>
          <button type="button" className="link-button" onClick={() => setOpen(true)}>
            Something turned out to be another
          </button>{' '}
          <span className="quiet">a product is revealed, or two of these are found to be the same.</span>
        </p>
      ) : (
        <form
          aria-label="Something turned out to be another"
          onSubmit={(event) => {
            event.preventDefault()
            void put()
          }}
        >
          <strong>Something turned out to be another</strong>
          <div className="fields">
            <Select
              className="half"
              label="What was taken for"
              data={all.map(({ factor, level }) => ({ value: `${factor.key} ${level.key}`, label: `${level.code}: ${level.name}` }))}
              value={which}
              onChange={(value) => {
                setWhich(value)
                setAs(ANOTHER_NAME)
              }}
              searchable
            />
            <Select
              className="half"
              label="Is in truth"
              allowDeselect={false}
              data={[
                { value: ANOTHER_NAME, label: 'something of another name' },
                ...(chosen ? alone(chosen.factor) : [])
                  .filter((level) => level !== chosen?.level && alone(chosen!.factor).length > 2)
                  .map((level) => ({ value: level.key, label: `the same as ${level.code}: ${level.name}` })),
              ]}
              value={as}
              onChange={(value) => setAs(value ?? ANOTHER_NAME)}
            />
            {as === ANOTHER_NAME && (
              <TextInput
                className="half"
                label="Its true name"
                maxLength={80}
                value={name}
                onChange={(event) => setName(event.currentTarget.value)}
              />
            )}
            <TextInput className="half" type="date" label="Found on" value={on} onChange={(event) => setOn(event.currentTarget.value)} />
          </div>
          <p className="small quiet" style={{ margin: '4px 0' }}>
            What was dealt out and written stays as it was. Results read it as it is known now, and say what was said before.
          </p>
          <Group>
            <Button type="submit" size="compact-md" variant="outline" disabled={!ready}>
              Put on record
            </Button>
            <Button size="compact-md" variant="subtle" onClick={() => setOpen(false)}>
              Leave it
            </Button>
          </Group>
        </form>
      )}
    </div>
  )
}
