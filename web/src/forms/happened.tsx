import { formatPlain } from '@canter/core/quantity'
import { fateInWords, fateKinds, levelOfAmount, type Fate, type FateKind, type Unit } from '@canter/core/trial'
import { Button, Group, Select, TextInput } from '@mantine/core'
import dayjs from 'dayjs'
import { useState } from 'react'
import { useSlice } from '../data/book.ts'
import type { Part } from '../data/book-worker.ts'
import { makeFate, makeRetraction } from '../data/make.ts'
import { useKnownDays } from '../data/known-days.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { keep } from '../data/sync.ts'
import type { RowView } from '@canter/core/numbers'
import { NumberField } from './number-field.tsx'
import { QuantityField } from './quantity-field.tsx'
import { TreatmentChangeForm } from './treatment-change.tsx'
import { WhenField, whenMeant } from './when-field.tsx'

const OTHER_TREATMENT = 'other treatment'

/** What really happened to the unit picked: what is on record, and one more thing put there. Works without a signal. */
export function Happened({ unit, large = false }: { unit: Unit; large?: boolean }) {
  const { trial, layout, units, visit } = useOpenTrial()
  const person = usePerson()
  const [kind, setKind] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const rows = useSlice<Part<RowView>>(trial.id, `row ${unit.id} ${visit.key}`, (from) => from.rows(trial.id, [unit.id], visit.key, null))
  const fates = rows?.items[0]?.fates ?? []
  const names = { factors: trial.treatments.factors, unit: (id: string) => units.get(id) }
  const treated = layout?.structure.factors.some((each) => each.appliedTo === unit.kind) ?? false
  const chosen = fateKinds.find((each) => each.key === kind)
  const put = async (record: Parameters<typeof keep>[1]): Promise<void> => {
    await keep(trial.id, record)
    setProblem(null)
  }
  const failed = (error: unknown): void => setProblem(error instanceof Error ? error.message : String(error))
  return (
    <div data-testid="happened">
      {fates.length > 0 && (
        <ul className="small" style={{ listStyle: 'none', padding: 0, margin: '4px 0' }}>
          {fates.map((fate) => (
            <li key={fate.id}>
              {fateInWords(fate, names)}.{' '}
              <button
                type="button"
                className="link-button"
                onClick={() => void put(makeRetraction(person.id, fate.id, 'Taken back')).catch(failed)}
              >
                Take back
              </button>
            </li>
          ))}
        </ul>
      )}
      <Select
        label={`What happened to ${unit.kind} ${unit.code}`}
        placeholder="Choose"
        size={large ? 'md' : 'sm'}
        value={kind}
        onChange={setKind}
        data={[
          ...(treated ? [{ value: OTHER_TREATMENT, label: 'Given another treatment, or its label was wrong' }] : []),
          ...fateKinds.filter(({ asks }) => treated || !asks.includes('factor')).map((each) => ({ value: each.key, label: each.name })),
        ]}
      />
      {kind === OTHER_TREATMENT && <TreatmentChangeForm key={`${unit.id} ${JSON.stringify(unit.received)}`} unit={unit} />}
      {chosen && (
        <FateForm
          key={`${unit.id} ${chosen.key}`}
          unit={unit}
          kind={chosen}
          large={large}
          onPut={(fate) => put(fate).then(() => setKind(null), failed)}
          onOtherTreatment={() => setKind(OTHER_TREATMENT)}
        />
      )}
      {problem && (
        <p className="caution small" role="alert">
          Not kept: {problem}
        </p>
      )}
    </div>
  )
}

interface FateFormProps {
  readonly unit: Unit
  readonly kind: FateKind
  readonly large: boolean
  readonly onPut: (fate: Fate) => Promise<void>
  readonly onOtherTreatment: () => void
}

