import { oddsInWords, type Decision } from '@canter/core/decision'
import { formatConfidence, formatNumber, shown, shownUnit, workingLine, type UnitSystem } from '@canter/core/quantity'
import type { Treatments } from '@canter/core/trial'
import { swatchFill, treatmentColours } from '@canter/core/ground'

/** What each treatment returns, costs and gains on the reference. */
export function ReturnTable({
  decision,
  treatments,
  currency,
  system,
}: {
  decision: Decision
  treatments: Treatments
  currency: string
  system: UnitSystem
}) {
  const money = (value: number): string => formatNumber(shown(value, 'money/ha', system).value, 3)
  const tonnes = (value: number): string => formatNumber(shown(value, 't/ha', system).value, 3)
  const [perArea, yieldUnit] = [`${currency}${shownUnit('money/ha', system).slice('money'.length)}`, shownUnit('t/ha', system)]
  const colours = treatmentColours(treatments)
  const worked = decision.returns.find((each) => each.breakEven && each.breakEven.value > 0)?.breakEven
  const { tested } = decision
  const head = (first: string, second: string) => (
    <th className="number">
      {first}
      <br />
      {second}
    </th>
  )
  return (
    <>
      <div style={{ overflowX: 'auto' }}>
        <table className="ruled" data-testid="returns">
          <thead>
            <tr>
              <th>Treatment</th>
              {head('Gross', perArea)}
              {head('Cost', perArea)}
              {head('Net', perArea)}
              {head(`Gain on ${decision.reference.code}`, perArea)}
              {tested && head(`${formatConfidence(decision.significance)} % interval`, perArea)}
              {tested && head('Odds that', 'it pays')}
              {head('Yield that', `pays it, ${yieldUnit}`)}
              {head('Yield', `gained, ${yieldUnit}`)}
            </tr>
          </thead>
          <tbody>
            {decision.returns.map((row) => (
              <tr key={row.treatment.key} data-chosen={row === decision.best}>
                <td style={{ whiteSpace: 'nowrap' }}>
                  <span className="swatch" style={{ background: swatchFill(colours.get(row.treatment.key)) }} />
                  {row.treatment.code}
                  {row.treatment.role === 'yardstick' && <span className="quiet"> yardstick</span>}
                </td>
                <td className="number">{money(row.gross)}</td>
                <td className="number">{money(row.cost.value)}</td>
                <td className="number">{money(row.net)}</td>
                <td className="number">{row.breakEven ? money(row.gain.difference) : '–'}</td>
                {tested && <td className="number">{row.breakEven ? `${money(row.gain.lower)} to ${money(row.gain.upper)}` : ''}</td>}
                {tested && (
                  <td className="number">
                    {row.breakEven ? oddsInWords(row.gain.odds).replace('more than', '>').replace('less than', '<') : ''}
                  </td>
                )}
                <td className="number">{row.breakEven ? tonnes(row.breakEven.value) : ''}</td>
                <td className="number">{row.breakEven ? tonnes(row.extraYield) : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {worked && (
        <p className="small quiet">
          Yield that pays the extra cost, for example: {workingLine(worked, system).replaceAll('€', currency)}. Gross returns are worked out
          plot by plot{decision.scaled ? ' at each plot’s own quality' : ''}.
        </p>
      )}
    </>
  )
}
