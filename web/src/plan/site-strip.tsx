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
  const width = Math.max(1, ...walked.map((unit) => unit.place!.x + unit.place!.width))
  const length = Math.max(1, ...walked.map((unit) => unit.place!.y + unit.place!.length))
  const reached = Math.floor(share * walked.length)
  // Two shapes and not one a plot: thousands of them would be drawn anew with each reading.
  const [done, open] = useMemo(
    () => [outlineOf(walked.slice(0, reached), length), outlineOf(walked.slice(reached), length)],
    [length, reached, walked],
  )
  return (
    <svg viewBox={`0 0 ${width} ${length}`} preserveAspectRatio="xMidYMid meet" aria-hidden>
      {walked.length === 0 && (
        <rect width={width} height={length} fill="none" stroke="currentColor" strokeWidth={width / 40} strokeDasharray={width / 12} />
      )}
      <path d={done} fill="#9dbfa8" />
      <path d={open} fill="#e9e4d5" />
    </svg>
  )
}

function outlineOf(units: readonly Unit[], length: number): string {
  return units
    .map(({ place }) => {
      const { x, y, width, length: deep } = place!
      return `M${x} ${length - y - deep}h${width * 0.92}v${deep * 0.92}h${-width * 0.92}z`
    })
    .join('')
}
