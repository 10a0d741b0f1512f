import { comparisonMethod } from '@canter/core/statistics'
import { captionOf, sentencesOf, type Analysis, type TermResult } from '@canter/core/analysis'
import { formatConfidence, formatNumber, formatPlain, plural, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import { nutrientOf, type Treatments } from '@canter/core/trial'
import { useComputedColorScheme } from '@mantine/core'
import { Chart, LinearScale, PointElement, Tooltip, LineElement, type ChartDataset, type ChartOptions, type Plugin } from 'chart.js'
import { PointWithErrorBar, ScatterWithErrorBarsController } from 'chartjs-chart-error-bars'
import annotation from 'chartjs-plugin-annotation'
import Papa from 'papaparse'
import { useMemo, useRef, useState } from 'react'
import { Chart as ReactChart } from 'react-chartjs-2'
import { ChartTable } from './chart-table.tsx'
import { levelLooks, partsOf, type LevelLook } from './levels.ts'

Chart.defaults.font.family = "'Public Sans Variable', sans-serif"
Chart.register(LinearScale, PointElement, LineElement, Tooltip, ScatterWithErrorBarsController, PointWithErrorBar, annotation)

interface MeansChartProps {
  readonly analysis: Analysis
  readonly term: TermResult
  readonly treatments: Treatments
  readonly system: UnitSystem
  /** Whose letters (or, against the control, stars) stand above the means. */
  readonly method: string
  readonly height?: number
  /** Drawn in ink on white whatever the scheme, and without its tools. */
  readonly printed?: boolean
}

/** The controller reads its point options without the `point` prefix its types still name. */
type Series = ChartDataset<'scatterWithErrorBars', Point[]>

/** What the marks above the means say. */
export function marksOf(method: string): string {
  const { pairs, school } = comparisonMethod(method)
  return pairs === 'control'
    ? `Star: told apart from the control (${school}).`
    : `Means that share a letter are not told apart (${school}).`
}

interface Point {
  x: number
  y: number
  yMin?: number
  yMax?: number
}

/** Means of a term with their intervals, over the raw units as open rings; the control as a reference line. */
export function MeansChart({ analysis, term, treatments, system, method, height = 270, printed = false }: MeansChartProps) {
  const dark = useComputedColorScheme('light') === 'dark' && !printed
  const [asTable, setAsTable] = useState(false)
  const caption = useMemo(() => captionOf(analysis, term.term, system), [analysis, term, system])
  // What leads the page stands above the chart already.
  const lead = useMemo(() => sentencesOf(analysis, system).find((each) => each.about !== 'planned')?.text, [analysis, system])
  const chart = useRef<Chart<'scatterWithErrorBars', Point[]>>(null)
  const unit = shownUnit(analysis.trait.unit, system)
  const looks = useMemo(() => levelLooks(term, treatments), [term, treatments])
  const drawn = useMemo(
    () => series(analysis, term, treatments, looks, system, method),
    [analysis, looks, method, system, term, treatments],
  )
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
        ticks: {
          color: soft,
          autoSkip: false,
          maxRotation: drawn.names.size > 12 ? 60 : 0,
          callback: (value) => drawn.names.get(Number(value)) ?? '',
        },
        afterBuildTicks: (axis) => {
          axis.ticks = [...drawn.names.keys()].map((value) => ({ value }))
        },
        grid: { display: false },
        border: { color: soft },
      },
      y: {
        grace: '14%',
        title: { display: true, text: inLines([analysis.trait.name, unit].filter(Boolean).join(', ')), color: soft },
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
  return (
    <figure style={{ margin: 0 }}>
      {asTable ? (
        <ChartTable analysis={analysis} term={term} treatments={treatments} system={system} />
      ) : (
        <div style={{ height, position: 'relative' }}>
          <ReactChart
            ref={chart}
            type="scatterWithErrorBars"
            aria-label={`${analysis.trait.name} by ${drawn.axis.toLowerCase()}: means with intervals over single ${plural(analysis.unit)}${caption === null ? '' : `. ${caption}`}`}
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
                  pointStyle: drawn.marks,
                  radius: 7,
                  backgroundColor: term.means.map((row) => looks.get(row.level)?.colour.fill ?? '#fff'),
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
            {caption !== null && caption !== lead && <span data-testid="caption">{caption} </span>}
            Filled: means{analysis.kind === 'tested' ? ` with ${formatConfidence(analysis.significance)} % intervals` : ''}. Rings: single{' '}
            {plural(analysis.unit)}.{drawn.control !== null ? ' Dashed: the control.' : ''}
            {drawn.letters.some(Boolean) ? ` ${marksOf(method)}` : ''}
            {drawn.series.length > 1 ? ` ${drawn.series.join(', ')}.` : ''}
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
          <button
            type="button"
            className="link-button"
            onClick={() => save(asCsv(analysis, term, looks, system), `${analysis.trait.key}.csv`)}
          >
            CSV
          </button>
        </figcaption>
      )}
    </figure>
  )
}

/** Marks that tell the second of two factors apart without colour. */
const MARKS = ['rectRot', 'circle', 'rect', 'triangle', 'star', 'crossRot'] as const
const MARK_NAMES = ['diamond', 'disc', 'square', 'triangle', 'star', 'cross'] as const

function series(
  analysis: Analysis,
  term: TermResult,
  treatments: Treatments,
  looks: ReadonlyMap<string, LevelLook>,
  system: UnitSystem,
  method: string,
) {
  const factors = term.factors.map((key) => treatments.factors.find((factor) => factor.key === key))
  const [only] = factors
  const rates = term.factors.length === 1 && only?.kind === 'rate'
  const out = (value: number): number => shown(value, analysis.trait.unit, system).value
  // Several factors: groups by all but the last, its levels side by side in each.
  const parts = term.means.map((row) => partsOf(row.level, term))
  const groups = [...new Set(parts.map((part) => part.slice(0, -1).join(' ')))]
  const lasts = [...new Set(parts.map((part) => part.at(-1)!))]
  const crossed = term.factors.length > 1
  const xOf = (level: string, i: number): number => {
    if (rates) return shown(only.levels.find((each) => each.key === level)?.amount ?? 0, only.measure, system).value
    if (!crossed) return i
    const part = partsOf(level, term)
    const group = groups.indexOf(part.slice(0, -1).join(' '))
    return group + ((lasts.indexOf(part.at(-1)!) - (lasts.length - 1) / 2) * 0.72) / lasts.length
  }
  const at = new Map(term.means.map((row, i) => [row.level, xOf(row.level, i)]))
  const xs = [...at.values()]
  const room = rates ? (Math.max(...xs) - Math.min(...xs) || 1) * 0.06 : 0.5
  const means = term.means.map((row): Point => {
    const value = row.back ?? row
    const point = { x: at.get(row.level)!, y: out(value.mean) }
    return Number.isFinite(value.lower) ? { ...point, yMin: out(value.lower), yMax: out(value.upper) } : point
  })
  const levelOf = residualLevel(analysis, term)
  const plotted = analysis.residuals.filter((row) => at.has(levelOf(row)))
  const raw = plotted.map((row): Point => ({ x: at.get(levelOf(row))!, y: out(row.value) }))
  const control = term.means.find((row) => row.level === term.control)
  const { pairs } = comparisonMethod(method)
  const marks =
    pairs === 'control'
      ? Object.fromEntries((term.comparisons[method] ?? []).filter((row) => row.p < analysis.significance).map((row) => [row.a, '*']))
      : (term.letters[method] ?? {})
  const code = (level: string): string => looks.get(level)?.code ?? level
  const names = crossed
    ? new Map(groups.map((group, i) => [i, codeOfGroup(group, term, looks)]))
    : new Map(term.means.map((row) => [at.get(row.level)!, rates ? formatPlain(at.get(row.level)!, 4) : code(row.level)]))
  const called = factors.map((factor, i) => factor?.name ?? term.factors[i]!)
  const axis = rates
    ? `${only.name}, ${shownUnit(only.measure, system)}${nutrientOf(only) ? ` of ${nutrientOf(only)}` : ''}`
    : called.join(' × ')
  return {
    means,
    raw,
    low: Math.min(...xs) - room,
    high: Math.max(...xs) + room,
    names,
    axis: axis.charAt(0).toUpperCase() + axis.slice(1),
    control: control ? out(control.mean) : null,
    letters: term.means.map((row) => marks[row.level] ?? ''),
    tops: term.means.map((row) => out(row.max)),
    marks: term.means.map((row) => (crossed ? MARKS[lasts.indexOf(partsOf(row.level, term).at(-1)!) % MARKS.length]! : 'rectRot')),
    series: crossed ? lasts.map((last, i) => `${MARK_NAMES[i % MARK_NAMES.length]}: ${lastCode(last, term, looks)}`) : [],
    tip: (set: number, index: number): string =>
      set === 0
        ? `${analysis.unit} ${plotted[index]!.code}, ${code(levelOf(plotted[index]!))}: ${formatNumber(raw[index]!.y, 4)}`
        : `${code(term.means[index]!.level)}: ${formatNumber(means[index]!.y, 4)}`,
  }
}

/** The level of the term that a unit has: the parts of its treatment that the term is of. */
function residualLevel(analysis: Analysis, term: TermResult): (row: Analysis['residuals'][number]) => string {
  const all = Object.values(analysis.terms).filter((each) => !each.factors.includes('site'))
  const whole = all.reduce((a, b) => (b.factors.length > a.factors.length ? b : a), all[0] ?? term)
  return (row) => {
    const parts = partsOf(row.level, whole)
    return term.factors.map((factor) => parts[whole.factors.indexOf(factor)] ?? '').join(':')
  }
}

function codeOfGroup(group: string, term: TermResult, looks: ReadonlyMap<string, LevelLook>): string {
  const found = term.means.find((row) => partsOf(row.level, term).slice(0, -1).join(' ') === group)
  return (found && looks.get(found.level)?.parts.slice(0, -1).join(' ')) ?? group
}

function lastCode(last: string, term: TermResult, looks: ReadonlyMap<string, LevelLook>): string {
  const found = term.means.find((row) => partsOf(row.level, term).at(-1) === last)
  return (found && looks.get(found.level)?.parts.at(-1)) ?? last
}

/** The figures of the chart, in its own measures. */
function asCsv(analysis: Analysis, term: TermResult, looks: ReadonlyMap<string, LevelLook>, system: UnitSystem): string {
  const unit = shownUnit(analysis.trait.unit, system)
  const out = (value: number): string =>
    Number.isFinite(value) ? String(Number(shown(value, analysis.trait.unit, system).value.toPrecision(8))) : ''
  const measured = (name: string): string => (unit && unit !== 'score' ? `${name} [${unit}]` : name)
  const csv = Papa.unparse(
    {
      fields: ['treatment', `${analysis.unit}s`, measured('mean'), measured('standard_error'), measured('lower'), measured('upper')],
      data: term.means.map((row) => [
        looks.get(row.level)?.code ?? row.level,
        row.n,
        out(row.mean),
        out(row.se),
        out(row.lower),
        out(row.upper),
      ]),
    },
    { newline: '\n' },
  )
  return `data:text/csv;charset=utf-8,${encodeURIComponent(`${csv}\n`)}`
}

function save(url: string | undefined, name: string): void {
  if (!url) return
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
}

/** A long title of a short axis stands in lines, since what does not fit is cut off. */
function inLines(title: string): string[] {
  return title.split(' ').reduce<string[]>((lines, word) => {
    const last = lines.at(-1)
    return last !== undefined && last.length + word.length < 24 ? [...lines.slice(0, -1), `${last} ${word}`] : [...lines, word]
  }, [])
}
