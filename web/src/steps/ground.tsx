import { designOf } from '@canter/core/design'
import { defaultAcross, extentOf, harvestedArea, outline, plotArea, runsOf } from '@canter/core/ground'
import { formatQuantity, plural, workingLine } from '@canter/core/quantity'
import type { Unit } from '@canter/core/trial'
import { MultiSelect, Switch } from '@mantine/core'
import { useMemo } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { CountField } from '../forms/count-field.tsx'
import { Dealing } from '../forms/dealing.tsx'
import { DesignSheet } from '../forms/design-sheet.tsx'
import { History } from '../forms/history.tsx'
import { Planting } from '../forms/planting.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'
import { SiteActs } from '../forms/site-acts.tsx'

type Length = 'plotWidth' | 'plotLength' | 'harvestWidth' | 'harvestLength' | 'plotGap' | 'rowAlley' | 'groupGap' | 'blockAlley' | 'border'

/** Lengths of the ground; those between groups only where there are groups. */
function lengthsOf(unit: string, groups: boolean, blocks: boolean): { field: Length; label: string; low: number; high: number }[] {
  const name = unit.charAt(0).toUpperCase() + unit.slice(1)
  return [
    { field: 'plotWidth', label: `${name} width`, low: 0.02, high: 200 },
    { field: 'plotLength', label: `${name} length`, low: 0.02, high: 1000 },
    { field: 'harvestWidth', label: 'Harvested width', low: 0.02, high: 200 },
    { field: 'harvestLength', label: 'Harvested length', low: 0.02, high: 1000 },
    { field: 'plotGap', label: `Gap between ${unit}s`, low: 0, high: 50 },
    { field: 'rowAlley', label: 'Alley between rows', low: 0, high: 50 },
    ...(groups ? [{ field: 'groupGap' as const, label: 'Gap between main plots', low: 0, high: 100 }] : []),
    ...(blocks ? [{ field: 'blockAlley' as const, label: 'Alley between blocks', low: 0, high: 100 }] : []),
    { field: 'border', label: 'Border around', low: 0, high: 100 },
  ]
}

/** Sites, designs, sizes and places of the units; chance that deals out the treatments; the day it is planted. */
export function GroundStep() {
  const { trial, site, fixed, layout } = useOpenTrial()
  const { save } = useSaving()
  const { units: system } = usePerson()
  const { ground, design } = site
  const section = `site:${site.key}`
  const change = (patch: Readonly<Record<string, unknown>>) => save(section, patch)
  const setLength = (field: Length, value: number) => {
    const patch: Record<string, unknown> = { [`ground.${field}`]: value }
    // A narrower plot takes its harvested strip with it.
    if (field === 'plotWidth' && ground.harvestWidth > value) patch['ground.harvestWidth'] = value
    if (field === 'plotLength' && ground.harvestLength > value) patch['ground.harvestLength'] = value
    return change(patch)
  }
  const units = useMemo(() => layout?.units ?? outline(trial, site.key), [layout, site.key, trial])
  const runs = useMemo(() => runsOf(units), [units])
  const extent = extentOf(units, ground.border)
  const metres = (value: number): string => formatQuantity(value, 'm', system)
  const has = (kind: Unit['kind']): boolean => units.some((unit) => unit.kind === kind)
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
        <div className="fields">
          {lengthsOf(design.unit, has('main plot'), has('block')).map(({ field, label, low, high }) => (
            <QuantityField
              key={field}
              label={label}
              value={ground[field]}
              unit="m"
              low={low}
              high={high}
              onCommit={(value) => (value === null ? undefined : setLength(field, value))}
            />
          ))}
          {runs.map(({ kind, within, count }) => (
            <CountField
              key={kind}
              label={`${capital(plural(kind))} side by side`}
              value={Math.min(count, ground.across[kind] ?? defaultAcross(kind, within, count))}
              low={1}
              high={500}
              onCommit={(value) => (value === null ? undefined : change({ 'ground.across': { ...ground.across, [kind]: value } }))}
            />
          ))}
          <Switch
            label="Numbers run to and fro"
            checked={ground.serpentine}
            onChange={(event) => void change({ 'ground.serpentine': event.currentTarget.checked })}
            className="half"
          />
        </div>
        <p className="small quiet">
          {units.length > 0 && (
            <>
              The whole site takes {metres(extent.width)} × {metres(extent.length)}.{' '}
            </>
          )}
          Treated: {workingLine(plotArea(ground), system)}. Harvested: {workingLine(harvestedArea(ground), system)}.
        </p>
      </section>
      <Planting />
      <History />
    </>
  )
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
