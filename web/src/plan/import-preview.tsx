import type { Understood } from '@canter/core/exchange'
import { siteExtent, treatmentColours } from '@canter/core/ground'
import { treatmentOn, type Layout, type Treatments } from '@canter/core/trial'
import { useMemo, useState } from 'react'
import { codeLines } from './colouring/colouring.ts'
import { looksOf, Plan, type Looks } from './plan.tsx'
import { SiteStrip } from './site-strip.tsx'

/** The plan as it would be, coloured by treatment. */
export function ImportPreview({ found, className }: { found: Understood; className: string | undefined }) {
  const [shown, setShown] = useState(0)
  const { sites, treatments } = found.draft
  const at = Math.min(shown, Math.max(0, found.layouts.length - 1))
  const layout = found.layouts[at]
  const looks = useMemo(() => (layout ? looksFor(layout, treatments) : null), [layout, treatments])
  return (
    <aside aria-label="The plan as it is understood" className={className}>
      {layout && looks ? (
        <>
          {sites.length > 1 && (
            <SiteStrip
              sites={sites}
              layouts={found.layouts}
              tallies={{}}
              open={sites[at]!.key}
              onOpen={(key) => setShown(sites.findIndex((each) => each.key === key))}
            />
          )}
          <Plan
            units={layout.units}
            extent={siteExtent(layout.units, sites[at]!.ground)}
            looks={looks}
            selected={null}
            onSelect={() => undefined}
            label="The plan as it is understood"
          />
        </>
      ) : (
        <p className="quiet" style={{ padding: 16 }}>
          The plan stands here once it is known what each plot got.
        </p>
      )}
    </aside>
  )
}

function looksFor({ units }: Layout, treatments: Treatments): Looks {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const colours = treatmentColours(treatments)
  return looksOf((unit) => {
    const treatment = treatmentOn(unit, index, treatments)
    const colour = colours.get(treatment?.key ?? '')
    return {
      fill: colour?.fill ?? '#fffefb',
      ink: colour?.ink ?? '#1d201d',
      hatched: colour?.hatched ?? false,
      lines: codeLines(treatment?.code),
      about: `${unit.kind} ${unit.code}, ${treatment?.name ?? 'no treatment'}`,
    }
  })
}
