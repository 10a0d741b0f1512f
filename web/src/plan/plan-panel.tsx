import { shown, withUnit, workingLine } from '@canter/core/quantity'
import { outline, siteExtent } from '@canter/core/ground'
import type { RowView } from '@canter/core/numbers'
import { fateInWords } from '@canter/core/trial'
import { SegmentedControl } from '@mantine/core'
import { useVirtualizer } from '@tanstack/react-virtual'
import { lazy, memo, Suspense, useCallback, useMemo, useRef, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { useAnalysis } from '../data/analysis.ts'
import type { Part } from '../data/book-worker.ts'
import { useSlice } from '../data/book.ts'
import { useOpenGround, useOpenTrial, type OpenGround } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useRemaining } from '../data/remaining.ts'
import { useSelection } from '../data/selection.ts'
import { useSaving } from '../data/saving.ts'
import { useUnitViews } from '../data/units.ts'
import { capital, colouringOf, colourings, measure, type Colouring, type Ground } from './colouring/index.ts'
import { swatchFill, treatmentColours } from '@canter/core/ground'
import { Layers } from './layers.tsx'
import { Legend } from './legend.tsx'
import { groundMarks } from './ground-marks.tsx'
import { MANY, Plan } from './plan.tsx'
import { SiteStrip } from './site-strip.tsx'
import { resolvedText, traitMeasure } from './trait-text.ts'
import classes from './plan-panel.module.css'

/** The ground, always in view: coloured by what the step is about, answered back in a card below. */
export const PlanPanel = memo(function PlanPanel({ first }: { first: string }) {
  const open = useOpenGround()
  const { trial, layout, site, visit } = open
  const { units: system } = usePerson()
  const selection = useSelection()
  const navigate = useNavigate()
  const step = useLocation().pathname.split('/').at(-1) ?? ''
  const selected = selection.get('plot')
  const all = [...trial.traits.observed, ...trial.traits.derived]
  const trait = all.find((each) => each.key === selection.get('trait')) ?? all.find((each) => each.key === trial.traits.response)!
  const [chosen, setChosen] = useState<Record<string, string>>({})
  const [asTable, setAsTable] = useState(false)
  const pick = useCallback((key: string) => setChosen((before) => ({ ...before, [step]: key })), [step])
  const offered = useMemo(() => (layout ? colourings.filter((each) => each.available(open)) : []), [layout, open])
  const wanted = colouringOf(chosen[step] ?? first)
  const colouring = offered.includes(wanted) ? wanted : colouringOf('treatment')
  const { data: answer } = useAnalysis(
    open,
    layout && colouring.analysed ? { trait: trait.key, visit: visit.key, site: site.key, observer: selection.get('observer') } : null,
  )
  const analysis = answer?.ok ? answer.both.without : null
  const views = useUnitViews(trial.id, layout ? site.key : null, visit.key, trait.key)
  const units = useMemo(() => layout?.units ?? outline(trial, site.key), [layout, site.key, trial])
  const extent = useMemo(() => siteExtent(units, site.ground), [site.ground, units])
  const marks = useMemo(() => groundMarks(units, site.ground), [site.ground, units])
  const colours = treatmentColours(trial.treatments)
  const pass = selection.get('pass')
  const left = useRemaining(trial.id, layout && colouring.key === 'amount' ? site.key : null)
  const look = useMemo(() => {
    const ground: Ground = { open, views, trait, analysis, colours, system, pass, left }
    const { of, key, rests } = colouring.look(ground)
    return {
      of,
      key,
      own: (unit: string) => views.get(unit),
      basis: [analysis, colouring, colours, left, open, pass, system, trait, rests],
    }
  }, [analysis, colouring, colours, left, open, pass, system, trait, views])
  const working = step === 'ground' && !asTable && units.length > 0
  const [layer, setLayer] = useState<SVGGElement | null>(null)
  const { set } = selection
  const { save } = useSaving()
  const choose = useCallback((hue: string, step: string) => void save('treatments', { coloured: [hue, step] }), [save])
  const select = useCallback((plot: string | null): void => set({ plot }), [set])
  const walkTo = useCallback(
    (plot: string) => {
      const search = new URLSearchParams({ plot, site: site.key, visit: visit.key }).toString()
      void navigate({ pathname: `/trials/${trial.id}/walk`, search })
    },
    [navigate, site.key, trial.id, visit.key],
  )
  return (
    <aside className={`${classes.panel} no-print`} data-many={units.length > MANY} aria-label="Plan of the site">
      {trial.sites.length > 1 && <Sites onOpen={(key) => set({ site: key, plot: null })} />}
      <div className={classes.bar}>
        {offered.length > 1 ? (
          <ColouringPicker offered={offered} shown={colouring.key} onPick={pick} />
        ) : (
          <span className="small quiet">{layout ? site.name : `${site.name}, not laid out yet: an outline`}</span>
        )}
        <button type="button" className="link-button small" onClick={() => setAsTable(!asTable)} aria-pressed={asTable}>
          {asTable ? 'As a plan' : 'As a table'}
        </button>
      </div>
      {working && layer && (
        <Suspense fallback={<div className={classes.bar} />}>
          <PlanWork key={site.key} layer={layer} units={units} site={site} extent={extent} />
        </Suspense>
      )}
      {asTable ? (
        <UnitList open={open} selected={selected} onSelect={select} />
      ) : (
        <Plan
          units={units}
          extent={extent}
          looks={look}
          selected={selected}
          onSelect={select}
          onOpen={walkTo}
          label={`Plan of ${site.name}`}
          marks={marks}
          measure={MEASURES[system]}
          onLayer={working ? setLayer : undefined}
          room={working ? 0.12 : 0.03}
        />
      )}
      <Legend treatments={trial.treatments} colours={colours} shows={look.key} onChoose={choose} />
      <div className={classes.card}>
        <UnitCard open={open} selected={selected} trait={trait.key} />
      </div>
    </aside>
  )
})

