import { counted, plural } from '@canter/core/quantity'
import { unitsNamed } from '@canter/core/ground'
import { dayInWords, emptyFactor, levelsNamed, type Site } from '@canter/core/trial'
import { Button, MultiSelect, SegmentedControl, Select, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useState } from 'react'
import { ApiProblem } from '../data/client.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'
import { useLaterDraw } from '../data/trial-file.ts'

/** Draws by chance, among what stands, which units are handled another way from a day on: a comparison that was not planted. */
export function LaterDrawForm() {
  const [asked, setAsked] = useState(false)
  const { trial, layouts } = useOpenTrial()
  const chanceOf = (key: string): string =>
    layouts.some((layout) => layout.structure.factors.some((each) => each.factor === key && each.how === 'randomised'))
      ? 'was drawn among what stood'
      : 'was laid by hand on what stood, and is not randomised'
  const drawn = trial.treatments.factors.filter((factor) => factor.drawn)
  return (
    <div data-testid="later-draw" style={{ marginTop: 10 }}>
      {drawn.map((factor) => (
        <p key={factor.key} className="small" style={{ margin: '4px 0' }}>
          <strong>{factor.name}</strong> {chanceOf(factor.key)}: varied from {dayInWords(factor.drawn!.on)}, and no part of what was read
          before.
        </p>
      ))}
      {asked ? (
        <Form onDone={() => setAsked(false)} />
      ) : (
        trial.treatments.factors.length < 4 && (
          <p className="small" style={{ margin: 0 }}>
            <button type="button" className="link-button" onClick={() => setAsked(true)}>
              Draw some to be handled another way
            </button>{' '}
            <span className="quiet">
              from a day on, by chance: half of them fed like the others, half left as they are. Or say which of them are, where it was not
              drawn. It becomes a comparison of its own.
            </span>
          </p>
        )
      )}
    </div>
  )
}

