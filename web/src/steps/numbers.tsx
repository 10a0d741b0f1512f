import type { Oddity, RowView } from '@canter/core/numbers'
import { workingChain, type UnitSystem } from '@canter/core/quantity'
import { visitsOf, type DerivedTrait, type Factor, type Trait, type Treatment } from '@canter/core/trial'
import { Button, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import { useAnalysis } from '../data/analysis.ts'
import { book, onBookChange, useSlice, whenAnswered } from '../data/book.ts'
import { makeNote, makeRetraction } from '../data/make.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useSelection } from '../data/selection.ts'
import { keep } from '../data/sync.ts'
import { ValuesGrid, type FactorColumn } from '../grid/values-grid.tsx'
import { resolvedText } from '../plan/trait-text.ts'
import classes from './numbers.module.css'

/** Every value of every unit, what it was worked out from, and what looks odd before it is believed. */
export function NumbersStep() {
  const open = useOpenTrial()
  const { trial, layout, site, visit, progress, treatmentOf } = open
  const { units: system } = usePerson()
  const selection = useSelection()
  const traits = useMemo(
    () => [...trial.traits.observed, ...trial.traits.derived].filter((each) => visitsOf(trial.traits, each.key).includes(visit.key)),
    [trial.traits, visit.key],
  )
  const wanted = selection.get('trait') ?? trial.traits.response
  const trait = traits.find((each) => each.key === wanted) ?? traits[0]
  const plot = selection.get('plot')
  const { data: answer } = useAnalysis(open, layout && trait ? { trait: trait.key, visit: visit.key, site: site.key } : null)
  const residuals = answer?.ok ? answer.both.without.residuals : NO_RESIDUALS
  const odd = useSlice<Oddity[]>(
    trial.id,
    layout && trait ? `odd ${site.key} ${visit.key} ${trait.key} ${residuals.length} ${residuals[0]?.studentised ?? ''} ${system}` : null,
    (from) =>
      from.oddities(
        trial.id,
        site.key,
        visit.key,
        trait!.key,
        residuals.map(({ unit, code, studentised, residual }) => ({ unit, code, studentised, residual })),
        system,
      ),
  )
  const units = useMemo(() => (layout?.units ?? []).filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!), [layout])
  const rowsOf = useRows(trial.id, visit.key)
  const codeOf = useCallback((unit: string) => treatmentOf(unit)?.code ?? '', [treatmentOf])
  const factors = useMemo(() => factorColumns(trial.treatments.factors, treatmentOf), [treatmentOf, trial.treatments.factors])
  if (!progress.measured || !layout || !trait) {
    return (
      <>
        <p className="sentence lead">No value has been taken yet.</p>
        <p>
          They come from <Link to={`/trials/${trial.id}/walk`}>Walk</Link>, and stand here as soon as they are typed: “plot 203, gross
          weight 84.2 kg × (1 − 7.5 %) ÷ 10.8 m² = 72.1 t/ha”, beside what looks odd and may need a second look.
        </p>
      </>
    )
  }
  const chosen = plot ? rowsOf([plot]).get(plot) : undefined
  const kind = units[0]?.kind ?? site.design.unit
  return (
    <div className={classes.page}>
      <section aria-labelledby="look-at">
        <h2 className="section-title" id="look-at">
          Before believing them
        </h2>
        {!odd || odd.length === 0 ? (
          <p className="small quiet" style={{ margin: 0 }}>
            Nothing stands out in {trait.name.toLowerCase()}.
          </p>
        ) : (
          <ul className={classes.odd}>
            {odd.slice(0, 6).map((each) => (
              <li key={`${each.unit} ${each.text}`}>
                <button type="button" className="link-button" onClick={() => selection.set({ plot: each.unit })}>
                  {kind.charAt(0).toUpperCase() + kind.slice(1)} {each.code}
                </button>
                : {each.text}
              </li>
            ))}
            {odd.length > 6 && <li className="quiet">and {odd.length - 6} more</li>}
          </ul>
        )}
      </section>
      {chosen && <CellDetail key={`${chosen.unit.id} ${trait.key}`} row={chosen} trait={trait} system={system} />}
      <ValuesGrid
        units={units}
        codeOf={codeOf}
        factors={factors}
        traits={traits}
        system={system}
        selected={plot}
        trait={trait.key}
        kind={kind}
        rowsOf={rowsOf}
        onPick={(unit, key) => selection.set({ plot: unit, ...(key ? { trait: key } : {}) })}
        onTrait={(key) => selection.set({ trait: key })}
      />
    </div>
  )
}

/** A column for each of several factors; one alone is told by the treatment. */
function factorColumns(factors: readonly Factor[], treatmentOf: (unit: string) => Treatment | undefined): FactorColumn[] {
  if (factors.length < 2) return []
  return factors.map(({ key, name, levels }) => ({
    key,
    name,
    levelOf: (unit) => {
      const place = levels.findIndex((level) => level.key === treatmentOf(unit)?.levels[key])
      return { code: levels[place]?.code ?? '–', place: place === -1 ? levels.length : place }
    },
  }))
}

