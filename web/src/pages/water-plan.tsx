import {
  applicationCautions,
  calculationCautions,
  calculationOf,
  doseAmounts,
  handlingCautions,
  passesOf,
  sheetStops,
  waterPlan,
  waterSheets,
  type Pass,
  type WaterTotal,
  type WaterTurn,
} from '@canter/core/amounts'
import { outline } from '@canter/core/ground'
import { counted, figure, workingChain } from '@canter/core/quantity'
import { dayInWords } from '@canter/core/trial'
import { Select } from '@mantine/core'
import { Link, useParams } from 'react-router'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useRemaining } from '../data/remaining.ts'
import { useSelection } from '../data/selection.ts'
import { Cautions, PrintPage } from './print-page.tsx'
import classes from './print-page.module.css'

export function WaterPlanPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  return (
    <PrintPage name="Water plan" back={`/trials/${id}/amounts`} error={error}>
      {open && <WaterSheet open={open} />}
    </PrintPage>
  )
}

/** What whoever opens the valves needs: each watering, depth, litres and run time by treatment, and what each saves. */
function WaterSheet({ open: { known: trial, site, layout } }: { open: OpenTrial }) {
  const { units: system } = usePerson()
  const selection = useSelection()
  const left = useRemaining(trial.id, site.key)
  const units = layout?.units ?? outline(trial, site.key)
  const { rows } = doseAmounts(trial.treatments, trial.amounts, site, units, left)
  const sheets = waterSheets(trial.amounts.sheets ?? [], site)
  const by = sheets.find((each) => each.key === selection.get('by')) ?? sheets.at(-1) ?? null
  const { turns, totals } = waterPlan(passesOf(rows, site, units, left), trial.treatments, site, by)
  const back = <Link to={`/trials/${trial.id}/amounts`}>Back to Amounts</Link>
  if (turns.length === 0) return <p className="sentence">Water is not among what goes on at this site. {back}</p>
  const own = rows.filter((row) => row.product.form === 'water')
  const { refusal } = sheetStops(own, trial, site)
  if (refusal)
    return (
      <p className="sentence">
        {refusal} {back}
      </p>
    )
  const runs = turns.some((turn) => turn.runs.length > 0)
  const { unit } = site.design
  const waterings = [...new Set(turns.map((turn) => turn.pass))]
  const sets = alikeTurns(turns)
  const names = [
    ...new Map(turns.map((turn) => [turn.name, { name: turn.name, code: turn.row.recipient.named?.code ?? turn.name }])).values(),
  ]
  return (
    <>
      <h1>Water plan: {trial.question.title}</h1>
      <p>
        {site.name}, {site.season ?? trial.question.season}. {by ? `Litres and run times by the worksheet “${by.title}”.` : ''}
      </p>
      {sheets.length > 1 && (
        <Select
          className="no-print"
          size="xs"
          w={320}
          label="Run times by"
          data={sheets.map((each) => ({ value: each.key, label: each.title }))}
          value={by!.key}
          allowDeselect={false}
          onChange={(key) => key && selection.set({ by: key })}
        />
      )}
      {!runs && (
        <p className="caution small">
          Run times come once a worksheet “{calculationOf('irrigation')!.name}” with the flow, the drip lines or the nozzles is kept for
          this site.
        </p>
      )}
      <table className="ruled" data-testid="water">
        <thead>
          <tr>
            <th>When</th>
            <th>Treatment</th>
            <th className="number">Depth</th>
            <th className="number">A {unit}</th>
            {runs && <th className="number">Run time</th>}
            <th className="number">The site</th>
            <th>{unit === 'plot' ? 'Plots' : 'Where'}</th>
          </tr>
        </thead>
        <tbody>
          {sets.map(({ turn, passes }) => (
            <tr key={`${passes[0]!.key}.${turn.row.recipient.named?.key ?? ''}`}>
              <td>{passes.length === waterings.length ? 'each time' : passes.map((pass) => whenOf(pass)).join(', ')}</td>
              <td>
                <strong>{turn.row.recipient.named?.code ?? turn.name}</strong> {turn.row.recipient.named ? turn.name : ''}
              </td>
              <td className="number">{figure(turn.depth, system)}</td>
              <td className="number">
                <strong>{figure(turn.each, system)}</strong>
              </td>
              {runs && (
                <td className="number">
                  {turn.runs.length === 0 ? '–' : turn.runs.map((run) => <div key={run.label}>{figure(run, system)}</div>)}
                </td>
              )}
              <td className="number">{figure(turn.all, system)}</td>
              <td>{layout ? turn.units.map((each) => each.code).join(', ') : `${counted(turn.units.length, unit)}, not laid out yet`}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Each watering: meter before and after</h2>
      <table className={`ruled ${classes.sheet}`} data-testid="waterings">
        <thead>
          <tr>
            <th>When</th>
            {names.map(({ name, code }) => (
              <th key={name}>{code}</th>
            ))}
            <th>By, on, rain since the last</th>
          </tr>
        </thead>
        <tbody>
          {waterings.flatMap((pass) =>
            Array.from({ length: pass.alike }, (_, i) => (
              <tr key={`${pass.key}.${i}`}>
                <td style={{ whiteSpace: 'nowrap' }}>{pass.alike > 1 ? `time ${pass.part + i + 1}` : whenOf(pass)}</td>
                {names.map(({ name }) => {
                  const turn = turns.find((each) => each.pass === pass && each.name === name)
                  return (
                    <td key={name} className={turn ? classes.blank : undefined}>
                      {turn ? '' : 'none'}
                    </td>
                  )
                })}
                <td className={classes.blank} />
              </tr>
            )),
          )}
        </tbody>
      </table>
      <h2>Over the season</h2>
      <table className="ruled" data-testid="water-season">
        <thead>
          <tr>
            <th>Treatment</th>
            <th className="number">Depth</th>
            <th className="number">A {unit}</th>
            <th className="number">Less than the most</th>
            <th className="number">Saved on a {unit}</th>
          </tr>
        </thead>
        <tbody>
          {alike(totals).map(({ codes, of: { treatment, depth, each, saved } }) => (
            <tr key={treatment.key}>
              <td>{codes.join(', ')}</td>
              <td className="number">{figure(depth, system)}</td>
              <td className="number">{figure(each, system)}</td>
              <td className="number">{saved ? `${figure(saved.depth, system)} (${figure(saved.share, system, 3)})` : '–'}</td>
              <td className="number">{saved ? figure(saved.each, system) : '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Working</h2>
      {[...new Map(sets.map(({ turn }) => [`${turn.name} ${turn.depth.value}`, turn]))].map(([key, turn]) => (
        <p key={key} className="small" style={{ margin: '2px 0' }}>
          {turn.name}:{' '}
          {[...new Set([turn.each, ...turn.runs].flatMap((each) => workingChain(each, system)))]
            .map((line) => line.slice(line.indexOf(': ') + 2))
            .filter((line) => / [×÷+−] /.test(line))
            .join('; ')}
        </p>
      ))}
      <h2>Before the water runs</h2>
      <Cautions
        texts={[
          ...calculationCautions(calculationOf('irrigation')!),
          ...applicationCautions(own.map((row) => row.product)),
          ...own.flatMap((row) => handlingCautions(row)),
          'Dry treatments first: a valve left open on one of them ends its comparison. Read the meter before and after each.',
        ]}
      />
    </>
  )
}

/** Of many combinations those that get the same water are told once. */
function alike(totals: readonly WaterTotal[]): { readonly codes: string[]; readonly of: WaterTotal }[] {
  const groups = new Map<string, { readonly codes: string[]; readonly of: WaterTotal }>()
  for (const total of totals) {
    const key = total.each.value.toPrecision(9)
    const known = groups.get(key)
    if (known) known.codes.push(total.treatment.code)
    else groups.set(key, { codes: [total.treatment.code], of: total })
  }
  return [...groups.values()]
}

function whenOf({ when, on, part }: Pass): string {
  return [when, on ? dayInWords(on) : ''].filter(Boolean).join(', ') || `time ${part + 1}`
}

/** Turns that are the same from one watering to the next are told once. */
function alikeTurns(turns: readonly WaterTurn[]): { readonly turn: WaterTurn; readonly passes: Pass[] }[] {
  const sets = new Map<string, { readonly turn: WaterTurn; readonly passes: Pass[] }>()
  for (const turn of turns) {
    const key = JSON.stringify([turn.name, turn.depth.value.toPrecision(9), turn.all.value.toPrecision(9), turn.units.map(({ id }) => id)])
    const known = sets.get(key)
    if (known) known.passes.push(turn.pass)
    else sets.set(key, { turn, passes: [turn.pass] })
  }
  return [...sets.values()]
}
