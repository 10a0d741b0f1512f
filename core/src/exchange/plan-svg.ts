import { planSvg, siteExtent } from '../ground/index.ts'
import type { Layout, Trial } from '../trial/index.ts'

/** A sheet of A3 less its edges, mm: the longer side of what is drawn fits it. */
const LONGEST = 380

/** The plans of all sites as one drawing that stands alone, one below the other. */
export function planSvgOf(trial: Trial, layouts: readonly Layout[]): string {
  let [width, below] = [0, 0]
  const sites = layouts.map((layout) => {
    const drawn = siteSvg(trial, layout)
    const [, wide, high] = /viewBox="0 0 ([\d.]+) ([\d.]+)"/.exec(drawn)!
    const y = below
    width = Math.max(width, Number(wide))
    below += Number(high) + 6
    return drawn.replace('<svg ', `<svg y="${y}" `).replace(/width="[\d.]+mm" height="[\d.]+mm"/, `width="${wide}" height="${high}"`)
  })
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${below}mm" viewBox="0 0 ${width} ${below}">\n${sites.join('\n')}\n</svg>\n`
}

function siteSvg(trial: Trial, layout: Layout): string {
  const site = trial.sites.find((each) => each.key === layout.siteKey)!
  const { width, length } = siteExtent(layout.units, site.ground)
  const plots = layout.units.filter((unit) => unit.walk !== null).length
  return planSvg({
    layout,
    ground: site.ground,
    treatments: trial.treatments,
    scale: LONGEST / Math.max(width, length, 1),
    alone: {
      title: trial.question.title,
      about: `${site.name}, ${site.season ?? trial.question.season}: ${plots} units, ${Math.round(width * 10) / 10} × ${Math.round(length * 10) / 10} m. The front edge is below.`,
    },
  })
}
