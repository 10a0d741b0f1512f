import { formatQuantity, shown, withUnit, workingLine } from '@canter/core/quantity'
import { siteExtent } from '@canter/core/ground'
import { SegmentedControl } from '@mantine/core'
import { useMemo, useState } from 'react'
import { useLocation, useNavigate, useSearchParams } from 'react-router'
import { useAnalysis } from '../analysis/use-analysis.ts'
import { usePerson } from '../api/queries.ts'
import { useOpenTrial, type OpenTrial } from '../pages/trial-context.ts'
import { swatchFill, treatmentColours } from './colours.ts'
import { Legend } from './legend.tsx'
import { looks, type Colouring } from './looks.ts'
import { previewUnits } from './preview.ts'
import { Plan } from './plan.tsx'
import { traitText } from './trait-text.ts'
import classes from './plan-panel.module.css'

/** What the plan shows first at each step. */
const FIRST: Record<string, Colouring> = {
  question: 'treatment',
  ground: 'treatment',
  amounts: 'amount',
  walk: 'progress',
  numbers: 'value',
  results: 'mean',
  decision: 'treatment',
}

const NAMES: Record<Colouring, string> = {
  treatment: 'Treatment',
  amount: 'Amount',
  progress: 'Done',
  value: 'Value',
  mean: 'Mean',
  residual: 'Left over',
}

/** The ground, always in view: coloured by what the step is about, answered back in a card below. */
export function PlanPanel() {
  const open = useOpenTrial()
  const { trial, layout, records, table } = open
  const { units: system } = usePerson()
  const [search, setSearch] = useSearchParams()
  const navigate = useNavigate()
  const step = useLocation().pathname.split('/').at(-1) ?? 'question'
  const selected = search.get('plot')
  const trait = search.get('trait') ?? trial.response
  const [chosen, setChosen] = useState<Record<string, Colouring>>({})
  const [asTable, setAsTable] = useState(false)
  const colouring = chosen[step] ?? FIRST[step] ?? 'treatment'
  const needsAnalysis = colouring === 'mean' || colouring === 'residual' || step === 'numbers'
  const { data: answer } = useAnalysis(trial, needsAnalysis ? layout : null, records.records, trait)
  const analysis = answer?.ok ? answer.both.without : null
  const ground = trial.sites[0]!.ground
  const perBlock = trial.factors[0]!.levels.length
  const units = useMemo(() => layout?.units ?? previewUnits(trial), [layout, trial])
  const extent = useMemo(() => siteExtent(trial.replicates, perBlock, ground), [trial.replicates, perBlock, ground])
  const look = useMemo(() => looks(open, colouring, trait, analysis, system), [open, colouring, trait, analysis, system])
  const select = (plot: string | null): void =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before)
        if (plot) next.set('plot', plot)
        else next.delete('plot')
        return next
      },
      { replace: true },
    )
  const choices = layout
    ? choicesFor(step, trial.factors[0]!.nutrient !== null && trial.supply !== null, (table?.current.readings.size ?? 0) > 0)
    : []
  return (
    <aside className={`${classes.panel} no-print`} aria-label="Plan of the site">
      <div className={classes.bar}>
        {choices.length > 1 ? (
          <SegmentedControl
            size="xs"
            aria-label="What the plan shows"
            value={colouring}
            onChange={(value) => setChosen({ ...chosen, [step]: value })}
            data={choices.map((each) => ({ value: each, label: NAMES[each] }))}
          />
        ) : (
          <span className="small quiet">{layout ? trial.sites[0]!.name : 'Not laid out yet: an outline'}</span>
        )}
        <button type="button" className="link-button small" onClick={() => setAsTable(!asTable)} aria-pressed={asTable}>
          {asTable ? 'As a plan' : 'As a table'}
        </button>
      </div>
      {asTable ? (
        <PlotList open={open} selected={selected} onSelect={select} />
      ) : (
        <Plan
          units={units}
          extent={extent}
          look={look.of}
          selected={selected}
          onSelect={select}
          onOpen={(plot) => void navigate({ pathname: `/trials/${trial.id}/walk`, search: `?plot=${plot}` })}
          label={`Plan of ${trial.sites[0]!.name}`}
        />
      )}
      <Legend trial={trial} colouring={colouring} look={look} />
      <PlotCard open={open} selected={selected} trait={trait} />
    </aside>
  )
}

