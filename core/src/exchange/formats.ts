import { codesOnly } from '../trial/index.ts'
import { TrialBook } from '../numbers/index.ts'
import type { TrialContents } from './contents.ts'
import { packTrial } from './package.ts'
import { planGeoJson } from './plan-geojson.ts'
import { planSvgOf } from './plan-svg.ts'
import { planXlsx } from './plan-xlsx.ts'
import { plotsCsv, plotsTable } from './plots-csv.ts'
import { recordTables } from './records.ts'

/** A file a trial can be taken along as. Adding one is an entry here; the server and the Decision step list them. */
export interface FileFormat {
  readonly key: string
  readonly name: string
  readonly about: string
  /** After the title of the trial. */
  readonly ending: string
  readonly type: string
  readonly needsLayout: boolean
  make(contents: TrialContents): Uint8Array | string | Promise<Uint8Array>
}

/** A blinded trial goes out under its codes, but for the whole of it, which holds what they stand for. */
function asSeen(trial: TrialContents['trial']): TrialContents['trial'] {
  return trial.treatments.blinded ? { ...trial, treatments: codesOnly(trial.treatments, trial.id) } : trial
}

export const fileFormats: readonly FileFormat[] = [
  {
    key: 'package',
    name: 'Whole trial (zip)',
    about: 'Everything with its history, to be imported again or kept; of a blinded trial too what the codes stand for.',
    ending: '.canter.zip',
    type: 'application/zip',
    needsLayout: false,
    make: packTrial,
  },
  {
    key: 'plots',
    name: 'Plots (CSV)',
    about: 'One row a unit and visit with every value, for a spreadsheet.',
    ending: '-plots.csv',
    type: 'text/csv; charset=utf-8',
    needsLayout: true,
    make: ({ trial, layouts, records }) => plotsCsv(asSeen(trial), layouts, new TrialBook(trial, layouts, records)),
  },
  {
    key: 'workbook',
    name: 'Workbook (XLSX)',
    about: 'Plots with their values, the treatments, and each site as it lies.',
    ending: '.xlsx',
    type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    needsLayout: true,
    make: ({ trial, layouts, records }) => {
      const seen = asSeen(trial)
      return planXlsx(seen, layouts, plotsTable(seen, layouts, new TrialBook(trial, layouts, records)))
    },
  },
  {
    key: 'map',
    name: 'Plan for maps (GeoJSON)',
    about: 'Plots as polygons: in degrees where it is said where a site lies, else in metres.',
    ending: '.geojson',
    type: 'application/geo+json',
    needsLayout: true,
    make: ({ trial, layouts }) => planGeoJson(asSeen(trial), layouts),
  },
  {
    key: 'plan',
    name: 'Plan (SVG)',
    about: 'Each site as a drawing, with north, scale and key.',
    ending: '-plan.svg',
    type: 'image/svg+xml',
    needsLayout: true,
    make: ({ trial, layouts }) => planSvgOf(asSeen(trial), layouts),
  },
  {
    key: 'readings',
    name: 'Readings (CSV)',
    about: 'Every reading as it was taken, corrected ones too.',
    ending: '-readings.csv',
    type: 'text/csv; charset=utf-8',
    needsLayout: true,
    make: ({ records }) => recordTables(records)['readings.csv']!,
  },
]
