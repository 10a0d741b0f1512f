import { setOf, traitSets, traitsOf, withTraitSet, type TraitSet } from '@canter/core/numbers'
import { shownUnit, type UnitSystem } from '@canter/core/quantity'
import type { TrialDraft, Visit } from '@canter/core/trial'
import { Button, Select } from '@mantine/core'
import { usePerson } from '../data/queries.ts'
import type { Saved } from '../data/saving.ts'
import { CommitText } from './commit-text.tsx'
import { QuantityField } from './quantity-field.tsx'
import type { ChangeSection } from '../data/saving.ts'

/** Traits, which of them matters, which way is better of each, and when they are read. */
export function MeasuredSheet({ draft, change, measured }: { draft: TrialDraft; change: ChangeSection; measured: boolean }) {
  const { units } = usePerson()
  const { traits } = draft
  const all = [...traits.observed, ...traits.derived]
  const response = all.find((trait) => trait.key === traits.response)
  const set = setOf(traits)
  return (
    <section className="section" aria-labelledby="measured">
      <h2 className="section-title" id="measured">
        What is measured
      </h2>
      <div className="fields">
        <Select
          className="wide"
          label="Traits"
          placeholder="a set of its own"
          description={`${traits.observed.map((trait) => trait.name).join(', ')}${traits.derived.length > 0 ? `; worked out: ${traits.derived.map((trait) => trait.name).join(', ')}` : ''}`}
          inputWrapperOrder={['label', 'input', 'description', 'error']}
          data={traitSets.map((each) => ({ value: each.key, label: each.name }))}
          value={set?.key ?? null}
          disabled={measured}
          allowDeselect={false}
          onChange={(key) => {
            const next = traitSets.find((each) => each.key === key)
            if (next && next !== set) void takeSet(draft, next, change)
          }}
        />
        <Select
          className="half"
          label="The response that matters"
          data={all.map((trait) => ({ value: trait.key, label: trait.name }))}
          value={traits.response}
          allowDeselect={false}
          onChange={(key) => key && void change('traits', { response: key, smallestDifference: null })}
        />
        <QuantityField
          label="Smallest difference worth knowing"
          value={traits.smallestDifference?.value ?? null}
          unit={response?.unit ?? ''}
          low={0}
          optional
          className="half"
          onCommit={(value) =>
            change('traits', { smallestDifference: value !== null && value > 0 ? { value, unit: response?.unit ?? '' } : null })
          }
        />
      </div>
      <TraitTable traits={traits} units={units} onChange={(patch) => change('traits', patch)} />
      <VisitTable visits={traits.visits} onChange={(visits) => change('traits', { visits })} />
      {traits.observed.some((trait) => trait.observers === 'averaged') && (
        <p className="small quiet">
          Averaged over observers, as asked:{' '}
          {traits.observed
            .filter((trait) => trait.observers === 'averaged')
            .map((trait) => trait.name)
            .join(', ')}
          .
        </p>
      )}
    </section>
  )
}

/** Other traits come with the ground and the kind of unit they are taken on, as long as the sites are not laid out by it. */
async function takeSet(draft: TrialDraft, set: TraitSet, change: ChangeSection): Promise<void> {
  const saved = await change('traits', { ...traitsOf(set) })
  if (saved && !saved.ok) return
  const { sites } = withTraitSet(draft, set)
  for (const site of sites) {
    const before = draft.sites.find((each) => each.key === site.key)!
    if (before.design.unit === site.design.unit && before.design.plants === site.design.plants) continue
    const { plotWidth, plotLength, harvestWidth, harvestLength } = site.ground
    await change(`site:${site.key}`, {
      'design.unit': site.design.unit,
      'design.plants': site.design.plants,
      'design.walked': 'unit',
      'ground.plotWidth': plotWidth,
      'ground.plotLength': plotLength,
      'ground.harvestWidth': harvestWidth,
      'ground.harvestLength': harvestLength,
    })
  }
}

type AnyTrait = TrialDraft['traits']['observed'][number] | TrialDraft['traits']['derived'][number]

