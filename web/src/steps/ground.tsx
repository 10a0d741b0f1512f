import { designOf } from '@canter/core/design'
import { outline } from '@canter/core/ground'
import { MultiSelect } from '@mantine/core'
import { useMemo } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'
import { useSelection } from '../data/selection.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { CountField } from '../forms/count-field.tsx'
import { Dealing } from '../forms/dealing.tsx'
import { DesignSheet } from '../forms/design-sheet.tsx'
import { History } from '../forms/history.tsx'
import { FactsSheet } from '../forms/facts-sheet.tsx'
import { LieSheet } from '../forms/lie-sheet.tsx'
import { NumbersSheet } from '../forms/numbers-sheet.tsx'
import { Planting } from '../forms/planting.tsx'
import { SiteActs } from '../forms/site-acts.tsx'
import { SizesSheet } from '../forms/sizes-sheet.tsx'

/** Sites, designs, sizes and places of the units; chance that deals out the treatments; the day it is planted. */
export function GroundStep() {
  const { trial, site, fixed, layout, units: all } = useOpenTrial()
  const selection = useSelection()
  const { save } = useSaving()
  const { design } = site
  const section = `site:${site.key}`
  const change = (patch: Readonly<Record<string, unknown>>) => save(section, patch)
  const units = useMemo(() => layout?.units ?? outline(trial, site.key), [layout, site.key, trial])
  const picked = all.get(selection.get('plot') ?? '') ?? null
  return (
    <>
      <section className="section" aria-labelledby="site">
        <h2 className="section-title" id="site">
          The site
        </h2>
        <div className="fields">
          <CommitText
            className="half"
            label="Name"
            value={site.name}
            onCommit={(name) => change({ name })}
            check={(text) => (text === '' ? 'Name the site.' : null)}
          />
          <CountField
            label="Season"
            value={site.season ?? trial.question.season}
            low={1900}
            high={2200}
            onCommit={(season) => change({ season: season === null || season === trial.question.season ? null : season })}
          />
          <CommitText className="wide" label="Soil and slope" value={site.soil} onCommit={(soil) => change({ soil })} />
          {(trial.sites.length > 1 || site.without.length > 0) && site.again === null && (
            <MultiSelect
              className="wide"
              label="Treatments that are not here"
              placeholder={site.without.length === 0 ? 'all of them are' : ''}
              data={trial.treatments.list.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` }))}
              value={site.without}
              disabled={fixed}
              searchable
              onChange={(without) => void change({ without })}
            />
          )}
        </div>
        <FactsSheet site={site} change={change} />
        <SiteActs />
      </section>
      <section className="section" aria-labelledby="design">
        <h2 className="section-title" id="design">
          Design {fixed && <span className="small quiet">locked since it is planted or measured</span>}
        </h2>
        {fixed || site.again !== null ? (
          <p style={{ margin: 0 }}>
            <strong>{designOf(design.key)?.name}</strong>, {design.replicates} {designOf(design.key)?.repeat.toLowerCase()}.
          </p>
        ) : (
          <DesignSheet trial={trial} site={site} fixed={fixed} laid={layout !== null} change={change} />
        )}
      </section>
      <Dealing />
      <section className="section" aria-labelledby="plots">
        <h2 className="section-title" id="plots">
          Sizes {fixed && <span className="small quiet">planted: a change needs a reason</span>}
        </h2>
        <SizesSheet site={site} units={units} change={change} />
      </section>
      <section className="section" aria-labelledby="lie">
        <h2 className="section-title" id="lie">
          How it lies
        </h2>
        <LieSheet site={site} units={units} change={change} />
      </section>
      <section className="section" aria-labelledby="numbers-and-rounds">
        <h2 className="section-title" id="numbers-and-rounds">
          Numbers and rounds
        </h2>
        <NumbersSheet site={site} picked={picked?.walk ? picked : null} change={change} />
      </section>
      <Planting />
      <History />
    </>
  )
}
