import { designOf } from '@canter/core/design'
import { checkTrial } from '@canter/core/document'
import { layoutFigures } from '@canter/core/ground'
import { setOf, traitSets, traitsOf, withTraitSet, type TraitSet } from '@canter/core/numbers'
import { counted, shownUnit, type UnitSystem } from '@canter/core/quantity'
import { emptyFactor, withFactors, type Factor, type Treatments, type TrialDraft, type Visit } from '@canter/core/trial'
import { Button, Select, Textarea } from '@mantine/core'
import { usePerson } from '../data/queries.ts'
import type { Saved } from '../data/saving.ts'
import { CommitText } from './commit-text.tsx'
import { CountField } from './count-field.tsx'
import { FactorSheet } from './factor-sheet.tsx'
import { QuantityField } from './quantity-field.tsx'
import { MixedUp } from './mixed-up.tsx'
import { TreatmentsAndComparisons } from './comparison-list.tsx'
import { TreatmentShapes } from './treatment-shapes.tsx'

/** Changes fields of one section; says what became of it, where that is known. */
export type ChangeSection = (section: string, patch: Readonly<Record<string, unknown>>) => void | Promise<Saved>

interface QuestionSheetProps {
  readonly draft: TrialDraft
  readonly change: ChangeSection
  /** Naming the crop of a trial that is only being begun brings what is usual for it. */
  readonly onCrop?: (crop: string) => void
  /** Treatments stand on the ground. */
  readonly fixed: boolean
  /** Traits with readings cannot be swapped. */
  readonly measured: boolean
  readonly problems?: ReadonlyMap<string, string>
}

/** The question, the treatments, what is measured and how sure one wants to be: the same sheet for a new trial and a standing one. */
export function QuestionSheet({ draft, change, onCrop, fixed, measured, problems }: QuestionSheetProps) {
  const { units } = usePerson()
  const { question, treatments, traits } = draft
  const ask = (patch: Partial<TrialDraft['question']>) => change('question', patch)
  const all = [...traits.observed, ...traits.derived]
  const response = all.find((trait) => trait.key === traits.response)
  const set = setOf(traits)
  const take = (next: Treatments) => change('treatments', { ...next })
  const vary = (factors: readonly Factor[]) => take(withFactors(treatments, factors))
  return (
    <>
      <section className="section" aria-labelledby="asked">
        <h2 className="section-title" id="asked">
          What is asked
        </h2>
        <div className="fields">
          <CommitText
            className="wide"
            label="Title"
            placeholder="Sugar beet: how much nitrogen pays?"
            value={question.title}
            onCommit={(title) => ask({ title })}
            error={problems?.get('question.title')}
            check={(text) => (text === '' ? 'Give the trial a title.' : null)}
          />
          <CommitText
            label="Crop"
            placeholder="Sugar beet"
            value={question.crop}
            onCommit={(crop) => (onCrop ? onCrop(crop) : ask({ crop }))}
            error={problems?.get('question.crop')}
            check={(text) => (text === '' ? 'Name the crop.' : null)}
          />
          <CountField
            label="Season"
            value={question.season}
            low={1900}
            high={2200}
            onCommit={(season) => (season === null ? undefined : ask({ season }))}
          />
          <CommitText
            className="half"
            label="Asked by"
            placeholder="a growers’ circle"
            value={question.askedBy}
            onCommit={(askedBy) => ask({ askedBy })}
          />
          <CommitText
            className="wide"
            label="Why"
            lines={2}
            placeholder="Most fields get 120 kg N/ha by habit. Is the last bag still paid for?"
            value={question.why}
            onCommit={(why) => ask({ why })}
          />
          <CommitText
            className="wide"
            label="What you expect, to set against what comes"
            value={question.expected}
            onCommit={(expected) => ask({ expected })}
          />
          <CommitText className="half" label="Ground lent by" value={question.hostedBy} onCommit={(hostedBy) => ask({ hostedBy })} />
          <CommitText className="half" label="Paid by" value={question.paidBy} onCommit={(paidBy) => ask({ paidBy })} />
        </div>
      </section>
      <section className="section" aria-labelledby="treatments">
        <h2 className="section-title" id="treatments">
          Treatments {fixed && <Lock what="The set of treatments stands on the ground; names can be changed with a reason." />}
        </h2>
        <Blinding blinded={treatments.blinded} onChange={(blinded) => change('treatments', { blinded })} />
        {!treatments.blinded && (
          <>
            {!fixed && (
              <TreatmentShapes
                begun={treatments.list.length > 0 || treatments.factors.some((factor) => factor.name !== '')}
                onBegin={(next) => void take(next)}
              />
            )}
            {treatments.factors.map((factor, i) => (
              <FactorSheet
                key={factor.key}
                factor={factor}
                index={i}
                of={treatments.factors.length}
                fixed={fixed}
                problems={problems}
                onChange={(next) => vary(treatments.factors.map((each) => (each === factor ? next : each)))}
                onRemove={() => void vary(treatments.factors.filter((each) => each !== factor))}
              />
            ))}
            {!fixed && treatments.factors.length < 4 && (
              <Button
                size="compact-sm"
                variant="outline"
                onClick={() =>
                  void vary([
                    ...treatments.factors,
                    { ...emptyFactor(freeFactorKey(treatments.factors), 'kind'), name: 'Second thing', levels: [] },
                  ])
                }
              >
                Vary something else too
              </Button>
            )}
            {problems?.get('treatments.list') && <p className="caution">{problems.get('treatments.list')}</p>}
            {treatments.list.length > 0 && (
              <>
                <MixedUp treatments={treatments} sites={draft.sites} fixed={fixed} onChange={take} />
                <TreatmentsAndComparisons treatments={treatments} fixed={fixed} measured={measured} onChange={take} />
              </>
            )}
          </>
        )}
      </section>
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
      <HowSure draft={draft} change={change} fixed={fixed} />
      <section className="section" aria-labelledby="common">
        <h2 className="section-title" id="common">
          What every plot gets
        </h2>
        <CommonList draft={draft} onChange={(common) => change('amounts', { common })} units={shownUnit('kg/ha', units)} />
      </section>
    </>
  )
}

