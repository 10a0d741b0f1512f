import type { Analysis, TermResult } from '@canter/core/analysis'
import { formatNumber, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { Treatments } from '@canter/core/trial'
import { levelLooks } from './levels.ts'

/** The figures a chart is drawn from. */
export function ChartTable({
  analysis,
  term,
  treatments,
  system,
}: {
  analysis: Analysis
  term: TermResult
  treatments: Treatments
  system: UnitSystem
}) {
  const out = (value: number): string => formatNumber(shown(value, analysis.trait.unit, system).value, 4)
  const looks = levelLooks(term, treatments)
  const unit = shownUnit(analysis.trait.unit, system)
  return (
    <table className="ruled">
      <thead>
        <tr>
          <th>Treatment</th>
          <th className="number">{analysis.unit}s</th>
          <th className="number">Mean{unit && unit !== 'score' ? `, ${unit}` : ''}</th>
          <th className="number">Interval</th>
          <th className="number">Lowest to highest</th>
        </tr>
      </thead>
      <tbody>
        {term.means.map((row) => (
          <tr key={row.level}>
            <td>{looks.get(row.level)?.code}</td>
            <td className="number">{row.n}</td>
            <td className="number">{out(row.mean)}</td>
            <td className="number">{Number.isFinite(row.lower) ? `${out(row.lower)} to ${out(row.upper)}` : '–'}</td>
            <td className="number">
              {out(row.min)} to {out(row.max)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
