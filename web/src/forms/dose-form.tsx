import { genericProducts, leading, parseRate, rateInWords, recipientsOf, sizeOf, workedDose } from '@canter/core/amounts'
import { figure, workingLine } from '@canter/core/quantity'
import {
  Dose,
  isInside,
  Nutrient,
  nutrientName,
  placementOf,
  placements,
  SUPPLY,
  type PlacementKey,
  type TrialProduct,
} from '@canter/core/trial'
import { Button, Checkbox, Select, TextInput } from '@mantine/core'
import { useForm, type GetInputPropsReturnType } from '@mantine/form'
import { useState } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePerson, useShelf } from '../data/queries.ts'
import type { Saved } from '../data/saving.ts'
import { chosenProduct, draftOf, EVERY, evenly, valuesOf, type DoseProblems, type DoseValues } from './dose-draft.ts'
import classes from './doses.module.css'

interface DoseFormProps {
  /** What is changed; null: something further is put on. */
  readonly standing: Dose | null
  readonly onKeep: (dose: Omit<Dose, 'key'>, product: TrialProduct | null) => Promise<Saved>
  readonly onLeave: () => void
}

const NEW = 'new'

/** What goes on, of which product, to whom, how much, how and when; what it comes to is shown as one types. */
export function DoseForm({ standing, onKeep, onLeave }: DoseFormProps) {
  const { known: trial, site } = useOpenTrial()
  const { units: system } = usePerson()
  const shelf = useShelf()
  const { factors } = trial.treatments
  const own = trial.amounts.products ?? []
  const form = useForm({ initialValues: valuesOf(standing) })
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const { values } = form
  // What a trial has is not offered again from the shelf, nor what is on the shelf as it usually is.
  const had = [...(trial.amounts.supply ? [{ value: `own:${SUPPLY}`, label: trial.amounts.supply.product }] : []), ...own.map((each) => ({ value: `own:${each.key}`, label: each.product }))] // prettier-ignore
  const kept = shelf.flatMap((item) => (item.kind === 'product' && !had.some((each) => each.label === item.name) ? [{ value: `shelf:${item.id}`, label: item.name }] : [])) // prettier-ignore
  const usual = genericProducts.flatMap(({ product }) => ([...had, ...kept].some((each) => each.label === product) ? [] : [{ value: `usual:${product}`, label: product }])) // prettier-ignore
  const offered = [
    { group: 'In this trial', items: had },
    { group: 'From the shelf', items: kept },
    { group: 'As such things usually are', items: usual },
    { group: 'Another', items: [{ value: NEW, label: 'One to be named …' }] },
  ].filter((each) => each.items.length > 0)
  const taken = new Set([SUPPLY, ...own.map((each) => each.key)])
  const chosen = chosenProduct(values.product, values.name, { amounts: trial.amounts, shelf, taken })
  const ownAmounts = values.to.startsWith('own:')
  const drafted = chosen ? draftOf(values, chosen.product.key ?? '', factors, standing) : { problems: { product: 'Choose the product, or name it.' } as DoseProblems, dose: null } // prettier-ignore
  const shape = drafted.dose ? Dose.safeParse({ ...drafted.dose, key: 'draft' }) : null
  const wrong: DoseProblems = { ...drafted.problems, ...(shape && !shape.success ? { whole: shape.error.issues[0]!.message } : {}) }
  const draft = shape?.success ? shape.data : null
  const recipient = draft ? recipientsOf(draft, trial.treatments).at(-1) : undefined
  const worked = draft && chosen && recipient ? workedDose({ dose: draft, product: chosen.product, recipient, size: sizeOf(site) }) : null
  const levels = factors.flatMap((factor) => [
    ...(factor.measure === '' ? [] : [{ value: `own:${factor.key}`, label: `${factor.name}: each level by its own amount` }]),
    ...factor.levels.map((level) => ({ value: `level:${factor.key}:${level.key}`, label: `${factor.name}: ${level.name}` })),
  ])
  // A treatment of its own has no level of some factor, and what it gets is its own too.
  const outside = trial.treatments.list.filter((each) => !isInside(each, factors)).map((each) => ({ value: `treatment:${each.key}`, label: each.name })) // prettier-ignore
  const parsed = values.rate.trim() === '' ? null : parseRate(values.rate)
  const row = (i: number, patch: Partial<DoseValues['parts'][number]>) => form.setFieldValue('parts', values.parts.map((each, at) => (at === i ? { ...each, ...patch } : each))) // prettier-ignore
  return (
    <form
      className={classes.form}
      aria-label={standing ? 'Change what is put on' : 'Put something on'}
      onSubmit={(event) => {
        event.preventDefault()
        const first = Object.values(wrong)[0]
        if (first !== undefined || !draft || !chosen) return setProblem(first ?? 'Something is missing.')
        setBusy(true)
        const { key: _, ...dose } = draft
        void onKeep(dose, chosen.added ? (chosen.product as TrialProduct) : null)
          .then((saved) => setProblem(saved.ok || saved.left ? null : saved.problem))
          .finally(() => setBusy(false))
      }}
    >
      <div className="fields" style={{ alignItems: 'start' }}>
        <Select
          className="half"
          label="Goes on"
          searchable
          allowDeselect={false}
          data={[{ value: EVERY, label: `Every ${site.design.unit} alike` }, ...levels, ...outside]}
          value={values.to}
          onChange={(to) => {
            const own = to?.startsWith('own:') ? factors.find((each) => `own:${each.key}` === to) : undefined
            // What a factor's own amounts are of is known.
            form.setValues({ to: to ?? EVERY, ...(own?.of ? { of: own.of.what === 'nutrient' ? own.of.nutrient : own.of.what } : {}) })
          }}
        />
        <Select
          className="half"
          label="Product"
          placeholder="from this trial, the shelf, or as usual"
          searchable
          data={offered}
          value={values.product || null}
          onChange={(value) => {
            const picked = chosenProduct(value ?? '', '', { amounts: trial.amounts, shelf, taken })?.product
            form.setValues({
              product: value ?? '',
              ...(picked?.form === 'seed' ? { of: 'seeds' } : picked?.form === 'water' ? { of: 'product' } : {}),
            })
          }}
        />
        {values.product === NEW && <TextInput className="half" label="Its name" maxLength={120} {...form.getInputProps('name')} />}
        {!ownAmounts && (
          <TextInput
            className="half"
            label="How much over the season"
            placeholder="40 kg P/ha · 2 pt/ac · 15 ppm · 5 g/plant · 300 seeds/m²"
            error={parsed && !parsed.ok ? parsed.problem : undefined}
            description={
              parsed?.ok
                ? `Understood: ${rateInWords({ ...parsed, of: draft?.of ?? 'product', carrier: draft?.carrier ?? null })}`
                : undefined
            }
            inputWrapperOrder={['label', 'input', 'description', 'error']}
            value={values.rate}
            onChange={(event) => {
              const rate = event.currentTarget.value
              const read = parseRate(rate)
              form.setValues({ rate, ...(read.ok && read.of ? { of: read.of } : {}) })
            }}
          />
        )}
        <Select
          label="Of"
          allowDeselect={false}
          data={[
            { value: 'product', label: 'the product' },
            {
              value: 'active ingredient',
              label: chosen?.product.active?.name ? `its ${chosen.product.active.name}` : 'its active ingredient',
            },
            { value: 'seeds', label: 'seeds that germinate' },
            ...Nutrient.options.map((each) => ({ value: each, label: nutrientName(each) })),
          ]}
          {...form.getInputProps('of')}
        />
        <Select
          label="How it is put on"
          allowDeselect={false}
          data={placements.map(({ key, name }) => ({ value: key, label: name }))}
          {...form.getInputProps('placement')}
        />
        <TextInput
          label="Water that carries it"
          placeholder="400 L/ha · 60 mL"
          error={wrong.carrier}
          {...plain(form.getInputProps('carrier'))}
        />
        <TextInput label="Depth it gets to" placeholder="10 cm" error={wrong.depth} {...plain(form.getInputProps('depth'))} />
        {placementOf(values.placement as PlacementKey).inBand && (
          <>
            <TextInput label="Width of a band" placeholder="10 cm" error={wrong.bandWidth} {...plain(form.getInputProps('bandWidth'))} />
            <TextInput
              label="From band to band"
              placeholder="50 cm"
              error={wrong.bandSpacing}
              {...plain(form.getInputProps('bandSpacing'))}
            />
          </>
        )}
        {values.carrier.trim() !== '' && (
          <>
            <TextInput label="The tank or can holds" placeholder="20 L" error={wrong.holds} {...plain(form.getInputProps('holds'))} />
            <TextInput label="Stays in lines and pump" placeholder="0.5 L" error={wrong.dead} {...plain(form.getInputProps('dead'))} />
            {values.to !== EVERY && (
              <Checkbox
                className="half"
                label="What does not get it gets the water alone"
                {...form.getInputProps('carrierToAll', { type: 'checkbox' })}
              />
            )}
          </>
        )}
      </div>
      <div className={classes.parts} role="group" aria-label="Passes">
        {values.parts.map((part, i) => (
          <div key={i} className={classes.part}>
            <span className="small quiet">Pass {i + 1}</span>
            <TextInput
              aria-label={`Share of pass ${i + 1}`}
              value={part.share}
              rightSection={<span className="small quiet">%</span>}
              onChange={(event) => row(i, { share: event.currentTarget.value })}
            />
            <TextInput
              aria-label={`When, pass ${i + 1}`}
              placeholder="at sowing, six leaves"
              maxLength={60}
              value={part.when}
              onChange={(event) => row(i, { when: event.currentTarget.value })}
            />
            <TextInput
              aria-label={`Day of pass ${i + 1}`}
              type="date"
              value={part.on}
              onChange={(event) => row(i, { on: event.currentTarget.value })}
            />
            {values.parts.length > 1 && (
              <button
                type="button"
                className="link-button small"
                onClick={() => form.setFieldValue('parts', evenly(values.parts.filter((_, at) => at !== i)))}
              >
                Remove
              </button>
            )}
          </div>
        ))}
        <button
          type="button"
          className="link-button small"
          onClick={() => form.setFieldValue('parts', evenly([...values.parts, { share: '', when: '', on: '' }]))}
        >
          Another pass
        </button>
      </div>
      <p className="small quiet" style={{ minHeight: 20, margin: 0 }} aria-live="polite" data-testid="dose-preview">
        {typeof worked === 'string'
          ? worked
          : worked && recipient
            ? `${recipient.named ? `${recipient.named.name}, ` : ''}one ${site.design.unit}: ${figure(leading(worked.season, worked.product), system)} over the season. ${workingLine(leading(worked.season, worked.product), system)}`
            : (wrong.whole ?? wrong.parts ?? '')}
      </p>
      {problem && (
        <p className="caution small" role="alert">
          {problem}
        </p>
      )}
      <div>
        <Button type="submit" size="compact-md" variant="outline" loading={busy}>
          {standing ? 'Keep the change' : 'Put it on'}
        </Button>{' '}
        <Button size="compact-md" variant="subtle" onClick={onLeave}>
          Leave it
        </Button>
      </div>
    </form>
  )
}

/** What stands in a Mantine field, without what it says of errors: those come from the whole. */
function plain({ error: _, ...rest }: GetInputPropsReturnType) {
  return rest
}
