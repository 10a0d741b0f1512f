import type { Layout, Site, Tally } from '@canter/core/trial'
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
    <div className={classes.sites} role="group" aria-label="Sites">
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
  const walked = layout?.units.filter((unit) => unit.walk !== null && unit.place) ?? []
  const width = Math.max(1, ...walked.map((unit) => unit.place!.x + unit.place!.width))
  const length = Math.max(1, ...walked.map((unit) => unit.place!.y + unit.place!.length))
  return (
    <svg viewBox={`0 0 ${width} ${length}`} preserveAspectRatio="xMidYMid meet" aria-hidden>
      {walked.length === 0 && (
        <rect width={width} height={length} fill="none" stroke="currentColor" strokeWidth={width / 40} strokeDasharray={width / 12} />
      )}
      {walked.map((unit) => (
        <rect
          key={unit.id}
          x={unit.place!.x}
          y={length - unit.place!.y - unit.place!.length}
          width={unit.place!.width * 0.92}
          height={unit.place!.length * 0.92}
          fill={unit.walk! <= share * walked.length ? '#9dbfa8' : '#e9e4d5'}
        />
      ))}
    </svg>
  )
}
