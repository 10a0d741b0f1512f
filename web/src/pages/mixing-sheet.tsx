import {
  applicationCautions,
  cleanOut,
  doseAmounts,
  doseCautions,
  factorOf,
  handlingCautions,
  mixingOrder,
  passesOf,
  sheetStops,
  treatmentTotals,
  differsInWords,
  type Pass,
} from '@canter/core/amounts'
import { factorColours, outline, plotArea, swatchFill } from '@canter/core/ground'
import { counted, formatPlain, formatQuantity, workingChain, workingLine, type Worked } from '@canter/core/quantity'
import { dayInWords } from '@canter/core/trial'
import { Link, useParams, useSearchParams } from 'react-router'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useRemaining } from '../data/remaining.ts'
import { Cautions, PrintPage } from './print-page.tsx'
import classes from './print-page.module.css'

export function MixingSheetPage() {
  const { trial: id = '' } = useParams()
  const [search] = useSearchParams()
  const { open, error } = useLoadTrial(id)
  return (
    <PrintPage name="Mixing sheet" back={`/trials/${id}/amounts`} error={error}>
      {open && <Sheet open={open} asked={search.get('pass')} />}
    </PrintPage>
  )
}

/** What the person at the balance needs for one pass, and nothing that can be misread. */
function Sheet({ open: { known: trial, site, layout }, asked }: { open: OpenTrial; asked: string | null }) {
  const { units: system } = usePerson()
  const left = useRemaining(trial.id, site.key)
  const units = layout?.units ?? outline(trial, site.key)
  const { rows, problems } = doseAmounts(trial.treatments, trial.amounts, site, units, left)
  const passes = passesOf(rows, site, units, left)
  const at = asked === null ? 0 : passes.findIndex((each) => each.key === asked)
  const pass = passes[at]
  if (!pass)
    return (
      <p className="sentence">
        {asked !== null ? 'There is no such pass any more.' : (problems[0]?.problem ?? 'Nothing is put on yet that could be measured out.')}{' '}
        <Link to={`/trials/${trial.id}/amounts`}>Back to Amounts</Link>
      </p>
    )
  const own = pass.rows
  const { stops, reasons, refusal } = sheetStops(own, trial, site)
  if (refusal) {
    return (
      <>
        <p className="sentence">{refusal}</p>
        <Link to={`/trials/${trial.id}/amounts`}>Back to Amounts</Link>
      </>
    )
  }
  const { product, dose } = pass
  const factor = factorOf(dose, trial.treatments)
  const colours = factor ? factorColours(trial.treatments, factor) : null
  const carried = pass.turns.some((turn) => turn.carrier)
  const rinse = pass.turns.find((turn) => turn.mix?.rinse)?.mix?.rinse
  const cleaned = cleanOut(passes[at - 1]?.product ?? null, product)
  const tank = inOneTank(pass, passes)
  const { differsAlsoIn } = treatmentTotals(trial.treatments, trial.amounts, site)
  const plain = (of: Worked): string => formatQuantity(of.value, of.unit, system, { digits: 4, plain: true })
  return (
    <>
      <h1>Mixing sheet: {trial.question.title}</h1>
      <p>
        {site.name}, {trial.question.season}. <strong>{product.product}</strong>
        {factor && Object.keys(product.analysis).includes(dose.of)
          ? `, ${product.analysis[dose.of as keyof typeof product.analysis]} % ${dose.of}`
          : ''}
        .{' '}
        {pass.alike > 1
          ? `${pass.alike} applications; the amounts are for each one`
          : dose.parts.length > 1
            ? `Pass ${pass.part + 1} of ${dose.parts.length}`
            : 'One application'}
        {pass.when || pass.on ? ` (${[pass.when, pass.on ? dayInWords(pass.on) : ''].filter(Boolean).join(', ')})` : ''}.{' '}
        {site.design.unit === 'plot' ? 'Plot' : 'Area of one'}: {workingLine(plotArea(site.ground), system)}.
      </p>
      {cleaned && <p className="caution">{cleaned}</p>}
      <table className={`ruled ${classes.sheet}`} data-testid="mixing">
        <thead>
          <tr>
            <th>Treat</th>
            <th>Treatment</th>
            <th className="number">Measure out per {site.design.unit}</th>
            {carried && <th className="number">In water</th>}
            <th className="number">The site</th>
            <th>{site.design.unit === 'plot' ? 'Plots' : 'Where'}</th>
            <th>By, when, actual</th>
          </tr>
        </thead>
        <tbody>
          {pass.turns.map((turn, i) => (
            <tr key={turn.row?.recipient.named?.key ?? turn.name}>
              <td>{i + 1}</td>
              <td>
                {turn.row?.recipient.level && (
                  <span className="swatch" style={{ background: swatchFill(colours!.get(turn.row.recipient.level.key)) }} />
                )}
                <strong>{turn.row?.recipient.named?.code ?? turn.name}</strong> {turn.row?.recipient.named ? turn.name : ''}
              </td>
              <td className="number">
                <strong>{turn.each ? plain(turn.each) : 'nothing'}</strong>
                {turn.or && turn.each && turn.each.value > 0 ? ` or ${plain(turn.or)}` : ''}
                {turn.lesser.map(
                  (own) =>
                    (own.each ?? own.carrier) && (
                      <div key={own.unit.id} className="small">
                        {own.unit.code}, {formatPlain(100 * own.left, 3)} % left:{' '}
                        <strong>{[own.each, own.carrier].flatMap((of) => (of ? [plain(of)] : [])).join(' in ')}</strong>
                      </div>
                    ),
                )}
              </td>
              {carried && <td className="number">{turn.carrier ? plain(turn.carrier) : '–'}</td>}
              <td className="number">{turn.all ? plain(turn.all) : '–'}</td>
              <td>
                {layout
                  ? turn.units.map((unit) => unit.code).join(', ')
                  : `${counted(turn.units.length, site.design.unit)}, not laid out yet`}
              </td>
              <td className={classes.blank} />
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        In all: <strong>{plain(pass.all)}</strong>
        {pass.carrier ? ` in ${plain(pass.carrier)} of water` : ''}
        {pass.alike > 1 ? ' at each application' : ''}.
      </p>
      {carried && (
        <>
          <h2>Tank</h2>
          <table className="ruled" data-testid="tank">
            <thead>
              <tr>
                <th>Treatment</th>
                <th className="number">Mixed in all</th>
                <th className="number">Product in it</th>
                <th>Loads</th>
              </tr>
            </thead>
            <tbody>
              {pass.turns.flatMap((turn) =>
                turn.mix ? (
                  <tr key={turn.name}>
                    <td>{turn.name}</td>
                    <td className="number">{plain(turn.mix.volume)}</td>
                    <td className="number">{turn.mix.product ? plain(turn.mix.product) : 'none'}</td>
                    <td>
                      {turn.mix.full === 0
                        ? `one${turn.mix.product ? '' : ', of water'}`
                        : `${turn.mix.full} full${turn.mix.perFull ? ` with ${plain(turn.mix.perFull)} each` : ''}${turn.mix.perLast || turn.mix.last.value > 1e-9 ? `, then ${plain(turn.mix.last)}${turn.mix.perLast ? ` with ${plain(turn.mix.perLast)}` : ''}` : ''}`}
                    </td>
                  </tr>
                ) : (
                  []
                ),
              )}
            </tbody>
          </table>
          <p className="small">
            Into the tank in this order, unless the label says another: half the water, {tank.map((each) => each.product).join(', ')}, water
            to the mark; stirred until it is empty.
            {rinse ? ` Between treatments and at the end rinsed three times with ${plain(rinse)}, put out where the label says.` : ''}
          </p>
        </>
      )}
      <h2>Working</h2>
      {pass.turns.flatMap((turn) =>
        turn.row && turn.each
          ? [
              <p key={turn.name} className="small" style={{ margin: '2px 0' }}>
                {turn.name}:{' '}
                {[...new Set(workingChain(turn.each, system).map((line) => line.slice(line.indexOf(': ') + 2)))]
                  .filter((line) => / [×÷+−] /.test(line))
                  .join('; ')}
              </p>,
            ]
          : [],
      )}
      <h2>Before anyone measures out or applies</h2>
      {stops.length > 0 && (
        <p className="caution">
          {stops.join(' ')} Reason on record: {reasons.join('; ')}
        </p>
      )}
      {factor && differsAlsoIn.length > 0 && <p className="caution small">{differsInWords(factor.name.toLowerCase(), differsAlsoIn)}</p>}
      <Cautions
        texts={[
          ...applicationCautions([product]),
          ...own.flatMap((row) => [...doseCautions(row, trial.amounts.spreadable), ...handlingCautions(row)]),
        ]}
      />
    </>
  )
}

/** What goes into the same tank: what is carried by as much water, on the same day. */
function inOneTank(pass: Pass, passes: readonly Pass[]) {
  const { carrier } = pass.dose
  const same = passes.filter((each) => each.on === pass.on && each.dose.carrier?.amount === carrier?.amount && each.dose.carrier?.measure === carrier?.measure) // prettier-ignore
  return mixingOrder([...new Set(same.map((each) => each.product))])
}