/** Which way is better of each trait, and what a treatment must keep to be chosen. */
function TraitTable({
  traits,
  units,
  onChange,
}: {
  traits: TrialDraft['traits']
  units: UnitSystem
  onChange: (patch: Partial<TrialDraft['traits']>) => void | Promise<Saved>
}) {
  const patch = (key: string, set: (trait: AnyTrait) => AnyTrait) =>
    onChange(
      traits.observed.some((each) => each.key === key)
        ? { observed: traits.observed.map((each) => (each.key === key ? (set(each) as typeof each) : each)) }
        : { derived: traits.derived.map((each) => (each.key === key ? (set(each) as typeof each) : each)) },
    )
  return (
    <table className="ruled" style={{ marginTop: 8 }} aria-label="What is wanted of each trait">
      <thead>
        <tr>
          <th>Trait</th>
          <th style={{ width: 130 }}>Better is</th>
          <th style={{ width: 120 }}>Must stay</th>
          <th style={{ width: 110 }} />
        </tr>
      </thead>
      <tbody>
        {[...traits.observed, ...traits.derived].map((trait) => (
          <tr key={trait.key}>
            <td>
              {trait.name}
              {'late' in trait && trait.late && <span className="quiet"> · added late</span>}
            </td>
            <td>
              <Select
                size="xs"
                aria-label={`Which way is better of ${trait.name}`}
                data={[
                  { value: 'more', label: 'more' },
                  { value: 'less', label: 'less' },
                  { value: 'neither', label: 'neither' },
                ]}
                value={trait.better}
                allowDeselect={false}
                onChange={(better) => better && void patch(trait.key, (each) => ({ ...each, better: better }))}
              />
            </td>
            <td>
              <Select
                size="xs"
                aria-label={`Limit on ${trait.name}`}
                data={[
                  { value: '', label: 'anywhere' },
                  { value: 'at most', label: 'at most' },
                  { value: 'at least', label: 'at least' },
                ]}
                value={trait.limit?.side ?? ''}
                allowDeselect={false}
                onChange={(side) =>
                  void patch(trait.key, ({ limit, ...each }) =>
                    side ? { ...each, limit: { side: side as 'at most', value: limit?.value ?? 0 } } : each,
                  )
                }
              />
            </td>
            <td>
              {trait.limit && (
                <QuantityField
                  size="xs"
                  aria-label={`Limit of ${trait.name}, ${shownUnit(trait.unit, units)}`}
                  value={trait.limit.value}
                  unit={trait.unit}
                  onCommit={(value) =>
                    value === null ? undefined : patch(trait.key, (each) => ({ ...each, limit: { ...each.limit!, value } }))
                  }
                />
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** When readings are taken: one visit, or several kept apart. */
function VisitTable({ visits, onChange }: { visits: readonly Visit[]; onChange: (visits: Visit[]) => void | Promise<Saved> }) {
  const change = (i: number, patch: Partial<Visit>) => onChange(visits.map((each, at) => (at === i ? { ...each, ...patch } : each)))
  const add = () => {
    let n = visits.length + 1
    while (visits.some((each) => each.key === `visit-${n}`)) n++
    return onChange([...visits, { key: `visit-${n}`, name: `Visit ${n}`, on: null }])
  }
  return (
    <>
      <table className="ruled" style={{ marginTop: 8 }} aria-label="Visits">
        <thead>
          <tr>
            <th>Visit</th>
            <th style={{ width: 180 }}>Planned for</th>
          </tr>
        </thead>
        <tbody>
          {visits.map((visit, i) => (
            <tr key={visit.key}>
              <td>
                <CommitText
                  size="xs"
                  aria-label={`Name of visit ${i + 1}`}
                  value={visit.name}
                  onCommit={(name) => change(i, { name })}
                  check={(text) => (text === '' ? 'Name it.' : null)}
                />
              </td>
              <td>
                <CommitText
                  size="xs"
                  type="date"
                  aria-label={`Date of visit ${i + 1}`}
                  value={visit.on ?? ''}
                  onCommit={(on) => change(i, { on: on || null })}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button size="compact-sm" variant="subtle" onClick={() => void add()} mt={4}>
        Add a visit
      </Button>
    </>
  )
}
