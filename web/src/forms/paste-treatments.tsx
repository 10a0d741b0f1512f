import { readTreatmentList } from '@canter/core/exchange'
import { counted } from '@canter/core/quantity'
import type { Treatments } from '@canter/core/trial'
import { Button, Group, Modal, Radio, Textarea } from '@mantine/core'
import { useState } from 'react'

/** Treatments from a list pasted from a spreadsheet: read in the ways it can be, and taken in the one chosen. */
export function PasteTreatments({ onTake }: { onTake: (treatments: Treatments) => void }) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState('')
  const [way, setWay] = useState(0)
  const read = text.trim() === '' ? null : readTreatmentList(text)
  const ways = read?.ok ? read.list.ways : []
  const chosen = ways[Math.min(way, ways.length - 1)]
  return (
    <>
      <button type="button" className="link-button" onClick={() => setOpen(true)}>
        A list from a spreadsheet
      </button>
      <Modal opened={open} onClose={() => setOpen(false)} title="Treatments from a list" size="lg">
        <Textarea
          label="Paste the list"
          description="One treatment a line; or a column for each thing that is varied, with its name on top."
          placeholder={'peat 0.5 L/ha\npeat 1 L/ha\nclay 0.5 L/ha\nclay 1 L/ha'}
          rows={8}
          value={text}
          data-autofocus
          onChange={(event) => {
            setText(event.currentTarget.value)
            setWay(0)
          }}
        />
        {read && !read.ok && <p className="caution small">{read.problem}</p>}
        {ways.length > 0 && (
          <Radio.Group value={String(Math.min(way, ways.length - 1))} onChange={(value) => setWay(Number(value))} mt={10} label="Taken as">
            {ways.map((each, i) => (
              <Radio key={each.about} value={String(i)} label={each.about} mt={4} />
            ))}
          </Radio.Group>
        )}
        {ways.length > 1 && (
          <p className="small quiet">
            The names are made of parts that cross: taken so, each part is told by itself, and whether they depend on each other.
          </p>
        )}
        {chosen && (
          <div style={{ maxHeight: 200, overflow: 'auto', marginTop: 8 }}>
            <table className="ruled" aria-label="The list as it would be taken">
              <thead>
                <tr>
                  <th>Treatment</th>
                  {chosen.treatments.factors.map((factor) => (
                    <th key={factor.key}>{factor.name}</th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {chosen.treatments.list.map((each) => (
                  <tr key={each.key}>
                    <td>{each.code}</td>
                    {chosen.treatments.factors.map((factor, f) => (
                      <td key={factor.key}>
                        {factor.levels.find((level) => level.key === each.levels[factor.key])?.name ?? (f === 0 ? each.name : '')}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        <Group mt="md">
          <Button
            disabled={!chosen}
            onClick={() => {
              if (chosen) onTake(chosen.treatments)
              setOpen(false)
              setText('')
            }}
          >
            Take {chosen ? counted(chosen.treatments.list.length, 'treatment') : 'them'}
          </Button>
          <Button variant="subtle" onClick={() => setOpen(false)}>
            Leave it
          </Button>
        </Group>
      </Modal>
    </>
  )
}
