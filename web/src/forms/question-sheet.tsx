import { randomisedBlock } from '@canter/core/design'
import { traitSets } from '@canter/core/numbers'
import { shownUnit } from '@canter/core/quantity'
import { TrialDraft, type Factor, type TrialDraft as Draft } from '@canter/core/trial'
import { NumberInput, Select, Textarea } from '@mantine/core'
import { usePerson } from '../api/queries.ts'
import { CommitText } from './commit-text.tsx'
import { LevelTable } from './level-table.tsx'
import { QuantityField } from './quantity-field.tsx'

interface QuestionSheetProps {
  readonly draft: Draft
  readonly onChange: (patch: Partial<Draft>) => void
  /** Treatments and replicates stand on the ground. */
  readonly fixed: boolean
  /** Traits with readings cannot be swapped. */
  readonly measured: boolean
  readonly problems?: ReadonlyMap<string, string>
}

const KINDS_OF_FACTOR = [
  { value: 'N', label: 'Rates of nitrogen (N)' },
  { value: 'P', label: 'Rates of phosphorus (P)' },
  { value: 'K', label: 'Rates of potassium (K)' },
  { value: 'S', label: 'Rates of sulphur (S)' },
  { value: 'Mg', label: 'Rates of magnesium (Mg)' },
  { value: 'kinds', label: 'Kinds of thing (varieties, practices)' },
]

/** The question, the treatments, what is measured and how sure one wants to be: the same sheet for a new trial and a standing one. */
export function QuestionSheet({ draft, onChange, fixed, measured, problems }: QuestionSheetProps) {
  const { units } = usePerson()
  const factor = draft.factors[0]!
  const question = (patch: Partial<Draft['question']>): void => onChange({ question: { ...draft.question, ...patch } })
  const traits = [...draft.traits, ...draft.derived]
  const response = traits.find((trait) => trait.key === draft.response)
  const set = traitSets.find((each) => each.traits.every((trait) => draft.traits.some((own) => own.key === trait.key)))
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
            value={draft.title}
            onCommit={(title) => onChange({ title })}
            error={problems?.get('title')}
            check={(text) => (text === '' ? 'Give the trial a title.' : null)}
          />
          <CommitText
            label="Crop"
            value={draft.crop}
            onCommit={(crop) => onChange({ crop })}
            error={problems?.get('crop')}
            check={(text) => (text === '' ? 'Name the crop.' : null)}
          />
          <NumberInput
            label="Season"
            value={draft.season}
            min={1900}
            max={2200}
            allowDecimal={false}
            hideControls
            onChange={(season) => typeof season === 'number' && season >= 1900 && onChange({ season })}
          />
          <CommitText
            className="half"
            label="Asked by"
            placeholder="a growers’ circle"
            value={draft.question.askedBy}
            onCommit={(askedBy) => question({ askedBy })}
          />
          <CommitText
            className="wide"
            label="Why"
            lines={2}
            placeholder="Most fields get 120 kg N/ha by habit. Is the last bag still paid for?"
            value={draft.question.why}
            onCommit={(why) => question({ why })}
          />
          <CommitText
            className="wide"
            label="What you expect, to set against what comes"
            value={draft.question.expected}
            onCommit={(expected) => question({ expected })}
          />
          <CommitText
            className="half"
            label="Ground lent by"
            value={draft.question.hostedBy}
            onCommit={(hostedBy) => question({ hostedBy })}
          />
          <CommitText className="half" label="Paid by" value={draft.question.paidBy} onCommit={(paidBy) => question({ paidBy })} />
        </div>
      </section>
      <section className="section" aria-labelledby="treatments">
        <h2 className="section-title" id="treatments">
          Treatments {fixed && <Lock what="The set of treatments stands on the ground; names can be changed with a reason." />}
        </h2>
        <div className="fields">
          <CommitText
            className="half"
            label="What is varied"
            value={factor.name}
            onCommit={(name) => onChange({ factors: [{ ...factor, name }] })}
            check={(text) => (text === '' ? 'Name what is varied.' : null)}
          />
          <Select
            className="half"
            label="The levels are"
            data={KINDS_OF_FACTOR}
            value={factor.nutrient ?? 'kinds'}
            disabled={fixed}
            allowDeselect={false}
            onChange={(value) => value && onChange({ factors: [asKind(factor, value)] })}
          />
        </div>
        <LevelTable factor={factor} fixed={fixed} problems={problems} onChange={(next) => onChange({ factors: [next] })} />
      </section>
      <section className="section" aria-labelledby="measured">
        <h2 className="section-title" id="measured">
          What is measured
        </h2>
        <div className="fields">
          <Select
            className="wide"
            label="Traits"
            description={`${draft.traits.map((trait) => trait.name).join(', ')}${draft.derived.length > 0 ? `; worked out: ${draft.derived.map((trait) => trait.name).join(', ')}` : ''}`}
            inputWrapperOrder={['label', 'input', 'description', 'error']}
            data={traitSets.map((each) => ({ value: each.key, label: each.name }))}
            value={set?.key ?? null}
            disabled={measured}
            allowDeselect={false}
            onChange={(key) => {
              const next = traitSets.find((each) => each.key === key)
              if (next)
                onChange({
                  traits: [...next.traits],
                  derived: [...next.derived],
                  response: next.response,
                  yieldTrait: next.yieldTrait,
                  qualityTrait: next.qualityTrait,
                  smallestDifference: null,
                })
            }}
          />
          <Select
            className="half"
            label="The response that matters"
            data={traits.map((trait) => ({ value: trait.key, label: trait.name }))}
            value={draft.response}
            allowDeselect={false}
            onChange={(key) => key && onChange({ response: key, smallestDifference: null })}
          />
          <QuantityField
            label="Smallest difference worth knowing"
            value={draft.smallestDifference?.value ?? null}
            unit={response?.unit ?? ''}
            low={0}
            optional
            className="half"
            onCommit={(value) =>
              onChange({ smallestDifference: value !== null && value > 0 ? { value, unit: response?.unit ?? '' } : null })
            }
          />
        </div>
      </section>
      <section className="section" aria-labelledby="sure">
        <h2 className="section-title" id="sure">
          How sure {fixed && <Lock what="The number of replicates stands on the ground." />}
        </h2>
        <div className="fields">
          <NumberInput
            label="Replicates (blocks)"
            value={draft.replicates}
            min={1}
            max={50}
            allowDecimal={false}
            disabled={fixed}
            onChange={(value) => typeof value === 'number' && value >= 1 && value <= 50 && onChange({ replicates: value })}
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
            value={String(draft.significance)}
            allowDeselect={false}
            onChange={(value) => value && onChange({ significance: Number(value) })}
          />
        </div>
        {draft.replicates === 1 && (
          <p className="caution">
            With one replicate a trial describes and does not test: the difference two plots would show anyway cannot be told from that of
            the treatments.
          </p>
        )}
        <p className="small quiet">
          {factor.levels.length} treatments × {draft.replicates} {draft.replicates === 1 ? 'replicate' : 'replicates'} ={' '}
          {factor.levels.length * draft.replicates} plots; {judgedBy(randomisedBlock.errorDf(draft))}
        </p>
      </section>
      <section className="section" aria-labelledby="common">
        <h2 className="section-title" id="common">
          What every plot gets
        </h2>
        <CommonList draft={draft} onChange={onChange} units={shownUnit('kg/ha', units)} />
      </section>
    </>
  )
}

