import { applicationCautions, differsInWords, nutrientAmounts, sheetRefusal } from '@canter/core/amounts'
import { outline, plotArea } from '@canter/core/ground'
import { counted, formatQuantity, workingLine } from '@canter/core/quantity'
import { Link, useParams } from 'react-router'
import { useGone } from '../data/gone.ts'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { factorColours, swatchFill } from '@canter/core/ground'
import { PrintPage } from './print-page.tsx'
import classes from './print-page.module.css'

export function MixingSheetPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  return (
    <PrintPage name="Mixing sheet" back={`/trials/${id}/amounts`} error={error}>
      {open && <Sheet open={open} />}
    </PrintPage>
  )
}

/** What the person at the balance needs, and nothing that can be misread. */
function Sheet({ open: { known: trial, site, layout } }: { open: OpenTrial }) {
  const { units } = usePerson()
  const gone = useGone(trial.id, site.key)
  const outcome = nutrientAmounts(trial.treatments, trial.amounts.supply, site, layout?.units ?? outline(trial, site.key), gone)
  if (!outcome.ok) return <p className="sentence">{outcome.problem}</p>
  const refusal = sheetRefusal(trial.amounts.supply, outcome.amounts.overMaximum)
  if (refusal) {
    return (
      <>
        <p className="sentence">{refusal}</p>
        <Link to={`/trials/${trial.id}/amounts`}>Back to Amounts</Link>
      </>
    )
  }
  const supply = trial.amounts.supply!
  const { factor, nutrient } = outcome.amounts
  const colours = factorColours(trial.treatments, factor)
  const rows = [...outcome.amounts.levels].sort((a, b) => a.productRate.value - b.productRate.value)
  return (
    <>
      <h1>Mixing sheet: {trial.question.title}</h1>
      <p>
        {site.name}, {trial.question.season}. <strong>{supply.product}</strong>, {supply.analysis[nutrient]} % {nutrient}.{' '}
        {supply.applications === 1 ? 'One application.' : `${supply.applications} applications; the amounts are for each one.`} Plot:{' '}
        {workingLine(plotArea(site.ground), units)}.
      </p>
      <table className={`ruled ${classes.sheet}`}>
        <thead>
          <tr>
            <th>Treat</th>
            <th>Treatment</th>
            <th className="number">Weigh per plot</th>
            <th className="number">The site</th>
            <th>Plots</th>
            <th>Weighed by, when, actual</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={row.level.key}>
              <td>{i + 1}</td>
              <td>
                <span className="swatch" style={{ background: swatchFill(colours.get(row.level.key)) }} />
                <strong>{row.level.code}</strong> {row.level.name}
              </td>
              <td className="number">
                <strong>
                  {row.perPlot.value === 0 ? 'nothing' : formatQuantity(row.perPlot.value, 'g', units, { digits: 4, plain: true })}
                </strong>
                {row.volumePerPlot && row.perPlot.value > 0
                  ? ` or ${formatQuantity(row.volumePerPlot.value, 'mL', units, { digits: 4, plain: true })}`
                  : ''}
              </td>
              <td className="number">{formatQuantity(row.perSite.value, 'kg', units, { digits: 4, plain: true })}</td>
              <td>{layout ? row.plots.join(', ') : `${counted(row.plots.length, site.design.unit)}, not laid out yet`}</td>
              <td className={classes.blank} />
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        All levels: <strong>{formatQuantity(outcome.amounts.siteTotal.value, 'kg', units, { digits: 4, plain: true })}</strong> at each
        application.
      </p>
      <h2>Working</h2>
      {rows
        .filter((row) => row.perPlot.value > 0)
        .map((row) => (
          <p key={row.level.key} className="small" style={{ margin: '2px 0' }}>
            {row.level.code}: {workingLine(row.productRate, units)}; {workingLine(row.perPlot, units)}
          </p>
        ))}
      <h2>Before anyone weighs or spreads</h2>
      {outcome.amounts.overMaximum.length > 0 && (
        <p className="caution">
          Over a stated maximum: {outcome.amounts.overMaximum.join(' ')} Reason on record: {supply.overMaximumReason}
        </p>
      )}
      {outcome.amounts.differsAlsoIn.length > 0 && (
        <p className="caution small">{differsInWords(nutrient, outcome.amounts.differsAlsoIn)}</p>
      )}
      {applicationCautions(supply).map((text) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
    </>
  )
}
