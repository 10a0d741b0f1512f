import { calculationCautions, doseAmounts, sheetStops, workedSheet } from '@canter/core/amounts'
import { figure, shownUnit, workingChain } from '@canter/core/quantity'
import { dayInWords, type Site, type Trial, type Unit, type Worksheet } from '@canter/core/trial'
import { useParams, useSearchParams } from 'react-router'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { Cautions, PrintPage } from './print-page.tsx'
import classes from './print-page.module.css'

export function WorksheetPage() {
  const { trial: id = '' } = useParams()
  const [search] = useSearchParams()
  const { open, error } = useLoadTrial(id)
  return (
    <PrintPage name="Worksheet" back={`/trials/${id}/amounts`} error={error}>
      {open && <Printed open={open} sheetKey={search.get('sheet') ?? ''} />}
    </PrintPage>
  )
}

/** What was given, what it comes to, how, and what to mind: one page. */
function Printed({ open: { known: trial, layouts }, sheetKey }: { open: OpenTrial; sheetKey: string }) {
  const { units: system } = usePerson()
  const sheet = trial.amounts.sheets?.find((each) => each.key === sheetKey)
  const worked = sheet && workedSheet(sheet)
  if (!sheet || !worked) return <p className="sentence">This worksheet is not kept with the trial any more.</p>
  const { calculation, reckoned } = worked
  const site = trial.sites.find((each) => each.key === sheet.site)
  // One that is for a pass waits for what its pass waits for.
  const waits = sheet.pass && site ? passOf(trial, site, layouts.find((each) => each.siteKey === site.key)?.units ?? [], sheet.pass) : null
  if (waits?.refusal) return <p className="sentence">{waits.refusal}</p>
  if (!reckoned.ok) return <p className="sentence">It cannot be worked out: {reckoned.problems.map((each) => each.problem).join(' ')}</p>
  const figures = Object.values(reckoned.figures)
  const typed = calculation.inputs.filter((each) => sheet.given[each.key] !== undefined || each.usual !== undefined)
  return (
    <>
      <h1>{sheet.title}</h1>
      <p>
        {sheet.title.startsWith(calculation.name) ? '' : `${calculation.name}. `}
        {trial.question.title}
        {site ? ` (${site.name})` : ''}
        {sheet.on ? `, ${dayInWords(sheet.on)}` : ''}.{waits ? ` For ${waits.name}.` : ''}
      </p>
      <table className={`ruled ${classes.sheet}`} data-testid="worksheet">
        <tbody>
          {figures.map((each) => (
            <tr key={each.label}>
              <td>{each.label}</td>
              <td className="number">
                <strong>{figure(each, system, 4)}</strong>
              </td>
              <td className={classes.blank} />
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Given</h2>
      <p className="small">
        {typed
          .map((each) => {
            const text = sheet.given[each.key] ?? String(each.usual)
            const unit = /^[\d\s.,;+\-−]*$/.test(text) ? shownUnit(each.unit, sheet.system) : ''
            return `${each.name}: ${text}${unit ? ` ${unit}` : ''}`
          })
          .join('; ')}
        .
      </p>
      <h2>Working</h2>
      {[...new Set(figures.flatMap((each) => workingChain(each, system)))]
        .filter((line) => line.includes(' = '))
        .map((line) => (
          <p key={line} className="small" style={{ margin: '2px 0' }}>
            {line}
          </p>
        ))}
      {sheet.note && (
        <>
          <h2>Note</h2>
          <p>{sheet.note}</p>
        </>
      )}
      <h2>Before anyone begins</h2>
      <Cautions texts={[...reckoned.doubts, ...calculationCautions(calculation)]} />
    </>
  )
}

/** The pass a worksheet is for: what it is called, and whether its sheets are stopped; null once nobody puts that on any more. */
function passOf(trial: Trial, site: Site, units: readonly Unit[], { dose, part }: NonNullable<Worksheet['pass']>) {
  const own = doseAmounts(trial.treatments, trial.amounts, site, units).rows.filter((row) => row.dose.key === dose)
  const [some] = own
  if (!some) return null
  const { when, on } = some.dose.parts[part] ?? { when: '', on: null }
  const told = [some.product.product, ...(some.dose.parts.length > 1 ? [`pass ${part + 1} of ${some.dose.parts.length}`] : []), when, on ? dayInWords(on) : ''] // prettier-ignore
  return { name: told.filter(Boolean).join(', '), refusal: sheetStops(own, trial, site).refusal }
}
