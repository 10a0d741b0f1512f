import { doseAmounts, givenIn, passesOf, sheetStops } from '@canter/core/amounts'
import {
  LABEL_SHEETS,
  PAPERS,
  STAKE_ORDERS,
  stakesOf,
  swatchFill,
  treatmentColours,
  type Stake,
  type TreatmentColour,
} from '@canter/core/ground'
import { counted, figure } from '@canter/core/quantity'
import type { Trait, Treatments } from '@canter/core/trial'
import { MultiSelect, SegmentedControl, Select, Switch, TextInput } from '@mantine/core'
import { useState } from 'react'
import { useParams } from 'react-router'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useRemaining } from '../data/remaining.ts'
import { useSelection } from '../data/selection.ts'
import { Labels, sheetOf } from './labels.tsx'
import { PrintPage } from './print-page.tsx'
import classes from './stakes.module.css'

/** What the plots of a site can be printed as. */
const KINDS = [
  { value: 'stakes', label: 'Stakes' },
  { value: 'labels', label: 'Labels' },
  { value: 'packets', label: 'Packets' },
  { value: 'list', label: 'List' },
  { value: 'book', label: 'Field book' },
] as const
type Kind = (typeof KINDS)[number]['value']

export function StakesPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  const selection = useSelection()
  const kind = KINDS.find((each) => each.value === selection.get('as'))?.value ?? 'stakes'
  const sheet = sheetOf(selection.get('sheet'))
  return (
    <PrintPage
      name={KINDS.find((each) => each.value === kind)!.label}
      back={`/trials/${id}/ground`}
      error={error}
      bare={kind === 'labels' || kind === 'packets' ? sheet.paper : undefined}
      landscape={kind === 'book'}
    >
      {open && <Stakes open={open} kind={kind} />}
    </PrintPage>
  )
}

