import {
  designOf,
  designs,
  proposeDesign,
  type Design,
  type DesignQuestion,
  type DesignSetting,
  type GroundAnswers,
  type SettingValue,
} from '@canter/core/design'
import { layoutProblems } from '@canter/core/ground'
import { counted, plural } from '@canter/core/quantity'
import type { DesignChoice, Site, TrialDraft, UnitKind } from '@canter/core/trial'
import { Radio, Select, Switch } from '@mantine/core'
import { useMemo, useState } from 'react'
import type { Commit } from './use-commit.ts'
import { CountField } from './count-field.tsx'
import { figuresInWords } from './how-sure.tsx'
import classes from './design-sheet.module.css'

const UNITS: readonly UnitKind[] = ['plot', 'pot', 'bed', 'bench']

/** How a site is laid out: each design in words with what it would leave to judge by, then what it is told. */
export function DesignSheet({
  trial,
  site,
  fixed,
  laid,
  change,
}: {
  trial: TrialDraft
  site: Site
  fixed: boolean
  /** Laid out already: other designs stand folded away. */
  laid: boolean
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
      'design.settings': {},
      'design.placed': placedFor(
        next.sizes.map((size) => size.kind),
        next.everyFactorSized,
        trial,
      ),
    })
  }
  const offers = useMemo(() => offersFor(trial, site), [site, trial])
  // The one that is chosen always stands with its figures or its problem, wherever it belongs.
  const chosen = offers.filter((each) => each.design.key === design.key)
  const rest = offers.filter((each) => each.design.key !== design.key)
  const [fitting, others] = [rest.filter((each) => each.problem === null), rest.filter((each) => each.problem !== null)]
  const place = (factor: string, kind: string) => {
    const placed = Object.fromEntries(Object.entries(design.placed).map(([at, keys]) => [at, keys.filter((each) => each !== factor)]))
    return change({ 'design.placed': kind === '' ? placed : { ...placed, [kind]: [...(placed[kind] ?? []), factor] } })
  }
  return (
    <>
      {!fixed && !laid && <Proposed trial={trial} site={site} change={change} />}
      <Radio.Group aria-label="Design" value={design.key} onChange={(key) => key !== design.key && choose(key)}>
        {chosen.map((each) => (
          <Offered key={each.design.key} offer={each} site={site} fixed={fixed} />
        ))}
        <Others
          offers={fitting}
          site={site}
          fixed={fixed}
          open={!laid}
          summary={`${counted(fitting.length, 'other design')} that would do here`}
        />
        <Others
          offers={others}
          site={site}
          fixed={fixed}
          summary={`${counted(others.length, 'design')} that would not yet, with what each needs`}
        />
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
        {own?.settings.map((setting) => (
          <SettingField
            key={`${design.key} ${setting.key}`}
            setting={setting}
            question={{ treatments: trial.treatments, choice: design }}
            disabled={fixed}
            onChange={(value) => change({ 'design.settings': { ...design.settings, [setting.key]: value } })}
          />
        ))}
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

const WAYS = [
  { value: '0', label: 'not at all' },
  { value: '1', label: 'one way' },
  { value: '2', label: 'both ways' },
]

/** A design from what one can say of ground and seed; one takes it with a click, or another below. */
function Proposed({ trial, site, change }: { trial: TrialDraft; site: Site; change: Commit<Readonly<Record<string, unknown>>> }) {
  const [answers, setAnswers] = useState<GroundAnswers>({ hard: null, ways: 1, even: null, single: false })
  const { treatments } = trial
  const { design } = site
  const proposal = useMemo(() => proposeDesign({ treatments, choice: design }, answers), [answers, design, treatments])
  const taken =
    proposal?.design.key === design.key &&
    JSON.stringify([proposal.choice.placed, proposal.choice.replicates]) === JSON.stringify([design.placed, design.replicates]) &&
    Object.entries(proposal.choice.settings).every(([key, value]) => design.settings[key] === value)
  return (
    <div className={classes.proposed} data-testid="proposal">
      <div className="fields">
        <Select
          className="half"
          label="Ground or light changes"
          data={WAYS}
          value={String(answers.ways)}
          allowDeselect={false}
          onChange={(ways) => setAnswers({ ...answers, ways: Number(ways) as GroundAnswers['ways'] })}
        />
        <CountField
          label={`${capital(plural(design.unit))} on even ground`}
          value={answers.even}
          low={1}
          high={6000}
          optional
          placeholder="not said"
          onCommit={(even) => setAnswers({ ...answers, even })}
        />
        {treatments.factors.length > 1 && (
          <Select
            className="half"
            label={`Cannot be changed from ${design.unit} to ${design.unit}`}
            data={[{ value: '', label: 'all can' }, ...treatments.factors.map((factor) => ({ value: factor.key, label: factor.name }))]}
            value={answers.hard ?? ''}
            allowDeselect={false}
            onChange={(hard) => setAnswers({ ...answers, hard: hard || null })}
          />
        )}
        <Switch
          label="Seed for one plot only of most"
          checked={answers.single}
          onChange={(event) => setAnswers({ ...answers, single: event.currentTarget.checked })}
        />
      </div>
      {proposal && (
        <p style={{ margin: '6px 0 8px' }}>
          <strong>
            {taken ? 'As proposed' : 'Proposed'}: {proposal.design.name}.
          </strong>{' '}
          {proposal.why}{' '}
          {!taken && (
            <button
              type="button"
              className="link-button"
              onClick={() =>
                void change({
                  'design.key': proposal.design.key,
                  'design.placed': proposal.choice.placed,
                  'design.settings': proposal.choice.settings,
                  'design.replicates': proposal.choice.replicates,
                })
              }
            >
              Take it
            </button>
          )}
        </p>
      )}
    </div>
  )
}

interface Offer {
  readonly design: Design
  /** What keeps the site from being laid out by it. */
  readonly problem: string | null
  readonly figures: string
}

/** Every design as it would be at this site. */
function offersFor(trial: TrialDraft, site: Site): Offer[] {
  return designs.map((each) => {
    const own = each.key === site.design.key
    const kinds = each.sizes.map((size) => size.kind)
    const tried = withDesign(trial, site, {
      ...site.design,
      key: each.key,
      settings: own ? site.design.settings : {},
      placed: placedFor(kinds, each.everyFactorSized, trial, own ? site.design.placed : undefined),
    })
    const problem = layoutProblems(tried, site.key)[0] ?? null
    return { design: each, problem, figures: problem === null ? capital(figuresInWords(tried, site.key)) : '' }
  })
}

interface OthersProps {
  readonly offers: readonly Offer[]
  readonly site: Site
  readonly fixed: boolean
  readonly open?: boolean
  readonly summary: string
}

function Others({ offers, site, fixed, open = false, summary }: OthersProps) {
  if (offers.length === 0) return null
  return (
    <details className={classes.others} open={open}>
      <summary className="small">{summary}</summary>
      {offers.map((each) => (
        <Offered key={each.design.key} offer={each} site={site} fixed={fixed} />
      ))}
    </details>
  )
}

function Offered({ offer: { design, problem, figures }, site, fixed }: { offer: Offer; site: Site; fixed: boolean }) {
  return (
    <div className={classes.design} data-chosen={design.key === site.design.key}>
      <Radio value={design.key} label={design.name} disabled={fixed} />
      <div className={classes.about}>
        {design.about} <span className="quiet">{problem === null ? figures : `Needs: ${problem}`}</span>
      </div>
    </div>
  )
}

interface SettingFieldProps {
  readonly setting: DesignSetting
  readonly question: DesignQuestion
  readonly disabled: boolean
  readonly onChange: Commit<SettingValue>
}

/** What a design asks, by the kind of answer it takes. */
function SettingField({ setting, question, disabled, onChange }: SettingFieldProps) {
  const value = question.choice.settings[setting.key] ?? setting.usual(question)
  if (setting.kind === 'yes')
    return (
      <Switch
        className="half"
        label={setting.name}
        description={setting.about}
        checked={value === true}
        disabled={disabled}
        onChange={(event) => void onChange(event.currentTarget.checked)}
      />
    )
  if (setting.kind === 'choice')
    return (
      <Select
        className="half"
        label={setting.name}
        description={setting.about}
        inputWrapperOrder={['label', 'input', 'description', 'error']}
        data={(setting.options?.(question) ?? []).map((each) => ({ value: each.value, label: each.name }))}
        value={String(value)}
        disabled={disabled}
        allowDeselect={false}
        onChange={(chosen) => chosen !== null && chosen !== String(value) && void onChange(chosen)}
      />
    )
  const [low, high] = setting.range?.(question) ?? [1, 500]
  return (
    <CountField
      className="half"
      label={setting.name}
      description={setting.about}
      inputWrapperOrder={['label', 'input', 'description', 'error']}
      value={Number(value)}
      low={low}
      high={high}
      disabled={disabled}
      onCommit={(typed) => (typed === null ? undefined : onChange(typed))}
    />
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
