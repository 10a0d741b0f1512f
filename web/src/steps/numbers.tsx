import { shownUnit, workingChain, type UnitSystem } from '@canter/core/quantity'
import { corrections, oddities, type PlotRow } from '@canter/core/numbers'
import type { DerivedTrait, Trait } from '@canter/core/trial'
import { Button, TextInput } from '@mantine/core'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { useAnalysis } from '../analysis/use-analysis.ts'
import { usePerson } from '../api/queries.ts'
import { useOpenTrial } from '../pages/trial-context.ts'
import { traitText } from '../plan/trait-text.ts'
import { makeNote, makeRetraction } from '../records/make.ts'
import { keep } from '../records/sync.ts'
import classes from './numbers.module.css'

/** Every value of every plot, what it was worked out from, and what looks odd before it is believed. */
export function NumbersStep() {
  const open = useOpenTrial()
  const { trial, layout, table, records } = open
  const { units } = usePerson()
  const [search, setSearch] = useSearchParams()
  const traitKey = search.get('trait') ?? trial.response
  const plot = search.get('plot')
  const traits: (Trait | DerivedTrait)[] = [...trial.traits, ...trial.derived]
  const trait = traits.find((each) => each.key === traitKey) ?? traits[0]!
  const { data: answer } = useAnalysis(trial, layout, records.records, trait.key)
  const choose = (patch: { plot?: string; trait?: string }): void =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before)
        for (const [key, value] of Object.entries(patch)) next.set(key, value)
        return next
      },
      { replace: true },
    )
  if (!table || table.current.readings.size + table.current.conflicts.size === 0) {
    return <p className="sentence lead">No value has been taken yet. They come from Walk, and stand here as soon as they are typed.</p>
  }
  const analysis = answer?.ok ? answer.both.without : null
  const odd = oddities(table.rows, trial.traits, analysis?.residuals ?? [], trait, units)
  const factor = trial.factors[0]!
  const chosen = plot ? open.rowOf.get(plot) : undefined
  return (
    <div className={classes.page}>
      <section aria-labelledby="look-at">
        <h2 className="section-title" id="look-at">
          Before believing them
        </h2>
        {odd.length === 0 ? (
          <p className="small quiet" style={{ margin: 0 }}>
            Nothing stands out in {trait.name.toLowerCase()}.
          </p>
        ) : (
          <ul className={classes.odd}>
            {odd.slice(0, 6).map((each) => (
              <li key={each.text}>
                <button type="button" className="link-button" onClick={() => choose({ plot: each.unit })}>
                  Plot {each.code}
                </button>
                : {each.text}
              </li>
            ))}
            {odd.length > 6 && <li className="quiet">and {odd.length - 6} more</li>}
          </ul>
        )}
      </section>
      {chosen && <CellDetail key={`${chosen.unit.id} ${trait.key}`} row={chosen} trait={trait} system={units} />}
      <div className={classes.scroll} tabIndex={0} role="region" aria-label="Values of all plots">
        <table className={`ruled ${classes.grid}`} data-testid="values">
          <thead>
            <tr>
              <th>Plot</th>
              <th>Treatment</th>
              {traits.map((each) => (
                <th key={each.key} className="number" aria-sort="none">
                  <button
                    type="button"
                    className={classes.column}
                    data-chosen={each.key === trait.key}
                    onClick={() => choose({ trait: each.key })}
                    title={`Show ${each.name} on the plan`}
                  >
                    {each.name}
                    <span className="quiet" style={{ whiteSpace: 'nowrap' }}>
                      {' '}
                      {each.unit === 'score' ? '' : shownUnit(each.unit, units)}
                    </span>
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((row) => (
              <tr key={row.unit.id} data-chosen={row.unit.id === plot}>
                <td>
                  <button type="button" className="link-button" onClick={() => choose({ plot: row.unit.id })}>
                    {row.unit.code}
                  </button>
                </td>
                <td>{factor.levels.find((level) => level.key === row.unit.received[factor.key])?.code}</td>
                {traits.map((each) => (
                  <Cell
                    key={each.key}
                    row={row}
                    trait={each}
                    system={units}
                    onPick={() => choose({ plot: row.unit.id, trait: each.key })}
                  />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  )
}

function Cell({ row, trait, system, onPick }: { row: PlotRow; trait: Trait | DerivedTrait; system: UnitSystem; onPick: () => void }) {
  const value = row.values.get(trait.key)
  const out = row.leftOut(trait.key)
  if (value?.kind !== 'value') {
    return (
      <td className={`number ${classes.blank}`} title={value?.kind === 'missing' ? value.reason : undefined}>
        {value?.kind === 'missing' ? 'missing' : value?.kind === 'conflict' ? 'twice' : '·'}
      </td>
    )
  }
  const text = traitText(value.worked.value, trait, system)
  return (
    <td className="number" data-out={out ? true : undefined}>
      <button
        type="button"
        className="figure-button"
        onClick={onPick}
        style={out ? { textDecoration: 'line-through' } : undefined}
        aria-label={`${trait.name} of plot ${row.unit.code}: ${text}${out ? ', left out' : ''}`}
      >
        {text}
        {value.outOfRange ? ' ?' : ''}
      </button>
    </td>
  )
}

/** One value: its working, what it said before, and whether it is left out. */
function CellDetail({ row, trait, system }: { row: PlotRow; trait: Trait | DerivedTrait; system: UnitSystem }) {
  const { trial, records } = useOpenTrial()
  const person = usePerson()
  const [reason, setReason] = useState('')
  const value = row.values.get(trait.key)
  const out = row.leftOut(trait.key)
  const inputs = 'terms' in trait ? trial.traits.map((each) => each.key) : [trait.key]
  const corrected = corrections(records.records, row.unit.id, inputs)
  return (
    <section className={classes.detail} aria-label={`${trait.name} of plot ${row.unit.code}`} data-testid="value-detail">
      <strong>
        Plot {row.unit.code}, {trait.name.toLowerCase()}
      </strong>
      {value?.kind === 'value' &&
        workingChain(value.worked, system).map((line) => (
          <div key={line} className="small">
            {line}
          </div>
        ))}
      {corrected.map((text) => (
        <div key={text} className="small quiet">
          {text}
        </div>
      ))}
      {out ? (
        <div>
          Left out: {out.text}{' '}
          <button
            type="button"
            className="link-button small"
            onClick={() => void keep(trial.id, makeRetraction(person.id, out.id, 'Taken back in'))}
          >
            Take it back in
          </button>
        </div>
      ) : (
        value?.kind === 'value' && (
          <form
            className={classes.leave}
            onSubmit={(event) => {
              event.preventDefault()
              if (reason.trim())
                void keep(
                  trial.id,
                  makeNote(person.id, { unit: row.unit.id, trait: null, kind: 'left out', flag: null, text: reason.trim() }),
                )
            }}
          >
            <TextInput
              size="xs"
              label="Leave this plot out of the analysis, because"
              placeholder="a cause seen in the field, not the value itself"
              value={reason}
              onChange={(event) => setReason(event.currentTarget.value)}
            />
            <Button type="submit" size="compact-sm" variant="outline" disabled={reason.trim() === ''}>
              Leave out
            </Button>
          </form>
        )
      )}
    </section>
  )
}