/** One site as stakes to cut out, labels to stick on, packets, a list to tick or a book to write in, in the order it is gone about. */
function Stakes({ open: { trial, site, layout, layouts, visit }, kind }: { open: OpenTrial; kind: Kind }) {
  const selection = useSelection()
  const { units: system } = usePerson()
  const { treatments } = trial
  const left = useRemaining(trial.id, kind === 'packets' ? site.key : null)
  const orders = [
    ...STAKE_ORDERS,
    ...(treatments.factors.length > 1 ? treatments.factors.map(({ key, name }) => ({ key, name: name.toLowerCase() })) : []),
  ]
  const usual = kind === 'packets' ? 'plant' : 'walk'
  const by = orders.find((each) => each.key === (selection.get('by') ?? usual)) ?? orders[0]!
  const bare = selection.get('bare') !== null
  const sheet = sheetOf(selection.get('sheet'))
  const used = Math.max(0, Math.round(Number(selection.get('used') ?? 0)) || 0)
  const colours = treatmentColours(treatments)
  const readable = trial.traits.observed.filter((trait) => trait.on === 'unit')
  const [columns, setColumns] = useState<string[]>(() => readable.slice(0, 6).map((trait) => trait.key))
  const laid = trial.sites.filter((each) => layouts.some((own) => own.siteKey === each.key))
  if (!layout)
    return (
      <p className="sentence">{site.name} is not laid out yet: stakes and lists come when its treatments are dealt out, under Ground.</p>
    )
  const all = stakesOf(layout, treatments, by.key, site.ground.orders)
  // Packets may be filled for a pass: then there is one for each plot that gets something of it.
  const { rows } = treatments.blinded ? { rows: [] } : doseAmounts(treatments, trial.amounts, site, layout.units, left)
  const passes = passesOf(rows, site, layout.units, left)
  const pass = kind === 'packets' ? passes.find((each) => each.key === selection.get('pass')) : undefined
  const filled = pass ? givenIn(pass) : null
  const stakes = filled ? all.filter(({ unit }) => (filled.get(unit.id)?.value ?? 0) > 0) : all
  const { refusal } = sheetStops(pass?.rows ?? [], trial, site)
  const onSheets = kind === 'labels' || kind === 'packets'
  return (
    <>
      <div
        className={`${classes.tools} no-print`}
        style={onSheets ? { width: `${PAPERS[sheet.paper].width}mm`, margin: '0 auto 14px' } : undefined}
      >
        <SegmentedControl
          size="xs"
          aria-label="Printed as"
          value={kind}
          onChange={(value) => selection.set({ as: value === 'stakes' ? null : value, by: null })}
          data={[...KINDS]}
        />
        {laid.length > 1 && (
          <Select
            size="xs"
            label="Site"
            data={laid.map((each) => ({ value: each.key, label: each.name }))}
            value={site.key}
            allowDeselect={false}
            onChange={(key) => key && selection.set({ site: key })}
          />
        )}
        <Select
          size="xs"
          label="Sorted by"
          data={orders.map((each) => ({ value: each.key, label: each.name }))}
          value={by.key}
          allowDeselect={false}
          onChange={(key) => key && selection.set({ by: key === usual ? null : key })}
        />
        {kind === 'packets' && passes.length > 0 && (
          <Select
            size="xs"
            label="Filled with"
            w={240}
            placeholder="seed, or what you will"
            clearable
            data={passes.map((each) => ({
              value: each.key,
              label: `${each.product.product}${each.dose.parts.length > 1 ? `, pass ${each.part + 1}` : ''}`,
            }))}
            value={pass?.key ?? null}
            onChange={(key) => selection.set({ pass: key })}
          />
        )}
        {onSheets && (
          <>
            <Select
              size="xs"
              w={210}
              label="Label sheet"
              data={LABEL_SHEETS.map((each) => ({ value: each.key, label: each.name }))}
              value={sheet.key}
              allowDeselect={false}
              onChange={(key) => key && selection.set({ sheet: key === LABEL_SHEETS[0]!.key ? null : key })}
            />
            <TextInput
              size="xs"
              w={110}
              type="number"
              min={0}
              max={sheet.columns * sheet.rows - 1}
              label="Used on sheet 1"
              value={String(used)}
              onChange={(event) => selection.set({ used: event.currentTarget.value === '0' ? null : event.currentTarget.value })}
            />
          </>
        )}
        {kind === 'book' ? (
          <MultiSelect
            size="xs"
            label="Columns to write in"
            data={readable.map((trait) => ({ value: trait.key, label: trait.name }))}
            value={columns}
            onChange={setColumns}
          />
        ) : (
          <Switch
            size="xs"
            label="Numbers only"
            description="whoever scores need not know"
            checked={bare}
            onChange={(event) => selection.set({ bare: event.currentTarget.checked ? '' : null })}
          />
        )}
      </div>
      {!onSheets && (
        <>
          <h1>{trial.question.title}</h1>
          <p className="small quiet">
            <strong>{site.name}</strong>: {counted(stakes.length, site.design.unit)}, {site.season ?? trial.question.season}, sorted by{' '}
            {by.name}
            {kind === 'book' ? `; ${visit.name}, on ____________ by ____________` : '; what each is to get as planned'}
            {treatments.blinded ? ', as codes' : ''}.
          </p>
        </>
      )}
      {refusal ? (
        <p className="caution" style={{ maxWidth: 700, margin: '0 auto' }}>
          {refusal}
        </p>
      ) : onSheets ? (
        <Labels
          trial={trial.id}
          sheet={sheet}
          used={used}
          labels={stakes.map((stake, i) => ({
            stake,
            code: bare ? '' : (stake.treatment?.code ?? '–'),
            lines: [
              filled && pass && !bare ? `${figure(filled.get(stake.unit.id)!, system)} ${pass.product.product}` : '',
              bare ? '' : (stake.treatment?.name ?? ''),
              kind === 'packets'
                ? `packet ${i + 1} of ${stakes.length}, ${by.name}`
                : stake.within.map((each) => `${each.kind} ${each.code}`).join(', '),
              `${trial.question.title}, ${site.name}`,
            ],
          }))}
        />
      ) : kind === 'book' ? (
        <Book stakes={stakes} columns={readable.filter((trait) => columns.includes(trait.key))} />
      ) : kind === 'list' ? (
        <List stakes={stakes} treatments={treatments} colours={colours} bare={bare} />
      ) : (
        <ol className={classes.stakes} aria-label={`Stakes by ${by.name}`}>
          {stakes.map((stake) => (
            <li key={stake.unit.id} className={classes.stake}>
              <span className={classes.number}>{stake.unit.code}</span>
              {!bare && (
                <>
                  <span className={classes.code}>
                    <span className="swatch" style={{ background: swatchFill(colours.get(stake.treatment?.key ?? '')) }} />
                    {stake.treatment?.code ?? '–'}
                  </span>
                  <span className={classes.name}>{stake.treatment?.name ?? 'nothing of this trial'}</span>
                </>
              )}
              <span className={classes.within}>{stake.within.map((each) => `${each.kind} ${each.code}`).join(', ')}</span>
            </li>
          ))}
        </ol>
      )}
    </>
  )
}