function Form({ onDone }: { onDone: () => void }) {
  const { trial, layouts, layout, site } = useOpenTrial()
  const { remember } = useSaving()
  const { mutate, isPending } = useLaterDraw(trial.id)
  const [problem, setProblem] = useState<string | null>(null)
  const laid = trial.sites.filter((site) => layouts.some((layout) => layout.siteKey === site.key))
  const form = useForm({
    initialValues: {
      name: '',
      ways: '',
      before: 'as before',
      on: today(),
      treatments: [] as string[],
      sites: [] as string[],
      reason: '',
      how: 'drawn',
      plots: '',
      half: 'by chance',
    },
    validate: {
      name: (value) => (value.trim() === '' ? 'Name it, for example Feeding.' : null),
      ways: (value, all) =>
        waysIn(value).length === 0
          ? 'Say how those that are drawn are handled.'
          : all.how === 'halves' && waysIn(value).length > 1
            ? 'A plot has two halves: say one way.'
            : null,
      before: (value) => (value.trim() === '' ? 'Say how the others are handled.' : null),
      reason: (value) => (value.trim() === '' ? 'Say why: it stays on record.' : null),
      plots: (value, all) => {
        const found = all.how === 'by hand' ? unitsNamed(value, layout?.units ?? []) : null
        return found && !found.ok ? found.problem : null
      },
    },
  })
  const { values } = form
  const ways = waysIn(values.ways)
  const [unit] = laid.map((site) => site.design.unit)
  const byHand = values.how === 'by hand'
  const halves = values.how === 'halves'
  const named = byHand ? unitsNamed(values.plots, layout?.units ?? []) : null
  const [sure, setSure] = useState(false)
  return (
    <form
      aria-label="Draw some to be handled another way"
      onSubmit={form.onSubmit((given) =>
        mutate(
          {
            seed: crypto.getRandomValues(new Uint32Array(1))[0]! % 1_000_000,
            name: given.name.trim(),
            levels: levelsNamed(emptyFactor('drawn', 'practice'), [given.before.trim(), ...ways]).map(({ code, name }) => ({ code, name })),
            on: given.on,
            treatments: given.treatments.length > 0 ? given.treatments : trial.treatments.list.map((each) => each.key),
            sites: given.sites.length > 0 ? given.sites : laid.map((site) => site.key),
            reason: given.reason.trim(),
            confirm: sure,
            ...(named?.ok ? { byHand: named.units.map(({ id }) => ({ unit: id, way: 1 })) } : {}),
            ...(given.how === 'halves' ? { halves: given.half as 'by chance' | 'a' | 'b' } : {}),
          },
          {
            onSuccess: (file) => {
              remember(file)
              onDone()
            },
            onError: (error) => {
              setSure(error instanceof ApiProblem && (error.problem.errors ?? []).some((each) => each.path === 'confirm'))
              setProblem(error.message)
            },
          },
        ),
      )}
    >
      <SegmentedControl
        size="xs"
        mb={8}
        aria-label="How they are picked"
        data={[
          { value: 'drawn', label: 'Drawn by chance' },
          { value: 'by hand', label: `Laid by hand at ${site.name}` },
          ...(laid.some((each) => each.design.unit === 'plot') ? [{ value: 'halves', label: 'On half of each plot' }] : []),
        ]}
        value={values.how}
        onChange={(how) => {
          form.setFieldValue('how', how)
          form.setFieldValue('ways', byHand ? values.ways : (values.ways.split(',')[0] ?? ''))
          setSure(false)
          setProblem(null)
        }}
      />
      <div className="fields">
        <TextInput label="What is varied" placeholder="Feeding" className="half" maxLength={80} {...form.getInputProps('name')} />
        <TextInput label="From" type="date" className="half" {...form.getInputProps('on')} />
        <TextInput
          label={halves ? 'One half is' : byHand ? 'Those named are' : 'Those drawn are'}
          placeholder={halves ? 'fed in July' : byHand ? 'tilled a second time' : 'fed every week (several ways with commas)'}
          className="half"
          {...form.getInputProps('ways')}
        />
        <TextInput
          label={halves ? 'The other half is' : 'The others are'}
          className="half"
          maxLength={80}
          {...form.getInputProps('before')}
        />
        {byHand ? (
          <TextInput
            label={`Which ${plural(unit ?? 'plot')}`}
            placeholder="101-106, 203"
            className="wide"
            description={named?.ok ? counted(named.units.length, unit ?? 'plot') : undefined}
            inputWrapperOrder={['label', 'input', 'description', 'error']}
            {...form.getInputProps('plots')}
            onChange={(event) => {
              form.setFieldValue('plots', event.currentTarget.value)
              setSure(false)
              setProblem(null)
            }}
          />
        ) : (
          <>
            {halves ? (
              <Select
                label="Which half"
                className="wide"
                allowDeselect={false}
                data={[
                  { value: 'by chance', label: 'drawn by chance in each plot' },
                  ...SIDES.map((side) => ({ value: side, label: `half ${side} of every plot, ${liesAt(site, side)}` })),
                ]}
                {...form.getInputProps('half')}
              />
            ) : (
              <MultiSelect
                label="Drawn among"
                placeholder={values.treatments.length === 0 ? 'all treatments' : ''}
                className={laid.length > 1 ? 'half' : 'wide'}
                searchable
                data={trial.treatments.list.map((each) => ({ value: each.key, label: `${each.code}: ${each.name}` }))}
                {...form.getInputProps('treatments')}
              />
            )}
            {laid.length > 1 && (
              <MultiSelect
                label="At"
                placeholder={values.sites.length === 0 ? 'all sites that are laid out' : ''}
                className={halves ? 'wide' : 'half'}
                data={laid.map((site) => ({ value: site.key, label: site.name }))}
                {...form.getInputProps('sites')}
              />
            )}
          </>
        )}
        <TextInput label="Reason" className="wide" maxLength={1000} {...form.getInputProps('reason')} />
      </div>
      <p className="small quiet">
        {halves
          ? `Every plot of this trial's treatments is cut in two across its longer side, and its halves are read one by one from that day: half a lies ${liesAt(site, 'a')}, half b ${liesAt(site, 'b')}. ${
              values.half === 'by chance'
                ? 'Which of the two is drawn for each plot by itself.'
                : 'The same half everywhere is not drawn: what it does otherwise is a comparison, not a trial.'
            } What was read before that day stays with the whole plots.`
          : byHand
            ? `Nobody drew which of them are: what they do otherwise is a comparison, not a trial. What was read before that day stays as it is.`
            : `Of the ${plural(unit ?? 'plot')} of each treatment, as many are drawn to each of the ${counted(ways.length + 1, 'way')} as their number allows, spread over what they lie in. What was read before that day stays as it is.`}
      </p>
      {problem && (
        <p className="caution small">
          {byHand || halves ? 'Not kept yet' : 'Nothing was drawn'}: {problem}
        </p>
      )}
      <Button type="submit" size="compact-md" variant="outline" loading={isPending}>
        {byHand || (halves && values.half !== 'by chance') ? (sure ? 'Keep it all the same' : 'Put on record') : 'Draw by chance'}
      </Button>{' '}
      <Button size="compact-md" variant="subtle" onClick={onDone}>
        Leave it
      </Button>
    </form>
  )
}

const SIDES = ['a', 'b'] as const

/** Where a half of a plot lies: plots are cut across their longer side. */
function liesAt({ ground }: Site, side: (typeof SIDES)[number]): string {
  const wide = ground.plotWidth >= ground.plotLength
  return side === 'a' ? (wide ? 'on the left' : 'in front') : wide ? 'on the right' : 'behind'
}

function waysIn(text: string): string[] {
  return [...new Set(text.split(',').map((part) => part.trim()))].filter(Boolean).slice(0, 3)
}

/** Today where this device is. */
function today(): string {
  const now = new Date()
  return [now.getFullYear(), now.getMonth() + 1, now.getDate()].map((part) => String(part).padStart(2, '0')).join('-')
}
