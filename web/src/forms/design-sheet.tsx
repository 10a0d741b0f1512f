import { designOf, designs } from '@canter/core/design'
import { layoutProblems } from '@canter/core/ground'
import type { DesignChoice, Site, TrialDraft, UnitKind } from '@canter/core/trial'
import { Radio, Select } from '@mantine/core'
import type { Commit } from './use-commit.ts'
import { CountField } from './count-field.tsx'
import { figuresInWords } from './question-sheet.tsx'
import classes from './design-sheet.module.css'

const UNITS: readonly UnitKind[] = ['plot', 'pot', 'bed', 'bench']

/** How a site is laid out: each design in words with what it would leave to judge by, then what it is told. */
export function DesignSheet({
  trial,
  site,
  fixed,
  change,
}: {
  trial: TrialDraft
  site: Site
  fixed: boolean
  change: Commit<Readonly<Record<string, unknown>>>
}) {
  const { design } = site
  const own = designOf(design.key)
  const { factors } = trial.treatments
  // With one thing varied a design that needs two is not offered; it is named, with what it needs.
  const choose = (key: string): void => {
    const next = designOf(key)!
    void change({
      'design.key': key,
      'design.placed': placedFor(
        next.sizes.map((size) => size.kind),
        next.everyFactorSized,
        trial,
      ),
    })
  }
  const place = (factor: string, kind: string) => {
    const placed = Object.fromEntries(Object.entries(design.placed).map(([at, keys]) => [at, keys.filter((each) => each !== factor)]))
    return change({ 'design.placed': kind === '' ? placed : { ...placed, [kind]: [...(placed[kind] ?? []), factor] } })
  }
  return (
    <>
      <Radio.Group aria-label="Design" value={design.key} onChange={(key) => key !== design.key && choose(key)}>
        {designs.map((each) => {
          const tried = withDesign(trial, site, {
            ...design,
            key: each.key,
            placed: placedFor(
              each.sizes.map((size) => size.kind),
              each.everyFactorSized,
              trial,
              each.key === design.key ? design.placed : undefined,
            ),
          })
          const problems = layoutProblems(tried, site.key)
          return (
            <div key={each.key} className={classes.design} data-chosen={each.key === design.key}>
              <Radio value={each.key} label={each.name} disabled={fixed} />
              <div className={classes.about}>
                {each.about}{' '}
                <span className="quiet">{problems.length > 0 ? `Needs: ${problems[0]}` : capital(figuresInWords(tried, site.key))}</span>
              </div>
            </div>
          )
        })}
      </Radio.Group>
      <div className="fields" style={{ marginTop: 8 }}>
        <CountField
          label={own?.repeat ?? 'Replicates'}
          value={design.replicates}
          low={1}
          high={50}
          disabled={fixed}
          onCommit={(replicates) => (replicates === null ? undefined : change({ 'design.replicates': replicates }))}
        />
        <Select
          label="What is treated"
          data={UNITS.map((unit) => ({ value: unit, label: unit }))}
          value={design.unit}
          disabled={fixed}
          allowDeselect={false}
          onChange={(unit) => unit && unit !== design.unit && void change({ 'design.unit': unit })}
        />
        <CountField
          label={`Plants observed one by one in each ${design.unit}`}
          className="half"
          value={design.plants}
          low={0}
          high={50}
          disabled={fixed}
          onCommit={(plants) =>
            plants === null ? undefined : change({ 'design.plants': plants, ...(plants === 0 ? { 'design.walked': 'unit' } : {}) })
          }
        />
        {design.plants > 0 && (
          <Select
            label="One walks from"
            data={[
              { value: 'unit', label: `${design.unit} to ${design.unit}` },
              { value: 'plant', label: 'plant to plant' },
            ]}
            value={design.walked}
            disabled={fixed}
            allowDeselect={false}
            onChange={(walked) => walked && walked !== design.walked && void change({ 'design.walked': walked })}
          />
        )}
        {own &&
          own.sizes.length > 0 &&
          factors.map((factor) => (
            <Select
              key={factor.key}
              className="half"
              label={`${factor.name} goes on`}
              data={[
                ...own.sizes.map((size) => ({ value: size.kind, label: size.name })),
                ...(own.everyFactorSized ? [] : [{ value: '', label: `${design.unit}s inside` }]),
              ]}
              value={own.sizes.find((size) => design.placed[size.kind]?.includes(factor.key))?.kind ?? (own.everyFactorSized ? null : '')}
              disabled={fixed}
              allowDeselect={false}
              onChange={(kind) => kind !== null && void place(factor.key, kind)}
            />
          ))}
      </div>
    </>
  )
}

/** Where the factors would stand under a design: as they stand where they fit, else one on each size and the rest inside. */
function placedFor(
  kinds: readonly UnitKind[],
  every: boolean,
  { treatments }: TrialDraft,
  standing?: DesignChoice['placed'],
): DesignChoice['placed'] {
  if (standing && kinds.every((kind) => (standing[kind] ?? []).length > 0)) return standing
  const { factors } = treatments
  return Object.fromEntries(
    kinds.map((kind, i) => {
      const own = i === kinds.length - 1 && every ? factors.slice(i) : factors.slice(i, i + 1)
      return [kind, own.map((factor) => factor.key)]
    }),
  )
}

function withDesign(trial: TrialDraft, site: Site, design: DesignChoice): TrialDraft {
  return { ...trial, sites: trial.sites.map((each) => (each.key === site.key ? { ...each, design } : each)) }
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