function choicesFor(step: string, amounts: boolean, values: boolean): Colouring[] {
  const all: Colouring[] = ['treatment']
  if (amounts) all.push('amount')
  if (values || step === 'walk') all.push('progress')
  if (values) all.push('value', 'mean', 'residual')
  return all
}

/** The same ground as a list, for reading aloud and for those who prefer it. */
function PlotList({ open, selected, onSelect }: { open: OpenTrial; selected: string | null; onSelect: (plot: string) => void }) {
  const factor = open.trial.factors[0]!
  return (
    <div className={classes.list} tabIndex={0} role="region" aria-label="Plots as a table">
      <table className="ruled">
        <thead>
          <tr>
            <th>Plot</th>
            <th>Treatment</th>
            <th className="number">Walk</th>
          </tr>
        </thead>
        <tbody>
          {open.table?.rows.map(({ unit }) => (
            <tr key={unit.id} data-chosen={unit.id === selected}>
              <td>
                <button type="button" className="link-button" onClick={() => onSelect(unit.id)}>
                  {unit.code}
                </button>
              </td>
              <td>{factor.levels.find((level) => level.key === unit.received[factor.key])?.name}</td>
              <td className="number">{unit.walk}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** One plot: what it is, what it got, what was measured on it. */
function PlotCard({ open, selected, trait }: { open: OpenTrial; selected: string | null; trait: string }) {
  const { units: system } = usePerson()
  const row = selected ? open.rowOf.get(selected) : undefined
  const { trial } = open
  const factor = trial.factors[0]!
  if (!row) {
    return (
      <div className={`${classes.card} quiet small`}>
        {open.layout ? 'Pick a plot to see what it got and what was measured on it.' : 'The outline grows with treatments and replicates.'}
      </div>
    )
  }
  const level = factor.levels.find((each) => each.key === row.unit.received[factor.key])
  const planned = factor.levels.find((each) => each.key === row.unit.planned[factor.key])
  const colour = treatmentColours(factor).get(level?.key ?? '')
  const value = row.values.get(trait)
  return (
    <div className={classes.card} aria-live="polite" data-testid="plot-card">
      <div className={classes.cardHead}>
        <strong>Plot {row.unit.code}</strong>
        <span>
          <span className="swatch" style={{ background: swatchFill(colour) }} />
          {level?.name}
        </span>
        {row.unit.change !== 'none' && (
          <span className="badge" data-kind="compare">
            planned {planned?.code}, {row.unit.change}
          </span>
        )}
        <span className="quiet small">no. {row.unit.walk} on the walk</span>
      </div>
      <div className={classes.cardValues}>
        {[...trial.traits, ...trial.derived].map((each) => {
          const found = row.values.get(each.key)
          const out = found?.kind === 'value' ? shown(found.worked.value, each.unit, system) : null
          return (
            <span key={each.key}>
              <span className="quiet">{each.code}</span>{' '}
              {out && found?.kind === 'value'
                ? withUnit(traitText(found.worked.value, each, system), out.unit)
                : found?.kind === 'missing'
                  ? `missing: ${found.reason}`
                  : found?.kind === 'conflict'
                    ? 'entered twice'
                    : '–'}
            </span>
          )
        })}
      </div>
      {value?.kind === 'value' && value.worked.terms && <div className="small quiet">{workingLine(value.worked, system)}</div>}
      {row.notes.map((note) => (
        <div key={note.id} className="small">
          <strong>{note.kind === 'left out' ? 'Left out' : (note.flag ?? 'Note')}:</strong> {note.text}
        </div>
      ))}
      {row.values.size > 0 && value?.kind !== 'value' && open.trial.supply && level?.amount ? (
        <div className="small quiet">
          {formatQuantity(level.amount, factor.unit, system, factor.nutrient ? { of: factor.nutrient } : {})}
        </div>
      ) : null}
    </div>
  )
}
