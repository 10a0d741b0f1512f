import type { Dose, Site, Trial } from '../trial/index.ts'
import { sheetRefusal } from './cautions.ts'
import { doseAmounts, sizeOf, type DoseRow } from './dose-amounts.ts'
import { plannedVisits, stopsOf } from './stops.ts'

/** What stops the sheets of some of what goes on at a site, and whether it is answered for. */
export interface SheetStops {
  /** Each dose that something stops, with all that does; `open`: what of it no reason was given for. */
  readonly by: readonly { readonly dose: Dose; readonly stops: readonly string[]; readonly open: readonly string[] }[]
  /** All of it once, in words. */
  readonly stops: readonly string[]
  /** The reasons on record. */
  readonly reasons: readonly string[]
  /** Why nothing is printed yet; null where it may be. */
  readonly refusal: string | null
}

/** Stops of these rows, dose by dose: each needs a reason of its own, and what came up since it was given needs it again. */
export function sheetStops(rows: readonly DoseRow[], trial: Pick<Trial, 'traits'>, site: Pick<Site, 'ground' | 'design'>): SheetStops {
  const [size, visits] = [sizeOf(site), plannedVisits(trial)]
  const by = [...new Set(rows.map((row) => row.dose))].flatMap((dose) => {
    const stops = [...new Set(rows.filter((row) => row.dose === dose).flatMap((row) => stopsOf(row, size, visits)))]
    return stops.length > 0 ? [{ dose, stops, open: stops.filter((stop) => !answers(dose, stop)) }] : []
  })
  return {
    by,
    stops: [...new Set(by.flatMap(({ stops }) => stops))],
    reasons: [...new Set(by.map(({ dose }) => dose.reason.trim()).filter(Boolean))],
    refusal: sheetRefusal([...new Set(by.flatMap(({ open }) => open))]),
  }
}

function answers({ reason, answered }: Dose, stop: string): boolean {
  return reason.trim() !== '' && (!answered || answered.includes(stop))
}

/** All that stops a dose at any site: what a reason given for it answers. */
export function stopsEverywhere(
  { treatments, amounts, sites, traits }: Pick<Trial, 'treatments' | 'amounts' | 'sites' | 'traits'>,
  dose: string,
): string[] {
  const found = sites.flatMap((site) => {
    const { rows } = doseAmounts(treatments, amounts, site, [])
    return sheetStops(
      rows.filter((row) => row.dose.key === dose),
      { traits },
      site,
    ).stops
  })
  return [...new Set(found)]
}
