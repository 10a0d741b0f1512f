import type { Analysis } from '@canter/core/analysis'
import type { ComparisonMethod } from '@canter/core/statistics'
import { formatNumber, formatPlain, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { Factor } from '@canter/core/trial'
import { useComputedColorScheme } from '@mantine/core'
import { Chart, LinearScale, PointElement, Tooltip, LineElement, type ChartDataset, type ChartOptions, type Plugin } from 'chart.js'
import { PointWithErrorBar, ScatterWithErrorBarsController } from 'chartjs-chart-error-bars'
import annotation from 'chartjs-plugin-annotation'
import { useMemo, useRef, useState } from 'react'
import { Chart as ReactChart } from 'react-chartjs-2'
import { treatmentColours } from '../plan/colours.ts'
import { ChartTable } from './chart-table.tsx'

Chart.defaults.font.family = "'Public Sans Variable', sans-serif"
Chart.register(LinearScale, PointElement, LineElement, Tooltip, ScatterWithErrorBarsController, PointWithErrorBar, annotation)

interface MeansChartProps {
  readonly analysis: Analysis
  readonly factor: Factor
  readonly system: UnitSystem
  /** Whose letters (or, against the control, stars) stand above the means. */
  readonly method: ComparisonMethod
  readonly height?: number
  /** Drawn in ink on white whatever the scheme, and without its tools. */
  readonly printed?: boolean
  readonly label?: string
}

/** The controller reads its point options without the `point` prefix its types still name. */
type Series = ChartDataset<'scatterWithErrorBars', Point[]>

export const MARKS: Record<ComparisonMethod, string> = {
  dunnett: 'Star: told apart from the control (Dunnett).',
  tukey: 'Means that share a letter are not told apart (Tukey).',
  lsd: 'Means that share a letter are not told apart (LSD).',
}

interface Point {
  x: number
  y: number
  yMin?: number
  yMax?: number
}

/** Treatment means with their intervals, over the raw plots as open rings; the control as a reference line. */
export function MeansChart({ analysis, factor, system, method, height = 270, printed = false, label }: MeansChartProps) {
  const dark = useComputedColorScheme('light') === 'dark' && !printed
  const [asTable, setAsTable] = useState(false)
  const chart = useRef<Chart<'scatterWithErrorBars', Point[]>>(null)
  const unit = shownUnit(analysis.trait.unit, system)
  const drawn = useMemo(() => series(analysis, factor, system, method), [analysis, factor, system, method])
  const colours = useMemo(() => treatmentColours(factor), [factor])
  const ink = dark ? '#ece9df' : '#1d201d'
  const soft = dark ? '#b5b1a4' : '#56544c'
  const line = dark ? '#3a3e39' : '#d9d5ca'
  const options: ChartOptions<'scatterWithErrorBars'> = {
    animation: false,
    maintainAspectRatio: false,
    responsive: true,
    layout: { padding: { top: 6, right: 10 } },
    scales: {
      x: {
        type: 'linear',
        min: drawn.low,
        max: drawn.high,
        title: { display: true, text: drawn.axis, color: soft },
        ticks: { color: soft, autoSkip: false, maxRotation: 0, callback: (value) => drawn.names.get(Number(value)) ?? '' },
        afterBuildTicks: (axis) => {
          axis.ticks = [...drawn.names.keys()].map((value) => ({ value }))
        },
        grid: { display: false },
        border: { color: soft },
      },
      y: {
        grace: '14%',
        title: { display: true, text: `${analysis.trait.name}, ${unit || 'score'}`, color: soft },
        ticks: { color: soft },
        grid: { color: line },
        border: { display: false },
      },
    },
    plugins: {
      tooltip: { callbacks: { label: (item) => drawn.tip(item.datasetIndex, item.dataIndex) } },
      annotation: {
        annotations:
          drawn.control === null
            ? {}
            : {
                control: { type: 'line', yMin: drawn.control, yMax: drawn.control, borderColor: soft, borderWidth: 1, borderDash: [5, 4] },
              },
      },
    },
  }
  const letters: Plugin<'scatterWithErrorBars'> = {
    id: 'letters',
    afterDatasetsDraw: ({ ctx, scales }) => {
      ctx.save()
      ctx.fillStyle = ink
      ctx.font = "600 12px 'Public Sans Variable', sans-serif"
      ctx.textAlign = 'center'
      drawn.means.forEach((point, i) => {
        const text = drawn.letters[i]
        if (text)
          ctx.fillText(
            text,
            scales['x']!.getPixelForValue(point.x),
            scales['y']!.getPixelForValue(Math.max(point.yMax ?? point.y, drawn.tops[i]!)) - 8,
          )
      })
      ctx.restore()
    },
  }
  const name = label ?? `${analysis.trait.name} by ${factor.name.toLowerCase()}: means with intervals over single plots`
  return (
    <figure style={{ margin: 0 }}>
      {asTable ? (
        <ChartTable analysis={analysis} factor={factor} system={system} />
      ) : (
        <div style={{ height, position: 'relative' }}>
          <ReactChart
            ref={chart}
            type="scatterWithErrorBars"
            aria-label={name}
            role="img"
            options={options}
            plugins={[letters]}
            data={{
              datasets: [
                {
                  data: drawn.raw,
                  pointStyle: 'circle',
                  radius: 3.5,
                  backgroundColor: 'transparent',
                  borderColor: soft,
                  errorBarColor: 'transparent',
                  errorBarWhiskerColor: 'transparent',
                } as Series,
                {
                  data: drawn.means,
                  pointStyle: 'rectRot',
                  radius: 7,
                  backgroundColor: analysis.terms[factor.key]!.means.map((row) => colours.get(row.level)?.fill ?? '#fff'),
                  borderColor: ink,
                  borderWidth: 1.2,
                  errorBarColor: ink,
                  errorBarWhiskerColor: ink,
                  errorBarLineWidth: 1.4,
                  errorBarWhiskerSize: 10,
                } as Series,
              ],
            }}
          />
        </div>
      )}
      {!printed && (
        <figcaption className="small quiet" style={{ display: 'flex', gap: 14, flexWrap: 'wrap' }}>
          <span>
            Diamonds: means{analysis.kind === 'tested' ? ` with ${Math.round(100 * (1 - analysis.significance))} % intervals` : ''}. Rings:
            single plots.
            {drawn.control !== null ? ' Dashed: the control.' : ''}
            {drawn.letters.some(Boolean) ? ` ${MARKS[method]}` : ''}
          </span>
          <span style={{ flex: 1 }} />
          <button type="button" className="link-button" onClick={() => setAsTable(!asTable)}>
            {asTable ? 'As a chart' : 'As a table'}
          </button>
          <button
            type="button"
            className="link-button"
            onClick={() => save(chart.current?.toBase64Image('image/png'), `${analysis.trait.key}.png`)}
          >
            PNG
          </button>
          <button type="button" className="link-button" onClick={() => save(asCsv(analysis, factor), `${analysis.trait.key}.csv`)}>
            CSV
          </button>
        </figcaption>
      )}
    </figure>
  )
}

function series(analysis: Analysis, factor: Factor, system: UnitSystem, method: ComparisonMethod) {
  const rates = factor.unit !== ''
  const term = analysis.terms[factor.key]!
  const levels = factor.levels.filter((level) => term.means.some((row) => row.level === level.key))
  const at = new Map(levels.map((level, i) => [level.key, rates ? shown(level.amount ?? 0, factor.unit, system).value : i]))
  const out = (value: number): number => shown(value, analysis.trait.unit, system).value
  const xs = [...at.values()]
  const room = rates ? (Math.max(...xs) - Math.min(...xs) || 1) * 0.06 : 0.5
  const means = term.means.map((row): Point => {
    const point = { x: at.get(row.level)!, y: out(row.mean) }
    return Number.isFinite(row.lower) ? { ...point, yMin: out(row.lower), yMax: out(row.upper) } : point
  })
  const raw = analysis.residuals.map((row): Point => ({ x: at.get(row.level)!, y: out(row.value) }))
  const control = term.means.find((row) => row.level === term.control)
  const marks =
    method === 'dunnett'
      ? Object.fromEntries((term.comparisons.dunnett ?? []).filter((row) => row.p < analysis.significance).map((row) => [row.a, '*']))
      : (term.letters[method] ?? {})
  const code = (key: string): string => factor.levels.find((level) => level.key === key)?.code ?? key
  return {
    means,
    raw,
    low: Math.min(...xs) - room,
    high: Math.max(...xs) + room,
    names: new Map(levels.map((level) => [at.get(level.key)!, rates ? formatPlain(at.get(level.key)!, 4) : level.code])),
    axis: rates ? `${factor.name}, ${shownUnit(factor.unit, system)}${factor.nutrient ? ` of ${factor.nutrient}` : ''}` : factor.name,
    control: control ? out(control.mean) : null,
    letters: term.means.map((row) => marks[row.level] ?? ''),
    tops: term.means.map((row) => out(row.max)),
    tip: (set: number, index: number): string =>
      set === 0
        ? `plot ${analysis.residuals[index]!.code}, ${code(analysis.residuals[index]!.level)}: ${formatNumber(raw[index]!.y, 4)}`
        : `${code(term.means[index]!.level)}: ${formatNumber(means[index]!.y, 4)}`,
  }
}

function asCsv(analysis: Analysis, factor: Factor): string {
  const code = (key: string): string => factor.levels.find((level) => level.key === key)?.code ?? key
  const lines = analysis.terms[factor.key]!.means.map((row) => [code(row.level), row.n, row.mean, row.se, row.lower, row.upper].join(','))
  const csv = ['treatment,plots,mean,standard_error,lower,upper', ...lines].join('\n')
  return `data:text/csv;charset=utf-8,${encodeURIComponent(`${csv}\n`)}`
}

function save(url: string | undefined, name: string): void {
  if (!url) return
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
}