/** A line a plot, to be written in by hand where there is no device. */
function Book({ stakes, columns }: { stakes: readonly Stake[]; columns: readonly Trait[] }) {
  return (
    <table className={`ruled ${classes.book}`}>
      <thead>
        <tr>
          <th>Number</th>
          {columns.map((trait) => (
            <th key={trait.key}>
              {trait.name}
              {trait.unit && trait.unit !== 'score' ? `, ${trait.unit}` : ''}
              {trait.kind === 'score' && trait.low !== null && trait.high !== null ? `, ${trait.low}–${trait.high}` : ''}
            </th>
          ))}
          <th>Remarks</th>
        </tr>
      </thead>
      <tbody>
        {stakes.map(({ unit }) => (
          <tr key={unit.id}>
            <td>
              <strong>{unit.code}</strong>
            </td>
            {columns.map((trait) => (
              <td key={trait.key} />
            ))}
            <td />
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function List({
  stakes,
  treatments: { factors },
  colours,
  bare,
}: {
  stakes: readonly Stake[]
  treatments: Treatments
  colours: ReadonlyMap<string, TreatmentColour>
  /** Without what was dealt out. */
  bare: boolean
}) {
  return (
    <table className={`ruled ${classes.list}`}>
      <thead>
        <tr>
          <th>Number</th>
          {!bare && <th>Treatment</th>}
          {!bare && (factors.length > 1 ? factors.map((factor) => <th key={factor.key}>{factor.name}</th>) : <th>Name</th>)}
          <th>Lies in</th>
          <th className="number">Walk</th>
          <th className={classes.tick}>Done</th>
        </tr>
      </thead>
      <tbody>
        {stakes.map(({ unit, treatment, levels, within }) => (
          <tr key={unit.id}>
            <td>
              <strong>{unit.code}</strong>
            </td>
            {!bare && (
              <td>
                <span className="swatch" style={{ background: swatchFill(colours.get(treatment?.key ?? '')) }} /> {treatment?.code ?? '–'}
              </td>
            )}
            {!bare &&
              (factors.length > 1 ? (
                factors.map((factor) => <td key={factor.key}>{levels[factor.key]?.name ?? treatment?.name ?? ''}</td>)
              ) : (
                <td>{treatment?.name ?? ''}</td>
              ))}
            <td>{within.map((each) => `${each.kind} ${each.code}`).join(', ')}</td>
            <td className="number">{unit.walk ?? ''}</td>
            <td />
          </tr>
        ))}
      </tbody>
    </table>
  )
}
