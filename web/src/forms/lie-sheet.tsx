import { alongGradient, fitOf, fits, movableGroups, putBack, usableArea, type OtherLie } from '@canter/core/ground' // prettier-ignore
import { counted, formatQuantity, plural } from '@canter/core/quantity'
import { GRADIENTS, type Ground, type Site, type Unit } from '@canter/core/trial'
import { Button, Group, MultiSelect, Select } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { useMemo, useState } from 'react'
import { wayAcross, waysThatFit } from '../data/analysis.ts'
import { usePerson } from '../data/queries.ts'
import type { Commit } from './use-commit.ts'
import { CommitText } from './commit-text.tsx'
import classes from './lie-sheet.module.css'
import { NumberField } from './number-field.tsx'
import { QuantityField } from './quantity-field.tsx'

const CHANGES: Readonly<Record<(typeof GRADIENTS)[number], string>> = {
  slope: 'slope, uphill',
  light: 'light, towards the brighter side',
  soil: 'soil, towards the heavier',
  wet: 'water, towards the wetter',
  wind: 'wind, with it',
}

interface LieProps {
  readonly site: Site
  readonly units: readonly Unit[]
  readonly change: Commit<Readonly<Record<string, unknown>>>
}

/** How the trial lies on its ground: what changes across it, what is avoided, its edge, its parts, and where it is in the world. */
export function LieSheet({ site, units, change }: LieProps) {
  const { ground } = site
  const { units: system } = usePerson()
  const { gradient, avoid, outline, anchor, bearing } = ground
  const lies = useMemo(() => (gradient ? alongGradient(units, gradient) : null), [gradient, units])
  const metres = (value: number): string => formatQuantity(value, 'm', system)
  const usable = useMemo(() => usableArea({ outline, avoid }), [avoid, outline])
  const [laying, setLaying] = useState(false)
  const layAcross = async (): Promise<void> => {
    setLaying(true)
    const across = await wayAcross(site.key, units, ground)
      .catch(notFound)
      .finally(() => setLaying(false))
    if (across) await change({ 'ground.across': across })
  }
  return (
    <>
      <div className="fields">
        <Select
          className="half"
          label="The ground changes with"
          placeholder="nothing that is known"
          clearable
          data={GRADIENTS.map((value) => ({ value, label: CHANGES[value] }))}
          value={gradient?.what ?? null}
          onChange={(what) => void change({ 'ground.gradient': what === null ? null : withWhat(ground, units, what) })}
        />
        <QuantityField
          label="Border around"
          value={ground.border}
          unit="m"
          low={0}
          high={100}
          onCommit={(value) => (value === null ? undefined : change({ 'ground.border': value }))}
        />
      </div>
      {gradient && (
        <p className="small" style={{ margin: '4px 0' }} data-testid="along-gradient">
          {lies
            ? `Along the arrow ${plural(site.design.unit)} of one ${lies.kind} lie up to ${metres(lies.within)} apart, those of the whole site ${metres(lies.whole)}. `
            : `This design has no blocks to lay across the arrow. `}
          {lies && lies.within > 0.25 * lies.whole && (
            <button type="button" className="link-button" disabled={laying} onClick={() => void layAcross()}>
              {laying ? 'Looking for the way…' : `Lay ${plural(lies.kind)} across it`}
            </button>
          )}
          {lies && lies.within <= 0.25 * lies.whole && <span className="quiet">{capital(plural(lies.kind))} lie across it.</span>}
        </p>
      )}
      {outline && (
        <p className="small" style={{ margin: '4px 0' }}>
          The ground within its edge, less what is avoided: {formatQuantity(usable ?? 0, 'm²', system)}.{' '}
          <button type="button" className="link-button" onClick={() => void change({ 'ground.outline': null })}>
            Take the edge away
          </button>
        </p>
      )}
      <Misfit site={site} units={units} change={change} />
      {avoid.map((each, i) => (
        <Group key={i} gap="xs" align="end">
          <CommitText
            label={i === 0 ? 'Avoided' : undefined}
            aria-label={`Avoided ground ${i + 1}`}
            value={each.name}
            check={(text) => (text === '' ? 'Say what is avoided.' : null)}
            onCommit={(name) => change({ 'ground.avoid': avoid.map((one, at) => (at === i ? { ...one, name } : one)) })}
          />
          <button
            type="button"
            className="link-button small"
            onClick={() => void change({ 'ground.avoid': avoid.filter((_, at) => at !== i) })}
          >
            No longer avoided
          </button>
        </Group>
      ))}
      <p className="small quiet" style={{ margin: '4px 0' }}>
        The arrow, ground to avoid and the edge of the ground are drawn on the plan, with the tools above it.
      </p>
      <Moved site={site} units={units} change={change} />
      <details>
        <summary className="small">Where it is in the world</summary>
        <div className="fields">
          <NumberField
            label="Latitude"
            suffix="°"
            value={anchor?.latitude ?? null}
            low={-90}
            high={90}
            onCommit={(latitude) => change({ 'ground.anchor': latitude === null ? null : { longitude: 0, ...anchor, latitude } })}
            optional
          />
          <NumberField
            label="Longitude"
            suffix="°"
            value={anchor?.longitude ?? null}
            low={-180}
            high={180}
            onCommit={(longitude) => change({ 'ground.anchor': longitude === null ? null : { latitude: 0, ...anchor, longitude } })}
            optional
          />
          <NumberField
            label="Bearing of the back"
            suffix="°"
            value={bearing}
            low={0}
            high={359.9}
            onCommit={(value) => change({ 'ground.bearing': value })}
            optional
          />
        </div>
        <p className="small quiet" style={{ margin: '4px 0' }}>
          Latitude and longitude (WGS 84) of the front left corner; the bearing in degrees from north. Files for maps then carry true
          places.
        </p>
      </details>
    </>
  )
}

