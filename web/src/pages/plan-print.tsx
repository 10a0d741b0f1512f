import {
  PAPERS,
  planSvg,
  SCALES,
  scaleBar,
  scaleFor,
  sheetsOf,
  siteExtent,
  swatchFill,
  treatmentColours,
  type Paper,
} from '@canter/core/ground'
import { counted } from '@canter/core/quantity'
import { Button, SegmentedControl, Select } from '@mantine/core'
import { useMemo, useState } from 'react'
import { useParams } from 'react-router'
import { useLoadTrial, type OpenTrial } from '../data/open-trial.ts'
import { useSelection } from '../data/selection.ts'
import { chosenPaper, PrintPage } from './print-page.tsx'
import classes from './plan-print.module.css'

const PLAN_PAPERS: readonly Paper[] = ['A4', 'A3', 'letter']
/** Margins of the page, and what heading and key take on each sheet, mm. */
const [SIDES, ENDS, WORDS] = [30, 32, 52]

export function PlanPrintPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  const [paper, setPaper] = useState<Paper>(() => chosenPaper(PLAN_PAPERS))
  const [turned, setTurned] = useState<boolean | null>(null)
  const extent = open?.layout ? siteExtent(open.layout.units, open.site.ground) : null
  // As the ground lies, until somebody says otherwise.
  const landscape = turned ?? (extent !== null && extent.width > extent.length)
  return (
    <PrintPage name="Plan" back={`/trials/${id}/ground`} error={error} papers={PLAN_PAPERS} landscape={landscape} onPaper={setPaper}>
      {open && <PlanSheets open={open} paper={paper} landscape={landscape} onLandscape={setTurned} />}
    </PrintPage>
  )
}

/** The plan of a site to a scale that a ruler can be held to, over as many sheets as it needs, each with north, scale and key. */
function PlanSheets({
  open: { trial, site, layout, layouts },
  paper,
  landscape,
  onLandscape,
}: {
  open: OpenTrial
  paper: Paper
  landscape: boolean
  onLandscape: (landscape: boolean) => void
}) {
  const selection = useSelection()
  const [chosen, setChosen] = useState<number | null>(null)
  const { treatments } = trial
  const { ground } = site
  const { width, height } = PAPERS[paper]
  const [wide, high] = landscape ? [height, width] : [width, height]
  const sheets = useMemo(() => {
    if (!layout) return null
    const extent = siteExtent(layout.units, ground)
    const room = { width: wide - SIDES, height: high - ENDS - WORDS }
    const scale = chosen ?? scaleFor(extent, room)
    const plan = sheetsOf(extent, room, scale, { width: ground.plotWidth, length: ground.plotLength })
    return { ...plan, drawn: plan.windows.map((window) => planSvg({ layout, ground, treatments, window, scale: 1000 / scale })) }
  }, [chosen, ground, high, layout, treatments, wide])
  const laid = trial.sites.filter((each) => layouts.some((own) => own.siteKey === each.key))
  if (!layout || !sheets)
    return <p className="sentence">{site.name} is not laid out yet: its plan comes when its treatments are dealt out, under Ground.</p>
  const bar = scaleBar(1000 / sheets.scale)
  const colours = treatmentColours(treatments)
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
          label="Scale"
          data={[{ value: '', label: `fits one sheet` }, ...SCALES.map((value) => ({ value: String(value), label: `1 to ${value}` }))]}
          value={chosen === null ? '' : String(chosen)}
          allowDeselect={false}
          onChange={(value) => setChosen(value ? Number(value) : null)}
        />
        <SegmentedControl
          size="xs"
          aria-label="Way of the paper"
          value={landscape ? 'across' : 'upright'}
          onChange={(value) => onLandscape(value === 'across')}
          data={[
            { value: 'upright', label: 'Upright' },
            { value: 'across', label: 'Across' },
          ]}
        />
        <Button size="compact-sm" variant="outline" onClick={() => void downloadPng(sheets.drawn[0]!, `${site.name}.png`)}>
          {sheets.drawn.length === 1 ? 'As PNG' : 'Sheet 1 as PNG'}
        </Button>
        <span className="small quiet">{counted(sheets.drawn.length, 'sheet')}</span>
      </div>
      {sheets.drawn.map((svg, i) => (
        <section key={i} className={classes.sheet} aria-label={`Sheet ${i + 1} of ${sheets.drawn.length}`}>
          <h1>{trial.question.title}</h1>
          <p className="small quiet">
            <strong>{site.name}</strong>, {site.season ?? trial.question.season}; 1 to {sheets.scale}
            {sheets.drawn.length > 1
              ? `; sheet ${i + 1} of ${sheets.drawn.length}, row ${1 + Math.floor(i / sheets.columns)} from the back, ${1 + (i % sheets.columns)} from the left`
              : ''}
            . The front edge is below.
          </p>
          {/* Made by planSvg, which escapes every name. */}
          <div className={classes.plan} role="img" aria-label={`Plan of ${site.name}`} dangerouslySetInnerHTML={{ __html: svg }} />
          <div className={classes.foot}>
            <span className={classes.bar} style={{ width: `${bar.millimetres}mm` }} /> {bar.metres} m
            {ground.bearing !== null && (
              <span className={classes.north}>
                <svg viewBox="-10 -10 20 20" style={{ transform: `rotate(${-ground.bearing}deg)` }} aria-hidden>
                  <path d="M0 -8L4 7L0 4L-4 7Z" />
                </svg>
                north
              </span>
            )}
          </div>
          <div className={classes.key}>
            {treatments.list.slice(0, 40).map((each) => (
              <span key={each.key}>
                <span className="swatch" style={{ background: swatchFill(colours.get(each.key)) }} /> {each.code}
                {treatments.list.length <= 16 && each.name !== each.code ? `: ${each.name}` : ''}
              </span>
            ))}
            {treatments.list.length > 40 && <span>and {treatments.list.length - 40} more</span>}
          </div>
        </section>
      ))}
    </>
  )
}

/** Drawn at 300 dots to the inch, as print shops ask for it. */
async function downloadPng(svg: string, name: string): Promise<void> {
  const image = new Image()
  image.src = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }))
  await image.decode()
  const dots = Math.min(300 / 96, 8000 / Math.max(image.width, image.height))
  const canvas = document.createElement('canvas')
  ;[canvas.width, canvas.height] = [Math.round(image.width * dots), Math.round(image.height * dots)]
  const drawing = canvas.getContext('2d')!
  drawing.fillStyle = '#ffffff'
  drawing.fillRect(0, 0, canvas.width, canvas.height)
  drawing.drawImage(image, 0, 0, canvas.width, canvas.height)
  URL.revokeObjectURL(image.src)
  const link = document.createElement('a')
  link.href = canvas.toDataURL('image/png')
  link.download = name
  link.click()
}
