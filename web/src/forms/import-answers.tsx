import type { ImportSaid, Understood } from '@canter/core/exchange'
import { counted } from '@canter/core/quantity'
import { SegmentedControl } from '@mantine/core'
import { useState } from 'react'
import classes from './import-columns.module.css'

interface AnswersProps {
  readonly found: Understood
  readonly said: ImportSaid
  readonly say: (more: Partial<ImportSaid>) => void
}

/** What the table cannot tell. */
export function ImportAsked({ found, said, say }: AnswersProps) {
  return (
    <>
      {found.asked.map(({ key, text, names, proposed }) => {
        const yesNo = key !== 'how'
        const value = key === 'how' ? (said.how ?? proposed) : key === 'runs' ? (said.runs === null || said.runs.length > 0 ? 'yes' : 'no') : (said.both ?? proposed === 'yes') ? 'yes' : 'no' // prettier-ignore
        return (
          <div key={key} className={classes.asked}>
            <p style={{ margin: '8px 0 4px' }}>{text}</p>
            <SegmentedControl
              size="xs"
              aria-label={text}
              value={value}
              data={
                yesNo
                  ? [
                      { value: 'yes', label: 'Yes' },
                      { value: 'no', label: 'No' },
                    ]
                  : [
                      { value: 'randomised', label: 'By chance' },
                      { value: 'systematic', label: 'In a fixed order' },
                      { value: 'not randomised', label: 'Neither, or not known' },
                    ]
              }
              onChange={(next) =>
                say(
                  key === 'how'
                    ? { how: next as ImportSaid['how'] }
                    : key === 'runs'
                      ? { runs: next === 'yes' ? names : [] }
                      : { both: next === 'yes' },
                )
              }
            />
          </div>
        )
      })}
    </>
  )
}

export function ImportSlips({ found, said, say }: AnswersProps) {
  const [kept, setKept] = useState<ReadonlySet<string>>(new Set())
  const open = found.likely.filter(({ column, value }) => !kept.has(`${column} ${value}`))
  if (open.length === 0) return null
  return (
    <section className="section" aria-labelledby="slips">
      <h2 className="section-title" id="slips">
        Slips of the pen?
      </h2>
      {open.map(({ column, value, like, count }) => (
        <p key={`${column} ${value}`} className="caution small">
          “{value}” stands {count === 1 ? 'once' : 'twice'} in {column}, “{like}” often. Is it the same?{' '}
          <button
            type="button"
            className="link-button"
            onClick={() => say({ same: { ...said.same, [column]: { ...said.same[column], [value]: like } } })}
          >
            Yes, read it as {like}
          </button>
          <span className="quiet"> · </span>
          <button type="button" className="link-button" onClick={() => setKept(new Set([...kept, `${column} ${value}`]))}>
            No, it is another
          </button>
        </p>
      ))}
    </section>
  )
}

const MOST = 200

export function ImportOdd({ found }: { found: Understood }) {
  if (found.odd.length === 0) return null
  const out = found.odd.filter((each) => each.effect === 'left out').length
  return (
    <section className="section" aria-labelledby="odd" data-testid="odd-rows">
      <h2 className="section-title" id="odd">
        Odd rows <span className="small quiet">{out > 0 ? `${counted(out, 'row')} left out` : 'none left out'}</span>
      </h2>
      <div className={classes.odd} tabIndex={0} role="region" aria-labelledby="odd">
        <table className="ruled">
          <thead>
            <tr>
              <th className="number">Line</th>
              <th>What stands there</th>
              <th>What is done</th>
            </tr>
          </thead>
          <tbody>
            {found.odd.slice(0, MOST).map(({ line, text, effect }) => (
              <tr key={`${line} ${text}`}>
                <td className="number">{line}</td>
                <td>{text}</td>
                <td className={effect === 'left out' ? undefined : 'quiet'}>{effect === 'missing' ? 'value missing' : effect}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {found.odd.length > MOST && <p className="small quiet">and {found.odd.length - MOST} more like these.</p>}
      </div>
    </section>
  )
}