/** An arrow where none is drawn yet: from the front to the back of the site. */
function withWhat({ gradient, border }: Ground, units: readonly Unit[], what: (typeof GRADIENTS)[number]): Ground['gradient'] {
  if (gradient) return { ...gradient, what }
  const backs = units.flatMap(({ place }) => (place ? [place.y + place.length] : []))
  return { what, from: [border / 2, border], to: [border / 2, Math.round(10 * Math.max(border + 1, ...backs)) / 10] }
}

/** What does not fit, and what would. */
function Misfit({ site, units, change }: LieProps) {
  const { ground } = site
  const fit = useMemo(() => fitOf(units, ground), [ground, units])
  const [others, setOthers] = useState<{ for: unknown; lies: readonly OtherLie[] } | null>(null)
  const [looking, setLooking] = useState(false)
  if (fits(fit)) return null
  const tried = others?.for === units ? others.lies : null
  return (
    <div className="small" data-testid="what-fits">
      {tried === null ? (
        <button
          type="button"
          className="link-button"
          disabled={looking}
          onClick={() => {
            setLooking(true)
            void waysThatFit(site.key, units, ground)
              .then((lies) => setOthers({ for: units, lies }), notFound)
              .finally(() => setLooking(false))
          }}
        >
          {looking ? 'Trying the ways…' : 'What would fit?'}
        </button>
      ) : tried.length === 0 ? (
        <span>
          However its rows are broken, it does not fit: fewer replicates, smaller {plural(site.design.unit)} or narrower alleys would be
          needed, or the groups set aside by hand.
        </span>
      ) : (
        <>
          {'These ways fit: '}
          {tried.map((lie) => (
            <button
              key={lie.words}
              type="button"
              className="link-button"
              style={{ marginRight: 10 }}
              onClick={() => void change({ 'ground.across': lie.across })}
            >
              {lie.words}
            </button>
          ))}
        </>
      )}
    </div>
  )
}