/** Loaded with the first plan that is worked on. */
const PlanWork = lazy(async () => ({ default: (await import('./plan-work.tsx')).PlanWork }))

const MEASURES = { metric: { name: 'm', metres: 1 }, us: { name: 'ft', metres: 0.3048 } } as const

interface ColouringPickerProps {
  readonly offered: readonly Colouring[]
  readonly shown: string
  readonly onPick: (key: string) => void
}

const ColouringPicker = memo(function ColouringPicker({ offered, shown: value, onPick }: ColouringPickerProps) {
  return (
    <SegmentedControl
      size="xs"
      aria-label="What the plan shows"
      value={value}
      onChange={onPick}
      data={offered.map((each) => ({ value: each.key, label: each.name }))}
    />
  )
})

/** All sites with what was read at each. */
function Sites({ onOpen }: { onOpen: (site: string) => void }) {
  const { trial, layouts, progress, site } = useOpenTrial()
  return <SiteStrip sites={trial.sites} layouts={layouts} tallies={progress.sites} open={site.key} onOpen={onOpen} />
}

/** The same ground as a list, for reading aloud and for those who prefer it; only the rows in sight are drawn. */
function UnitList({ open, selected, onSelect }: { open: OpenGround; selected: string | null; onSelect: (plot: string) => void }) {
  const scroll = useRef<HTMLDivElement>(null)
  const rows = useMemo(
    () => (open.layout?.units ?? []).filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!),
    [open.layout],
  )
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroll.current, estimateSize: () => 28, overscan: 20 })
  const shownRows = virtual.getVirtualItems()
  const before = shownRows[0]?.start ?? 0
  const after = virtual.getTotalSize() - (shownRows.at(-1)?.end ?? 0)
  return (
    <div className={classes.list} tabIndex={0} role="region" aria-label="Plots as a table" ref={scroll}>
      <table className="ruled">
        <thead>
          <tr>
            <th>{capital(open.site.design.unit)}</th>
            <th>Treatment</th>
            <th className="number">Walk</th>
          </tr>
        </thead>
        <tbody>
          {before > 0 && <tr style={{ height: before }} aria-hidden />}
          {shownRows.map(({ index }) => {
            const unit = rows[index]!
            return (
              <tr key={unit.id} data-chosen={unit.id === selected}>
                <td>
                  <button type="button" className="link-button" onClick={() => onSelect(unit.id)}>
                    {unit.code}
                  </button>
                </td>
                <td>{open.treatmentOf(unit.id)?.name}</td>
                <td className="number">{unit.walk}</td>
              </tr>
            )
          })}
          {after > 0 && <tr style={{ height: after }} aria-hidden />}
        </tbody>
      </table>
    </div>
  )
}