const NO_RESIDUALS: { unit: string; code: string; studentised: number; residual: number }[] = []

/** How many rows asked for are kept up to date. */
const WATCHED = 200
const NO_ROWS: ReadonlyMap<string, RowView> = new Map()

/** Rows of the units asked for, fetched as they come into sight and again when they change. */
function useRows(trial: string, visit: string): (units: readonly string[]) => ReadonlyMap<string, RowView> {
  const [shown, setShown] = useState<{ visit: string; rows: ReadonlyMap<string, RowView> }>()
  const wanted = useRef<readonly string[]>([])
  const fetching = useRef<(units: readonly string[]) => void>(() => undefined)
  useEffect(() => {
    let current = true
    let known: { at: number | null; rows: ReadonlyMap<string, RowView> } = { at: null, rows: NO_ROWS }
    const fetch = (units: readonly string[], after: number | null): void => {
      if (units.length === 0) return
      whenAnswered(book().rows(trial, [...units], visit, after), ({ at, items }) => {
        if (!current) return
        // Rows that come into sight later are newer than the rest; what they are asked for since is the oldest of all.
        known = {
          at: after === null ? (known.at ?? at) : at,
          rows: new Map([...known.rows, ...items.map((row): [string, RowView] => [row.unit.id, row])]),
        }
        if (items.length > 0) setShown({ visit, rows: known.rows })
      })
    }
    fetching.current = (units) => fetch(units, null)
    fetch(wanted.current, null)
    const leave = onBookChange(trial, () => fetch(wanted.current, known.at))
    return () => {
      current = false
      leave()
    }
  }, [trial, visit])
  return useCallback(
    (units) => {
      const more = units.filter((unit) => !wanted.current.includes(unit))
      if (more.length > 0) {
        wanted.current = [...wanted.current.slice(-WATCHED), ...more]
        queueMicrotask(() => fetching.current(more))
      }
      return shown?.visit === visit ? shown.rows : NO_ROWS
    },
    [shown, visit],
  )
}

/** One value: its working, what it said before, and whether it is left out. */
function CellDetail({ row, trait, system }: { row: RowView; trait: Trait | DerivedTrait; system: UnitSystem }) {
  const { trial, visit } = useOpenTrial()
  const person = usePerson()
  const [failed, setFailed] = useState<string | null>(null)
  const form = useForm({ initialValues: { reason: '' }, validate: { reason: (value) => (value.trim() === '' ? 'Say why.' : null) } })
  const value = row.values.get(trait.key)
  const out = row.leftOut.get(trait.key)
  const inputs = 'terms' in trait ? trial.traits.observed.map((each) => each.key) : [trait.key]
  const corrected = useSlice<string[]>(trial.id, `corrections ${row.unit.id} ${inputs.join()} ${visit.key}`, (from) =>
    from.corrections(trial.id, row.unit.id, inputs, visit.key),
  )
  const put = (record: Parameters<typeof keep>[1]): void => {
    keep(trial.id, record).then(
      () => setFailed(null),
      (error: unknown) => setFailed(error instanceof Error ? error.message : String(error)),
    )
  }
  return (
    <section className={classes.detail} aria-label={`${trait.name} of ${row.unit.kind} ${row.unit.code}`} data-testid="value-detail">
      <strong>
        {row.unit.kind.charAt(0).toUpperCase() + row.unit.kind.slice(1)} {row.unit.code}, {trait.name.toLowerCase()}
      </strong>
      {value?.kind === 'value' && value.worked
        ? workingChain(value.worked, system).map((line) => (
            <div key={line} className="small">
              {line}
            </div>
          ))
        : value && value.kind !== 'none' && <div className="small">{resolvedText(value, trait, system)}</div>}
      {value?.kind === 'value' && value.readings.length > 1 && (
        <div className="small quiet">
          From {value.readings.length} readings{value.observers > 1 ? `, averaged over ${value.observers} observers as asked` : ''}.
        </div>
      )}
      {corrected?.map((text) => (
        <div key={text} className="small quiet">
          {text}
        </div>
      ))}
      {out ? (
        <div>
          Left out: {out.text}{' '}
          <button type="button" className="link-button small" onClick={() => put(makeRetraction(person.id, out.id, 'Taken back in'))}>
            Take it back in
          </button>
        </div>
      ) : (
        value?.kind === 'value' && (
          <form
            className={classes.leave}
            onSubmit={form.onSubmit(({ reason }) =>
              put(makeNote(person.id, { unit: row.unit.id, trait: null, kind: 'left out', flag: null, text: reason.trim() })),
            )}
          >
            <TextInput
              size="xs"
              label={`Leave this ${row.unit.kind} out of the analysis, because`}
              placeholder="a cause seen in the field, not the value itself"
              maxLength={2000}
              {...form.getInputProps('reason')}
            />
            <Button type="submit" size="compact-sm" variant="outline" disabled={form.values.reason.trim() === ''}>
              Leave out
            </Button>
          </form>
        )
      )}
      {failed && (
        <div className="caution small" role="alert">
          Not kept: {failed}
        </div>
      )}
    </section>
  )
}