/** Groups set aside by hand in figures, and the parts of a site that move as one. */
function Moved({ site, units, change }: LieProps) {
  const { ground } = site
  const groups = useMemo(() => movableGroups(units, ground).filter(({ unit }) => unit.kind !== 'site' || units.every((each) => each.kind !== 'block')), [ground, units]) // prettier-ignore
  const [chosen, setChosen] = useState<string[]>([])
  const nameOf = (ref: string): string => {
    const unit = groups.find((each) => each.ref === ref)?.unit
    return unit ? (unit.kind === 'site' ? 'the whole site' : `${unit.kind} ${unit.code}`) : ref
  }
  const moved = Object.entries(ground.moved)
  const free = groups.filter(({ part, unit }) => part === null && unit.kind !== 'site')
  const split = () => {
    const n = ground.parts.length + 1
    const key = `part-${n}`
    setChosen([])
    return change({ 'ground.parts': [...ground.parts.filter((each) => each.key !== key), { key, name: `Part ${n + 1}`, groups: chosen }] })
  }
  return (
    <details>
      <summary className="small">
        Groups set aside{moved.length > 0 ? `: ${counted(moved.length, 'group')}` : ''}
        {ground.parts.length > 0 ? `; ${counted(ground.parts.length, 'part')} split off` : ''}
      </summary>
      {moved.map(([ref, move]) => (
        <div className={classes.moved} key={ref}>
          <span>{nameOf(ref)}</span>
          <QuantityField
            label="to the right"
            value={move.x}
            unit="m"
            low={-10000}
            high={10000}
            onCommit={(x) => (x === null ? undefined : change({ 'ground.moved': { ...ground.moved, [ref]: { ...move, x } } }))}
          />
          <QuantityField
            label="backwards"
            value={move.y}
            unit="m"
            low={-10000}
            high={10000}
            onCommit={(y) => (y === null ? undefined : change({ 'ground.moved': { ...ground.moved, [ref]: { ...move, y } } }))}
          />
          <NumberField
            label="turned"
            suffix="°"
            value={move.turn}
            low={-360}
            high={360}
            onCommit={(turn) => (turn === null ? undefined : change({ 'ground.moved': { ...ground.moved, [ref]: { ...move, turn } } }))}
          />
          <button
            type="button"
            className="link-button small"
            style={{ alignSelf: 'end' }}
            onClick={() => void change({ 'ground.moved': putBack(ground.moved, [ref]) })}
          >
            Put back
          </button>
        </div>
      ))}
      {ground.parts.map((part) => (
        <Group key={part.key} gap="xs" align="end">
          <CommitText
            label="Part"
            value={part.name}
            check={(text) => (text === '' ? 'Name the part.' : null)}
            onCommit={(name) => change({ 'ground.parts': ground.parts.map((each) => (each === part ? { ...each, name } : each)) })}
          />
          <span className="small">{part.groups.map(nameOf).join(', ')}</span>
          <button
            type="button"
            className="link-button small"
            onClick={() =>
              void change({
                'ground.parts': ground.parts.filter((each) => each !== part),
                'ground.moved': putBack(ground.moved, part.groups),
              })
            }
          >
            Join it to the rest again
          </button>
        </Group>
      ))}
      {free.length > 1 && (
        <Group gap="xs" align="end">
          <MultiSelect
            label="Split off as a part that moves as one"
            placeholder={chosen.length === 0 ? `pick ${plural(free[0]!.unit.kind)}` : ''}
            data={free.map(({ ref }) => ({ value: ref, label: nameOf(ref) }))}
            value={chosen}
            onChange={setChosen}
          />
          <Button size="compact-sm" variant="outline" disabled={chosen.length === 0} onClick={() => void split()}>
            Split off
          </Button>
        </Group>
      )}
    </details>
  )
}

/** The search failed or was stopped: nothing was changed, and that is said. */
function notFound(error: unknown): null {
  notifications.show({ color: 'red', title: 'Not worked out', message: error instanceof Error ? error.message : String(error) })
  return null
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
