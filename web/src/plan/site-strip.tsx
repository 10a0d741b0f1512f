import { cornersOf, extentOf } from '@canter/core/ground'
import type { Layout, Site, Tally, Unit } from '@canter/core/trial'
import { useMemo } from 'react'
import classes from './plan-panel.module.css'

/** All sites as small plans, one of them open; a click opens another. */
export function SiteStrip({
  sites,
  layouts,
  tallies,
  open,
  onOpen,
}: {
  sites: readonly Site[]
  layouts: readonly Layout[]
  tallies: Readonly<Record<string, Tally>>
  open: string
  onOpen: (site: string) => void
}) {
  return (
    <div className={classes.sites} role="group" aria-label="Sites" data-many={sites.length > 2}>
      {sites.map((site) => {
        const layout = layouts.find((each) => each.siteKey === site.key)
        const tally = tallies[site.key]
        const note = !layout
          ? 'not laid out'
          : !tally || tally.readings === 0
            ? 'no readings yet'
            : `${tally.readings} of ${tally.expected} readings`
        return (
          <button
            key={site.key}
            type="button"
            className={classes.site}
            aria-pressed={site.key === open}
            aria-label={`${site.name}, ${note}`}
            onClick={() => onOpen(site.key)}
          >
            <SmallPlan layout={layout} share={tally && tally.expected > 0 ? tally.readings / tally.expected : 0} />
            <span className={classes.siteName}>{site.name}</span>
            <span className={classes.siteNote}>{note}</span>
          </button>
        )
      })}
    </div>
  )
}

/** Where the walked units lie; those already walked, as far as the readings go, are filled. */
function SmallPlan({ layout, share }: { layout: Layout | undefined; share: number }) {
  const walked = useMemo(
    () => (layout?.units ?? []).filter((unit) => unit.walk !== null && unit.place).sort((a, b) => a.walk! - b.walk!),
    [layout],
  )
  const { x, y, width, length } = useMemo(() => extentOf(walked, 0), [walked])
  const reached = Math.floor(share * walked.length)
  // Two shapes and not one a plot: thousands of them would be drawn anew with each reading.
  const [done, open] = useMemo(
    () => [outlineOf(walked.slice(0, reached), y + length), outlineOf(walked.slice(reached), y + length)],
    [length, reached, walked, y],
  )
  return (
    <svg viewBox={walked.length === 0 ? '0 0 3 2' : `${x} 0 ${width} ${length}`} preserveAspectRatio="xMidYMid meet" aria-hidden>
      {walked.length === 0 && <rect width={3} height={2} fill="none" stroke="currentColor" strokeWidth={0.075} strokeDasharray={0.25} />}
      <path d={done} fill="#9dbfa8" />
      <path d={open} fill="#e9e4d5" />
    </svg>
  )
}

function outlineOf(units: readonly Unit[], top: number): string {
  return units
    .map(({ place }) => {
      const { x, y, width, length, turn } = place!
      // A little smaller than they are, so that one is told from the next.
      const [a, b, c, d] = cornersOf({ x: x + 0.04 * width, y: y + 0.04 * length, width: width * 0.92, length: length * 0.92, turn })
      const at = (corner: readonly [number, number]): string => `${corner[0]} ${top - corner[1]}`
      return `M${at(a)}L${at(b)}L${at(c)}L${at(d)}z`
    })
    .join('')
}
