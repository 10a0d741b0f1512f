import { fitOf, fits, misfitInWords, type Rectangle } from '@canter/core/ground'
import { formatQuantity, type UnitSystem } from '@canter/core/quantity'
import type { Ground, Site, Unit } from '@canter/core/trial'
import { ActionIcon, Tooltip } from '@mantine/core'
import {
  IconArrowBackUp,
  IconArrowForwardUp,
  IconArrowsMove,
  IconArrowUpRight,
  IconHandFinger,
  IconPolygon,
  IconRuler2,
  IconStack2,
  IconZoomCancel,
  type Icon,
} from '@tabler/icons-react'
import { useEffect, useMemo, useState } from 'react'
import { createPortal } from 'react-dom'
import { usePerson } from '../data/queries.ts'
import { AskSpot } from './ask-spot.tsx'
import { Corners, Stroke } from './draw-ground.tsx'
import { MoveGroups } from './move-groups.tsx'
import { useActs } from './plan-acts.ts'
import classes from './plan.module.css'

/** What can be done on the plan with a pointer. */
const TOOLS: readonly { readonly key: Tool; readonly name: string; readonly says: string; readonly icon: Icon }[] = [
  { key: 'pick', name: 'Pick plots', says: '', icon: IconHandFinger },
  {
    key: 'move',
    name: 'Move and turn groups',
    says: 'Drag a group, or its round handle to turn it. Arrow keys nudge by 0.1 m, with Shift by 1 m; [ and ] turn by 1°.',
    icon: IconArrowsMove,
  },
  {
    key: 'arrow',
    name: 'Draw what changes across the ground',
    says: 'Drag from where it is low to where it is high: downhill to uphill, dark to light.',
    icon: IconArrowUpRight,
  },
  {
    key: 'avoid',
    name: 'Draw ground to avoid',
    says: 'Click its corners; Enter or the first corner closes it, Escape lets go.',
    icon: IconZoomCancel,
  },
  {
    key: 'edge',
    name: 'Draw the edge of the ground',
    says: 'Click its corners; Enter or the first corner closes it, Escape lets go.',
    icon: IconPolygon,
  },
  { key: 'measure', name: 'Measure a distance', says: 'Drag from one place to another.', icon: IconRuler2 },
  { key: 'ask', name: 'Ask what a spot got', says: 'Click any place, on a plot or beside it.', icon: IconStack2 },
]
type Tool = 'pick' | 'move' | 'arrow' | 'avoid' | 'edge' | 'measure' | 'ask'

interface PlanWorkProps {
  readonly layer: SVGGElement
  readonly units: readonly Unit[]
  readonly site: Site
  readonly extent: Rectangle
}

/** The tools over the plan of Ground: what is drawn and moved is saved as it is let go, and can be undone and done again. */
export function PlanWork({ layer, units, site, extent }: PlanWorkProps) {
  const [tool, setTool] = useState<Tool>('pick')
  const [below, setBelow] = useState<HTMLElement | null>(null)
  const { act, undo, redo, problem } = useActs(site)
  const { units: system } = usePerson()
  const top = extent.y + extent.length
  const says = TOOLS.find((each) => each.key === tool)!.says
  const misfit = useMemo(() => misfitOf(units, site.ground, site.design.unit, system), [site, system, units])
  useEffect(() => {
    const svg = layer.ownerSVGElement
    svg?.toggleAttribute('data-working', tool !== 'pick')
    // Zooming goes on beneath what is worked on.
    const below = svg?.previousElementSibling
    const pass = (event: WheelEvent): void => {
      event.preventDefault()
      below?.dispatchEvent(new WheelEvent(event.type, event))
    }
    svg?.addEventListener('wheel', pass, { passive: false })
    return () => {
      svg?.removeAttribute('data-working')
      svg?.removeEventListener('wheel', pass)
    }
  }, [layer, tool])
  const shared = { layer, units, site, top, act }
  return (
    <>
      <div className={classes.workbar} role="toolbar" aria-label="Tools of the plan">
        {TOOLS.map(({ key, name, icon: Icon }) => (
          <Tooltip key={key} label={name}>
            <ActionIcon
              variant={tool === key ? 'filled' : 'subtle'}
              c={tool === key ? undefined : 'var(--ink-soft)'}
              aria-label={name}
              aria-pressed={tool === key}
              onClick={() => setTool(key)}
            >
              <Icon size={17} />
            </ActionIcon>
          </Tooltip>
        ))}
        {[
          { name: 'Back a step on the plan', act: undo, icon: IconArrowBackUp },
          { name: 'Do it again on the plan', act: redo, icon: IconArrowForwardUp },
        ].map(({ name, act: step, icon: Icon }) => (
          <Tooltip key={name} label={name}>
            <ActionIcon variant="subtle" c="var(--ink-soft)" aria-label={name} disabled={!step} onClick={step ?? undefined}>
              <Icon size={17} />
            </ActionIcon>
          </Tooltip>
        ))}
        <span className={`${classes.worknote} small quiet`}>{says}</span>
      </div>
      <div ref={setBelow} />
      {(problem ?? misfit) && (
        <p className="caution small" style={{ margin: '0 12px 6px' }} data-testid="misfit">
          {problem ?? misfit}
        </p>
      )}
      {createPortal(
        tool === 'move' ? (
          <MoveGroups {...shared} />
        ) : tool === 'arrow' ? (
          <Stroke
            {...shared}
            text={() => ''}
            onDone={(from, to) => void act({ gradient: { what: site.ground.gradient?.what ?? 'slope', from, to } })}
          />
        ) : tool === 'measure' ? (
          <Stroke {...shared} text={(from, to) => formatQuantity(Math.hypot(to[0] - from[0], to[1] - from[1]), 'm', system)} keep />
        ) : tool === 'avoid' ? (
          <Corners {...shared} onDone={(corners) => void act(({ avoid }) => ({ avoid: [...avoid, { name: nameFor(avoid), corners }] }))} />
        ) : tool === 'ask' ? (
          below && <AskSpot {...shared} below={below} />
        ) : tool === 'edge' ? (
          <Corners {...shared} onDone={(corners) => void act({ outline: corners })} />
        ) : null,
        layer,
      )}
    </>
  )
}

function nameFor(avoid: Ground['avoid']): string {
  const name = 'wet corner'
  let n = 1
  const called = (): string => (n === 1 ? name : `${name} ${n}`)
  while (avoid.some((each) => each.name === called())) n++
  return called()
}

function misfitOf(units: readonly Unit[], ground: Ground, unit: Site['design']['unit'], system: UnitSystem): string | null {
  const fit = fitOf(units, ground)
  return fits(fit) ? null : misfitInWords(fit, unit, system).join(' ')
}