function judgedBy(df: number): string {
  if (df === 0) return 'nothing is left to judge chance by.'
  return `${df} degrees of freedom to judge chance by${df < 10 ? ', which is few: add replicates if you can' : ''}.`
}

function Lock({ what }: { what: string }) {
  return (
    <span className="small quiet" title={what}>
      locked: it stands on the ground
    </span>
  )
}

/** The factor as another kind, its levels carried over as far as they make sense. */
function asKind(factor: Factor, value: string): Factor {
  if (value === 'kinds') return { ...factor, unit: '', nutrient: null, levels: factor.levels.map((level) => ({ ...level, amount: null })) }
  const nutrient = value as NonNullable<Factor['nutrient']>
  const name = KINDS_OF_FACTOR.find((each) => each.value === value)!.label.replace(/^Rates of (\w+).*$/, '$1')
  return {
    ...factor,
    name: name.charAt(0).toUpperCase() + name.slice(1),
    unit: 'kg/ha',
    nutrient,
    levels: factor.levels.map((level, i) => {
      const amount = level.amount ?? i * 40
      return { ...level, amount, code: `${nutrient}${amount}`, name: `${amount} kg ${nutrient}/ha` }
    }),
  }
}

function CommonList({ draft, onChange, units }: { draft: Draft; onChange: (patch: Partial<Draft>) => void; units: string }) {
  const text = draft.common.map((each) => [each.what, each.amount, each.when].filter(Boolean).join('; ')).join('\n')
  return (
    <Textarea
      key={text}
      aria-label="What every plot gets, one a line"
      description={`One a line: what; how much; when. For example: Potash; 120 ${units} K; October before`}
      inputWrapperOrder={['label', 'input', 'description', 'error']}
      autosize
      minRows={2}
      maxRows={8}
      defaultValue={text}
      onBlur={(event) => {
        if (event.currentTarget.value === text) return
        const lines = event.currentTarget.value.split('\n').filter((each) => each.trim() !== '')
        onChange({
          common: lines.slice(0, 60).map((each) => {
            const [what = '', amount = '', when = ''] = each.split(';').map((part) => part.trim().slice(0, 60))
            return { what: what || '–', amount, when }
          }),
        })
      }}
    />
  )
}

/** What is wrong with a draft, by field. */
export function draftProblems(draft: Draft): Map<string, string> {
  const parsed = TrialDraft.safeParse(draft)
  return new Map(parsed.success ? [] : parsed.error.issues.map((issue) => [issue.path.join('.'), issue.message]))
}
