import { designOf } from '@canter/core/design'
import { layoutFigures } from '@canter/core/ground'
import { counted } from '@canter/core/quantity'
import { shownOf, treatmentsAt, treatmentsDealt, type TrialDraft } from '@canter/core/trial'
import { Select } from '@mantine/core'
import type { Saved } from '../data/saving.ts'
import { CountField } from './count-field.tsx'
import { Lock } from './lock.tsx'
import type { ChangeSection } from '../data/saving.ts'

/** Replicates and the level of significance, with what they leave to judge by. */
export function HowSure({ draft, change, fixed }: { draft: TrialDraft; change: ChangeSection; fixed: boolean }) {
  const [first] = draft.sites
  const same = draft.sites.every((site) => site.design.replicates === first!.design.replicates)
  const repeat = designOf(first!.design.key)?.repeat ?? 'Replicates'
  const setAll = async (replicates: number): Promise<Saved> => {
    for (const site of draft.sites) {
      const saved = await change(`site:${site.key}`, { 'design.replicates': replicates })
      if (saved && !saved.ok) return saved
    }
    return { ok: true }
  }
  return (
    <section className="section" aria-labelledby="sure">
      <h2 className="section-title" id="sure">
        How sure {fixed && <Lock what="The number of replicates stands on the ground." />}
      </h2>
      <div className="fields">
        <CountField
          label={`Replicates (${repeat.toLowerCase()})`}
          description={same ? undefined : 'The sites differ; this sets all of them.'}
          value={same ? first!.design.replicates : null}
          low={1}
          high={50}
          disabled={fixed}
          onCommit={(value) => (value === null ? undefined : setAll(value))}
        />
        <Select
          className="half"
          label="Significance level, set beforehand"
          data={[
            { value: '0.01', label: '0.01 (99 % intervals)' },
            { value: '0.05', label: '0.05 (95 % intervals)' },
            { value: '0.1', label: '0.10 (90 %, for growers’ decisions)' },
            { value: '0.2', label: '0.20 (80 %)' },
          ]}
          value={String(draft.question.significance)}
          allowDeselect={false}
          onChange={(value) => value && void change('question', { significance: Number(value) })}
        />
      </div>
      {draft.sites.every((site) => site.design.replicates === 1) && (
        <p className="caution">
          With one replicate a trial describes and does not test: the difference two plots would show anyway cannot be told from that of the
          treatments.
        </p>
      )}
      {draft.sites.map((site) => (
        <p key={site.key} className="small quiet" style={{ margin: '4px 0' }}>
          {draft.sites.length > 1 ? `${site.name}: ` : ''}
          {figuresInWords(draft, site.key)}
        </p>
      ))}
    </section>
  )
}

/** What a site as planned leaves to judge chance by, error by error. */
export function figuresInWords(draft: Pick<TrialDraft, 'treatments' | 'sites'>, site: string): string {
  const figures = layoutFigures(draft, site)
  if (!figures) return 'not ready to be laid out yet.'
  const several = figures.errors.length > 1
  const told = figures.errors.map(({ unit, df }) => {
    const of = several ? ` between ${unit}s` : ''
    if (df <= 0) return `nothing is left to judge chance by${of}`
    return `${counted(df, 'degree')} of freedom to judge chance by${of}${df < 10 ? ', which is few' : ''}`
  })
  const own = draft.sites.find((each) => each.key === site)!
  const { unit } = own.design
  const beside = shownOf(treatmentsAt(draft.treatments, own)).length
  const searched = figures.efficiency === null ? ' How well its comparisons come out is seen when it is laid out.' : ''
  return `${counted(treatmentsDealt(draft.treatments, own).list.length, 'treatment')} on ${counted(figures.units, unit)}${beside > 0 ? `, ${beside} more shown beside` : ''}; ${told.join('; ')}.${searched}`
}
