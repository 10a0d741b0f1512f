import { designOf } from '@canter/core/design'
import { defaultAcross, extentOf, harvestedArea, layoutProblems, outline, plotArea, runsOf } from '@canter/core/ground'
import { counted, formatQuantity, plural, workingLine } from '@canter/core/quantity'
import type { Site, Unit } from '@canter/core/trial'
import { Button, Group, Menu, Switch, TextInput } from '@mantine/core'
import { modals } from '@mantine/modals'
import { notifications } from '@mantine/notifications'
import dayjs from 'dayjs'
import { useMemo, useState } from 'react'
import { useOpenTrial } from '../data/open-trial.ts'
import { useAddToShelf, usePerson, useShelf } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { useSelection } from '../data/selection.ts'
import { keep } from '../data/sync.ts'
import { makeOperation, makeRetraction } from '../data/make.ts'
import { useRandomise, useUndoEvent } from '../data/trial-file.ts'
import { CommitText } from '../forms/commit-text.tsx'
import { CountField } from '../forms/count-field.tsx'
import { DesignSheet } from '../forms/design-sheet.tsx'
import { QuantityField } from '../forms/quantity-field.tsx'
import { TreatmentChangeForm } from '../forms/treatment-change.tsx'

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
          <CommitText className="wide" label="Soil and slope" value={site.soil} onCommit={(soil) => change({ soil })} />
        </div>
        <SiteActs />
      </section>
      <section className="section" aria-labelledby="design">
        <h2 className="section-title" id="design">
          Design {fixed && <span className="small quiet">locked since it is planted or measured</span>}
        </h2>
        {fixed ? (
          <p style={{ margin: 0 }}>
            <strong>{designOf(design.key)?.name}</strong>, {design.replicates} {designOf(design.key)?.repeat.toLowerCase()}.
          </p>
        ) : (
          <DesignSheet trial={trial} site={site} fixed={fixed} change={change} />
        )}
      </section>
      <Chance />
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
          {runs.map(({ kind, count }) => (
            <CountField
              key={kind}
              label={`${capital(plural(kind))} side by side`}
              value={Math.min(count, ground.across[kind] ?? defaultAcross(kind, count))}
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

/** Another site, empty or from the shelf; this one to the shelf, or out of the trial. */
function SiteActs() {
  const { trial, site, fixed } = useOpenTrial()
  const { save } = useSaving()
  const selection = useSelection()
  const shelf = useShelf()
  const { mutate: toShelf } = useAddToShelf()
  const offered = shelf.filter((item) => item.kind === 'site' && !trial.sites.some((each) => each.name === item.name))
  const add = async (from: Pick<Site, 'name' | 'soil' | 'ground'>): Promise<void> => {
    let n = trial.sites.length + 1
    while (trial.sites.some((each) => each.key === `site-${n}`)) n++
    const key = `site-${n}`
    const saved = await save('sites', { [key]: { ...from, key, design: site.design } satisfies Site })
    if (saved.ok) selection.set({ site: key, plot: null })
    else if (!saved.left) notifications.show({ color: 'red', title: 'Not added', message: saved.problem })
  }
  return (
    <Group gap="xs" mt={6}>
      <Menu position="bottom-start">
        <Menu.Target>
          <Button size="compact-sm" variant="outline">
            Add a site
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => void add({ name: `Site ${trial.sites.length + 1}`, soil: '', ground: site.ground })}>
            Like this one, to be named
          </Menu.Item>
          {offered.length > 0 && <Menu.Label>From the shelf</Menu.Label>}
          {offered.map(
            (item) =>
              item.kind === 'site' && (
                <Menu.Item key={item.id} onClick={() => void add({ name: item.name, soil: item.body.soil, ground: item.body.ground })}>
                  {item.name}
                </Menu.Item>
              ),
          )}
        </Menu.Dropdown>
      </Menu>
      <Button
        size="compact-sm"
        variant="subtle"
        onClick={() =>
          toShelf(
            { kind: 'site', name: site.name, body: { soil: site.soil, ground: site.ground } },
            { onSuccess: () => notifications.show({ message: `${site.name} is on the shelf for other trials.` }) },
          )
        }
      >
        Keep on the shelf
      </Button>
      {trial.sites.length > 1 && !fixed && (
        <Button
          size="compact-sm"
          variant="subtle"
          onClick={() =>
            void save('sites', { [site.key]: null }).then((saved) => {
              if (saved.ok) selection.set({ site: null, plot: null })
            })
          }
        >
          Take it out of the trial
        </Button>
      )}
    </Group>
  )
}

/** The seed and the dealing out of treatments. */
function Chance() {
  const { trial, site, layout, fixed } = useOpenTrial()
  const { remember } = useSaving()
  const { mutate, isPending } = useRandomise(trial.id)
  const [seed, setSeed] = useState<string>('')
  const problems = layoutProblems(trial, site.key)
  const typed = seed.trim() === '' ? null : Number(seed)
  const wrong = typed !== null && (!Number.isInteger(typed) || typed < 0 || typed > 2147483647)
  const deal = (): void =>
    mutate(
      { site: site.key, seed: typed ?? crypto.getRandomValues(new Uint32Array(1))[0]! % 1_000_000, reason: '' },
      {
        onSuccess: (file) => {
          remember(file)
          setSeed('')
        },
        onError: (error) => notifications.show({ color: 'red', title: 'Not randomised', message: error.message }),
      },
    )
  const ask = (): void => {
    if (!layout) deal()
    else
      modals.openConfirmModal({
        title: 'Deal out anew?',
        children: `The plan of ${site.name} from seed ${layout.structure.seed ?? '–'} is replaced by another. Undo brings it back.`,
        labels: { confirm: 'Deal out anew', cancel: 'Leave it' },
        onConfirm: deal,
      })
  }
  return (
    <section className="section" aria-labelledby="chance">
      <h2 className="section-title" id="chance">
        Randomisation
      </h2>
      <p style={{ margin: '0 0 6px' }}>
        {layout ? (
          <>
            {designOf(site.design.key)?.dealt} Seed <strong data-testid="seed">{layout.structure.seed}</strong>: the same seed makes the
            same plan again.
          </>
        ) : (
          'Nothing is dealt out yet. Chance, not choice, decides which plot gets what; the seed is kept so that the plan can be made again.'
        )}
      </p>
      {fixed ? (
        <p className="small quiet">
          Locked since it is planted or measured. A single plot that got something else is corrected below, on record.
        </p>
      ) : (
        <Group align="end" gap="md">
          <TextInput
            label="Seed (empty: drawn by chance)"
            value={seed}
            inputMode="numeric"
            w={190}
            error={wrong ? 'A whole number from 0 to 2147483647.' : null}
            onChange={(event) => setSeed(event.currentTarget.value)}
          />
          <Button onClick={ask} loading={isPending} disabled={problems.length > 0 || wrong}>
            {layout ? 'Randomise again' : 'Randomise and lay out'}
          </Button>
        </Group>
      )}
      {problems.map((problem) => (
        <p key={problem} className="caution">
          {problem}
        </p>
      ))}
    </section>
  )
}

function Planting() {
  const { trial, site, layout, progress, fixed, units } = useOpenTrial()
  const person = usePerson()
  const selection = useSelection()
  // The day where one stands, not that of another time zone.
  const [on, setOn] = useState(() => dayjs().format('YYYY-MM-DD'))
  const [problem, setProblem] = useState<string | null>(null)
  const chosen = units.get(selection.get('plot') ?? '')
  const planted = progress.planted.find((each) => each.siteKey === site.key)
  if (!layout) return null
  const put = (record: Parameters<typeof keep>[1]): void => {
    keep(trial.id, record).then(
      () => setProblem(null),
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    )
  }
  return (
    <section className="section" aria-labelledby="planted">
      <h2 className="section-title" id="planted">
        On the ground
      </h2>
      {planted ? (
        <p style={{ margin: 0 }}>
          Planted on <strong>{dayjs(planted.on).format('D MMMM YYYY')}</strong>. {planted.text}{' '}
          <button
            type="button"
            className="link-button small"
            onClick={() =>
              modals.openConfirmModal({
                title: 'Take back “planted”?',
                children:
                  (progress.sites[site.key]?.readings ?? 0) > 0
                    ? 'The plots have readings, so the plan stays locked all the same.'
                    : 'The plan can then be randomised again. The record of the marking stays.',
                labels: { confirm: 'Take it back', cancel: 'Leave it' },
                onConfirm: () => put(makeRetraction(person.id, planted.id, 'Marked planted by mistake')),
              })
            }
          >
            Marked by mistake?
          </button>
        </p>
      ) : (
        <Group align="end">
          <TextInput type="date" label="Planted on" value={on} onChange={(event) => setOn(event.currentTarget.value)} />
          <Button
            variant="outline"
            disabled={!/^\d{4}-\d{2}-\d{2}$/.test(on)}
            onClick={() => put(makeOperation(person.id, { kind: 'planted', siteKey: site.key, on, text: '' }))}
          >
            Mark as planted
          </Button>
          <span className="small quiet">From then on the plan of {site.name} is fixed.</span>
        </Group>
      )}
      {problem && <p className="caution small">Not kept: {problem}</p>}
      {fixed &&
        (chosen ? (
          treatedFrom(chosen, units, new Set(layout.structure.factors.map((each) => each.appliedTo))).map((unit) => (
            <TreatmentChangeForm key={`${unit.id} ${JSON.stringify(unit.received)}`} unit={unit} />
          ))
        ) : (
          <p className="small quiet">Did a plot get something else than planned? Pick it on the plan to correct it on record.</p>
        ))}
    </section>
  )
}

/** The unit picked and those it lies in, as far as something was put on them. */
function treatedFrom(unit: Unit, units: ReadonlyMap<string, Unit>, applied: ReadonlySet<string>): Unit[] {
  const found = applied.has(unit.kind) ? [unit] : []
  for (const id of unit.in) {
    const above = units.get(id)
    if (above) for (const each of treatedFrom(above, units, applied)) if (!found.includes(each)) found.push(each)
  }
  return found
}

function History() {
  const { trial, events } = useOpenTrial()
  const { mutate, isPending } = useUndoEvent(trial.id)
  const turned = new Set(events.map((event) => event.undoes))
  return (
    <section className="section" aria-labelledby="history">
      <h2 className="section-title" id="history">
        History <span className="small quiet">{counted(events.length, 'change')}</span>
      </h2>
      <table className="ruled">
        <tbody>
          {[...events]
            .reverse()
            .slice(0, 12)
            .map((event) => (
              <tr key={event.id}>
                <td className="quiet" style={{ whiteSpace: 'nowrap', width: 130 }}>
                  {dayjs(event.at).format('D MMM YYYY HH:mm')}
                </td>
                <td>
                  {event.what}
                  {event.reason && <span className="quiet">: {event.reason}</span>}
                </td>
                <td className="number">
                  {event.before !== null && event.kind !== 'created' && !turned.has(event.id) && (
                    <button
                      type="button"
                      className="link-button small"
                      disabled={isPending}
                      onClick={() =>
                        mutate(
                          { event: event.id },
                          { onError: (error) => notifications.show({ color: 'red', title: 'Not turned back', message: error.message }) },
                        )
                      }
                    >
                      Turn back
                    </button>
                  )}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
    </section>
  )
}