/** One unit: what it is, what it got, what was measured on it. */
function UnitCard({ open, selected, trait }: { open: OpenGround; selected: string | null; trait: string }) {
  const { units: system } = usePerson()
  const { trial, visit, units } = open
  const unit = selected ? units.get(selected) : undefined
  const [layered, setLayered] = useState(false)
  const rows = useSlice<Part<RowView>>(trial.id, unit ? `row ${unit.id} ${visit.key}` : null, (from) =>
    from.rows(trial.id, [unit!.id], visit.key, null),
  )
  if (!unit) {
    return (
      <div className={`${classes.said} quiet small`}>
        {open.layout ? 'Pick a plot to see what it got and what was measured on it.' : 'The outline grows with treatments and replicates.'}
      </div>
    )
  }
  const row = rows?.items[0]
  const treatment = open.treatmentOf(unit.id)
  const planned = open.treatmentOf(unit.id, 'planned')
  const colour = treatmentColours(trial.treatments).get(treatment?.key ?? '')
  const changes = changesOn(open, unit.id)
  const value = row?.values.get(trait)
  return (
    <div className={classes.said} aria-live="polite" data-testid="plot-card">
      <div className={classes.cardHead}>
        <strong>
          {capital(unit.kind)} {unit.code}
        </strong>
        <span>
          <span className="swatch" style={{ background: swatchFill(colour) }} />
          {treatment?.name}
        </span>
        {changes.length > 0 && (
          <span className="badge" data-kind="compare">
            planned {planned?.code}, {changes.join(', ')}
          </span>
        )}
        <span className="quiet small">no. {unit.walk} on the walk</span>
      </div>
      <div className={classes.cardValues}>
        {[...trial.traits.observed, ...trial.traits.derived]
          .filter((each) => row?.values.has(each.key))
          .map((each) => {
            const found = row?.values.get(each.key)
            const text = resolvedText(found, each, system)
            const measured = found?.kind === 'value' && found.reduced.value !== null && (found.reduced.text === null || 'terms' in each)
            return (
              <span key={each.key}>
                <span className="quiet">{each.code}</span>{' '}
                {found?.kind === 'missing'
                  ? `missing: ${found.reason}`
                  : found?.kind === 'conflict'
                    ? 'entered twice'
                    : measured
                      ? withUnit(text, shown(1, measure(each), system).unit)
                      : text === '·'
                        ? '–'
                        : `${text} ${found?.kind === 'observers' ? traitMeasure(each, system) : ''}`}
              </span>
            )
          })}
      </div>
      {value?.kind === 'value' && value.worked?.terms && <div className="small quiet">{workingLine(value.worked, system)}</div>}
      {row?.fates.map((fate) => (
        <div key={fate.id} className="small">
          {fateInWords(fate, { factors: trial.treatments.factors, unit: (id) => units.get(id) })}.
        </div>
      ))}
      {row?.notes.map((note) => (
        <div key={note.id} className="small">
          <strong>{note.kind === 'left out' ? 'Left out' : (note.flag ?? 'Note')}:</strong> {note.text}
        </div>
      ))}
      {row && (
        <button type="button" className="link-button small" aria-expanded={layered} onClick={() => setLayered(!layered)}>
          {layered ? 'Less' : 'What its ground got'}
        </button>
      )}
      {row && layered && <Layers key={unit.id} unit={unit} fates={row.fates} operations={row.operations} />}
    </div>
  )
}

/** How what a unit has came to differ from what it was dealt, on itself or on a unit it lies in. */
function changesOn({ units }: OpenGround, id: string): string[] {
  const found = new Set<string>()
  const visit = (at: string): void => {
    const unit = units.get(at)
    if (!unit) return
    for (const change of Object.values(unit.changes)) found.add(change)
    unit.in.forEach(visit)
  }
  visit(id)
  return [...found]
}
