import type { Analysis } from '@canter/core/analysis'
import { formatNumber, shown, type UnitSystem } from '@canter/core/quantity'
import type { Factor } from '@canter/core/trial'

/** The figures a chart is drawn from. */
export function ChartTable({ analysis, factor, system }: { analysis: Analysis; factor: Factor; system: UnitSystem }) {
  const out = (value: number): string => formatNumber(shown(value, analysis.trait.unit, system).value, 4)
  return (
    <table className="ruled">
      <thead>
        <tr>
          <th>Treatment</th>
          <th className="number">Plots</th>
          <th className="number">Mean</th>
          <th className="number">Interval</th>
          <th className="number">Single plots</th>
        </tr>
      </thead>
      <tbody>
        {analysis.terms[factor.key]!.means.map((row) => (
          <tr key={row.level}>
            <td>{factor.levels.find((level) => level.key === row.level)?.code}</td>
            <td className="number">{row.n}</td>
            <td className="number">{out(row.mean)}</td>
            <td className="number">{Number.isFinite(row.lower) ? `${out(row.lower)} to ${out(row.upper)}` : '–'}</td>
            <td className="number">
              {analysis.residuals
                .filter((each) => each.level === row.level)
                .map((each) => out(each.value))
                .join(' · ')}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
