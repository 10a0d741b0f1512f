import { STAKE_ORDERS, stakesOf, type Stake } from '@canter/core/ground'
import type { Treatments } from '@canter/core/trial'
import { SegmentedControl, Select } from '@mantine/core'
import { useParams } from 'react-router'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { useSelection } from '../data/selection.ts'
import { swatchFill, treatmentColours, type TreatmentColour } from '../plan/colours.ts'
import { PrintPage } from './print-page.tsx'
import classes from './stakes.module.css'

export function StakesPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  return (
    <PrintPage name="Stakes" back={`/trials/${id}/ground`} error={error}>
      {open && <Stakes open={open} />}
    </PrintPage>
  )
}

/** One site as stakes to cut out, or as a list to tick, in the order it is gone about: by walk, number, treatment or any factor. */
function Stakes({ open: { trial, site, layout, layouts } }: { open: OpenTrial }) {
  const selection = useSelection()
  const { treatments } = trial
  const orders = [
    ...STAKE_ORDERS,
    ...(treatments.factors.length > 1 ? treatments.factors.map(({ key, name }) => ({ key, name: name.toLowerCase() })) : []),
  ]
  const by = orders.find((each) => each.key === selection.get('by')) ?? orders[0]!
  const asList = selection.get('as') === 'list'
  const colours = treatmentColours(treatments)
  const laid = trial.sites.filter((each) => layouts.some((own) => own.siteKey === each.key))
  if (!layout)
    return (
      <p className="sentence">{site.name} is not laid out yet: stakes and lists come when its treatments are dealt out, under Ground.</p>
    )
  const stakes = stakesOf(layout, treatments, by.key)
  return (
    <>
      <div className={`${classes.tools} no-print`}>
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
          onChange={(key) => key && selection.set({ by: key === 'walk' ? null : key })}
        />
        <SegmentedControl
          size="xs"
          aria-label="Printed as"
          value={asList ? 'list' : 'stakes'}
          onChange={(value) => selection.set({ as: value === 'list' ? 'list' : null })}
          data={[
            { value: 'stakes', label: 'Stakes' },
            { value: 'list', label: 'List' },
          ]}
        />
      </div>
      <h1>{trial.question.title}</h1>
      <p className="small quiet">
        <strong>{site.name}</strong>: {stakes.length} {site.design.unit}s, {site.season ?? trial.question.season}, sorted by {by.name}; what
        each is to get as planned
        {treatments.blinded ? ', as codes' : ''}.
      </p>
      {asList ? (
        <List stakes={stakes} treatments={treatments} colours={colours} />
      ) : (
        <ol className={classes.stakes} aria-label={`Stakes by ${by.name}`}>
          {stakes.map((stake) => (
            <li key={stake.unit.id} className={classes.stake}>
              <span className={classes.number}>{stake.unit.code}</span>
              <span className={classes.code}>
                <span className="swatch" style={{ background: swatchFill(colours.get(stake.treatment?.key ?? '')) }} />
                {stake.treatment?.code ?? '–'}
              </span>
              <span className={classes.name}>{stake.treatment?.name ?? 'nothing of this trial'}</span>
              <span className={classes.within}>{stake.within.map((each) => `${each.kind} ${each.code}`).join(', ')}</span>
            </li>
          ))}
        </ol>
      )}
    </>
  )
}

function List({
  stakes,
  treatments: { factors },
  colours,
}: {
  stakes: readonly Stake[]
  treatments: Treatments
  colours: ReadonlyMap<string, TreatmentColour>
}) {
  return (
    <table className={`ruled ${classes.list}`}>
      <thead>
        <tr>
          <th>Number</th>
          <th>Treatment</th>
          {factors.length > 1 ? factors.map((factor) => <th key={factor.key}>{factor.name}</th>) : <th>Name</th>}
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
            <td>
              <span className="swatch" style={{ background: swatchFill(colours.get(treatment?.key ?? '')) }} /> {treatment?.code ?? '–'}
            </td>
            {factors.length > 1 ? (
              factors.map((factor) => <td key={factor.key}>{levels[factor.key]?.name ?? treatment?.name ?? ''}</td>)
            ) : (
              <td>{treatment?.name ?? ''}</td>
            )}
            <td>{within.map((each) => `${each.kind} ${each.code}`).join(', ')}</td>
            <td className="number">{unit.walk ?? ''}</td>
            <td />
          </tr>
        ))}
      </tbody>
    </table>
  )
}