/** Whether codes only are shown; opening it stays on record. */
function Blinding({ blinded, onChange }: { blinded: boolean; onChange: (blinded: boolean) => void | Promise<Saved> }) {
  return blinded ? (
    <div className="caution" data-testid="blinded">
      Blinded: everywhere else codes stand for the treatments, and the whole trial as a file holds what they mean. It is opened on the
      record.{' '}
      <button type="button" className="link-button" onClick={() => void onChange(false)}>
        Open it
      </button>
    </div>
  ) : (
    <p className="small" style={{ margin: '0 0 8px' }}>
      <button type="button" className="link-button" onClick={() => void onChange(true)}>
        Blind it
      </button>{' '}
      <span className="quiet">so that codes only are shown to whoever treats, walks and reads, until it is opened.</span>
    </p>
  )
}

function freeFactorKey(factors: readonly Factor[]): string {
  let n = 1
  while (factors.some((factor) => factor.key === `factor-${n}`)) n++
  return `factor-${n}`
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

/** Replicates and the level of significance, with what they leave to judge by. */
function HowSure({ draft, change, fixed }: Pick<QuestionSheetProps, 'draft' | 'change' | 'fixed'>) {
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
  const { unit } = draft.sites.find((each) => each.key === site)!.design
  const searched = figures.efficiency === null ? ' How well its comparisons come out is seen when it is laid out.' : ''
  const { without } = draft.sites.find((each) => each.key === site)!
  return `${counted(draft.treatments.list.length - without.length, 'treatment')} on ${counted(figures.units, unit)}; ${told.join('; ')}.${searched}`
}

function Lock({ what }: { what: string }) {
  return (
    <span className="small quiet" title={what}>
      locked: it stands on the ground
    </span>
  )
}

function CommonList({
  draft,
  onChange,
  units,
}: {
  draft: TrialDraft
  onChange: (common: TrialDraft['amounts']['common']) => void | Promise<Saved>
  units: string
}) {
  const standing = draft.amounts.common.map((each) => [each.what, each.amount, each.when].filter(Boolean).join('; ')).join('\n')
  return (
    <Textarea
      key={standing}
      aria-label="What every plot gets, one a line"
      placeholder={`Potash; 120 ${units} K; October before`}
      description="One a line: what; how much; when."
      inputWrapperOrder={['label', 'input', 'description', 'error']}
      autosize
      minRows={2}
      maxRows={8}
      defaultValue={standing}
      onBlur={(event) => {
        const text = event.currentTarget.value
        if (text === standing) return
        const lines = text.split('\n').filter((each) => each.trim() !== '')
        void onChange(
          lines.slice(0, 60).map((each) => {
            const [what = '', amount = '', when = ''] = each.split(';').map((part) => part.trim())
            return { what: what.slice(0, 120) || '–', amount: amount.slice(0, 120), when: when.slice(0, 60) }
          }),
        )
      }}
    />
  )
}

/** What is wrong with a draft, by field. */
export function draftProblems(draft: TrialDraft): Map<string, string> {
  const found = new Map(checkTrial(draft).map(({ path, message }) => [path, message]))
  if (draft.treatments.list.length < 2 && !found.has('treatments.list'))
    found.set('treatments.list', 'Give at least two treatments: with one there is nothing to compare.')
  return found
}