function FateForm({ unit, kind, large, onPut, onOtherTreatment }: FateFormProps) {
  const { trial, layout, units } = useOpenTrial()
  const person = usePerson()
  const known = useKnownDays()
  const applied = layout?.structure.factors.filter((each) => each.appliedTo === unit.kind) ?? []
  const factors = trial.treatments.factors.filter((factor) => applied.some((each) => each.factor === factor.key))
  const offered = kind.asks.includes('amount') ? factors.filter((factor) => factor.measure !== '') : factors
  const [when, setWhen] = useState(dayjs().format('YYYY-MM-DD'))
  const [meant, setMeant] = useState<Fate['on'] | null>(null)
  const [said, setSaid] = useState({
    share: null as number | null,
    factor: offered[0]?.key ?? null,
    amount: null as number | null,
    to: null as string | null,
    place: '',
    parts: null as number | null,
    reason: '',
  })
  const [tried, setTried] = useState(false)
  const say = (more: Partial<typeof said>): void => setSaid((before) => ({ ...before, ...more }))
  const asks = (field: (typeof kind.asks)[number]): boolean => kind.asks.includes(field) || (kind.may?.includes(field) ?? false)
  const read = whenMeant(when, meant, { year: trial.question.season, known })
  const factor = offered.find((each) => each.key === said.factor)
  const lacking =
    kind.asks.find((field) => said[field] === null || said[field] === '') ??
    (kind.key === 'moved' && said.to === null && said.place.trim() === '' ? 'place' : undefined)
  const same = factor && levelOfAmount(factor, kind.key, unit.received[factor.key], said.amount)
  const holders = holdersFor(unit, layout?.units ?? [], units)
  if (asks('factor') && offered.length === 0)
    return (
      <p className="caution small">
        {kind.asks.includes('amount')
          ? `No amount was put on this ${unit.kind} by itself: record another treatment, or pick the unit that was treated.`
          : `Nothing was put on this ${unit.kind} by itself: pick the unit that was treated.`}
      </p>
    )
  const size = large ? 'md' : 'sm'
  const missing = 'This is needed.'
  return (
    <form
      aria-label={`${kind.name}: ${unit.kind} ${unit.code}`}
      onSubmit={(event) => {
        event.preventDefault()
        setTried(true)
        if (!read.ok || lacking || said.reason.trim() === '') return
        void onPut(
          makeFate(person.id, {
            unit: unit.id,
            kind: kind.key,
            on: read.span,
            share: asks('share') ? said.share : null,
            factor: asks('factor') ? said.factor : null,
            amount: asks('amount') ? said.amount : null,
            to: asks('to') ? said.to : null,
            place: asks('place') ? said.place.trim() : '',
            parts: asks('parts') ? said.parts : null,
            reason: said.reason.trim(),
          }),
        )
      }}
    >
      <p className="small quiet" style={{ margin: '6px 0' }}>
        {kind.about}
      </p>
      <div className="fields">
        <div className="half">
          <WhenField
            size={size}
            text={when}
            year={trial.question.season}
            known={known}
            onText={setWhen}
            chosen={meant}
            onChosen={setMeant}
            error={tried && when.trim() === '' ? missing : undefined}
          />
        </div>
        {asks('factor') && offered.length > 1 && (
          <Select
            className="half"
            size={size}
            label="Of what"
            allowDeselect={false}
            data={offered.map((each) => ({ value: each.key, label: each.name }))}
            value={said.factor}
            onChange={(value) => say({ factor: value })}
          />
        )}
        {asks('amount') && factor && (
          <QuantityField
            className="half"
            size={size}
            label="It really got"
            unit={factor.measure}
            value={said.amount}
            low={0}
            error={tried && said.amount === null ? missing : undefined}
            onCommit={(amount) => say({ amount })}
          />
        )}
        {asks('share') && (
          <NumberField
            className="half"
            size={size}
            label={`How much ${kind.shareOf}`}
            value={said.share === null ? null : 100 * said.share}
            low={0.1}
            high={99.9}
            suffix="%"
            error={tried && said.share === null ? missing : undefined}
            onCommit={(value) => say({ share: value === null ? null : Number(formatPlain(value / 100, 6)) })}
          />
        )}
        {asks('parts') && (
          <NumberField
            className="half"
            size={size}
            label="Into how many parts"
            value={said.parts}
            low={2}
            high={50}
            error={tried && said.parts === null ? missing : undefined}
            onCommit={(value) => say({ parts: value === null ? null : Math.round(value) })}
          />
        )}
        {asks('to') && holders.length > 0 && (
          <Select
            className="half"
            size={size}
            label="Now stands in"
            placeholder="where it was"
            clearable
            data={holders.map((each) => ({ value: each.id, label: `${each.kind} ${each.code}` }))}
            value={said.to}
            onChange={(value) => say({ to: value })}
          />
        )}
        {asks('place') && (
          <TextInput
            className="half"
            size={size}
            label={kind.key === 'moved' ? 'Place or container' : 'Which part'}
            placeholder={kind.key === 'moved' ? '3 L pot, bench 2' : 'north half'}
            maxLength={120}
            value={said.place}
            error={tried && lacking === 'place' ? 'Say where it stands now.' : undefined}
            onChange={(event) => say({ place: event.currentTarget.value })}
          />
        )}
        <TextInput
          className="half"
          size={size}
          label="Reason"
          maxLength={500}
          value={said.reason}
          error={tried && said.reason.trim() === '' ? 'Say what happened.' : undefined}
          onChange={(event) => say({ reason: event.currentTarget.value })}
        />
      </div>
      {same && (
        <p className="caution small">
          That is {same.name}, which this trial has as a treatment.{' '}
          <button type="button" className="link-button" onClick={onOtherTreatment}>
            Record it as that treatment
          </button>{' '}
          and it is compared as what it got.
        </p>
      )}
      <Group mt={8}>
        <Button type="submit" variant="outline" size={large ? 'md' : 'compact-md'}>
          Put on record
        </Button>
      </Group>
    </form>
  )
}

/** Units of the kinds that a unit lies in, where it could be moved to: other blocks, benches, beds. */
function holdersFor(unit: Unit, all: readonly Unit[], units: ReadonlyMap<string, Unit>): Unit[] {
  const kinds = new Set(unit.in.map((id) => units.get(id)?.kind))
  kinds.delete('site')
  return all.filter((each) => kinds.has(each.kind) && !unit.in.includes(each.id)).slice(0, 200)
}
