import { proposeComparisons } from '@canter/core/analysis'
import type { PlannedComparison, Treatments } from '@canter/core/trial'
import { Button, Group, TextInput } from '@mantine/core'
import { useState } from 'react'
import type { Saved } from '../data/saving.ts'
import { letterOf, TreatmentList, type Picking } from './treatment-list.tsx'
import classes from './treatment-list.module.css'
import type { Commit } from './use-commit.ts'

interface ComparisonListProps {
  readonly treatments: Treatments
  readonly fixed: boolean
  /** There are readings: what is added now is marked so. */
  readonly measured: boolean
  readonly onChange: Commit<Treatments>
}

interface Sides {
  readonly plus: readonly string[]
  readonly minus: readonly string[]
  readonly name: string
}

/** The treatments with the comparisons planned of them, those that suggest themselves, and one of one's own. */
export function TreatmentsAndComparisons({ treatments, fixed, measured, onChange }: ComparisonListProps) {
  const [sides, setSides] = useState<Sides | null>(null)
  const { comparisons } = treatments
  const offered = proposeComparisons(treatments)
  const add = (added: readonly Pick<PlannedComparison, 'name' | 'of'>[]): void | Promise<Saved> => {
    const keys = new Set(comparisons.map((each) => each.key))
    const free = (): string => {
      let n = keys.size + 1
      while (keys.has(`comparison-${n}`)) n++
      keys.add(`comparison-${n}`)
      return `comparison-${n}`
    }
    return onChange({ ...treatments, comparisons: [...comparisons, ...added.map((each) => ({ ...each, key: free(), late: measured }))] })
  }
  const picking: Picking | null = sides && {
    ...sides,
    onPick: (key, side) => {
      const without = (of: readonly string[]) => of.filter((each) => each !== key)
      setSides({
        ...sides,
        plus: side === 'plus' ? [...without(sides.plus), key] : without(sides.plus),
        minus: side === 'minus' ? [...without(sides.minus), key] : without(sides.minus),
      })
    },
  }
  return (
    <>
      <TreatmentList treatments={treatments} fixed={fixed} onChange={onChange} picking={picking} />
      {treatments.list.length > 1 && (
        <section aria-labelledby="planned" style={{ marginTop: 14 }}>
          <h3 className="section-title" id="planned" style={{ fontSize: 15 }}>
            Planned comparisons
          </h3>
          <p className="small quiet" style={{ margin: '0 0 4px' }}>
            {measured
              ? 'There are readings already: what is added now is marked as added late.'
              : 'Planned before there are data, and told first in Results.'}
          </p>
          {comparisons.length > 0 && (
            <ul className={classes.rows} aria-label="Planned comparisons">
              {comparisons.map((each, i) => (
                <li key={each.key}>
                  <span>
                    <span className={classes.letter}>{letterOf(i)}</span>
                    {each.name}
                    {each.late && <span className="quiet"> · added late</span>}
                  </span>
                  <button
                    type="button"
                    className="link-button"
                    aria-label={`No longer plan ${each.name}`}
                    onClick={() => void onChange({ ...treatments, comparisons: comparisons.filter((other) => other !== each) })}
                  >
                    take out
                  </button>
                </li>
              ))}
            </ul>
          )}
          {sides ? (
            <OwnComparison
              sides={sides}
              treatments={treatments}
              onName={(name) => setSides({ ...sides, name })}
              onAdd={(made) => {
                void add([made])
                setSides(null)
              }}
              onLeave={() => setSides(null)}
            />
          ) : (
            <>
              {offered.length > 0 && (
                <ul className={classes.rows} aria-label="Comparisons that suggest themselves">
                  {offered.slice(0, 8).map((each) => (
                    <li key={each.name}>
                      <span>
                        {each.name} <span className="quiet">– {each.why}</span>
                      </span>
                      <button
                        type="button"
                        className="link-button"
                        aria-label={`Plan ${each.name}`}
                        onClick={() => void add(each.comparisons)}
                      >
                        plan {each.comparisons.length > 1 ? `these ${each.comparisons.length}` : 'it'}
                      </button>
                    </li>
                  ))}
                </ul>
              )}
              <Button size="compact-sm" variant="subtle" mt={4} onClick={() => setSides({ plus: [], minus: [], name: '' })}>
                Set two groups of treatments against each other
              </Button>
            </>
          )}
        </section>
      )}
    </>
  )
}

/** A comparison of one's own: the sides are picked on the list above. */
function OwnComparison({
  sides,
  treatments,
  onName,
  onAdd,
  onLeave,
}: {
  sides: Sides
  treatments: Treatments
  onName: (name: string) => void
  onAdd: (made: Pick<PlannedComparison, 'name' | 'of'>) => void
  onLeave: () => void
}) {
  const codes = (keys: readonly string[]): string => keys.map((key) => treatments.list.find((each) => each.key === key)?.code).join(', ')
  const usual = `${codes(sides.plus)} against ${codes(sides.minus)}`.slice(0, 200)
  const ready = sides.plus.length > 0 && sides.minus.length > 0
  const name = sides.name.trim() || usual
  const taken = treatments.comparisons.some((each) => each.name === name)
  return (
    <form
      aria-label="A comparison of your own"
      style={{ marginTop: 8 }}
      onSubmit={(event) => {
        event.preventDefault()
        if (ready && !taken) onAdd({ name, of: { kind: 'sides', plus: [...sides.plus], minus: [...sides.minus] } })
      }}
    >
      <p className="small" style={{ margin: '0 0 6px' }}>
        Pick on the list above: + for the first side, − for what it is set against.{' '}
        {ready ? (
          <>
            The mean of {codes(sides.plus)} less the mean of {codes(sides.minus)}.
          </>
        ) : null}
      </p>
      <div className="fields">
        <TextInput
          className="half"
          label="Called"
          placeholder={ready ? usual : 'organic against mineral'}
          value={sides.name}
          maxLength={200}
          error={taken ? 'A comparison is called so already.' : null}
          onChange={(event) => onName(event.currentTarget.value)}
        />
      </div>
      <Group mt={8} gap="xs">
        <Button type="submit" size="compact-sm" variant="outline" disabled={!ready || taken}>
          Plan it
        </Button>
        <Button size="compact-sm" variant="subtle" onClick={onLeave}>
          Leave it
        </Button>
      </Group>
    </form>
  )
}
