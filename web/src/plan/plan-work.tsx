import { areaWithin, cornersOf, fitOf, fits, middleOf, misfitInWords, movableGroups, movesWith, shifted, snapped, turnedBy, type MovableGroup, type Rectangle } from '@canter/core/ground' // prettier-ignore
import { formatQuantity } from '@canter/core/quantity'
import { turned, type Ground, type Point, type Site, type Unit } from '@canter/core/trial'
import { ActionIcon, Tooltip } from '@mantine/core'
import {
  IconArrowBackUp,
  IconArrowForwardUp,
  IconArrowsMove,
  IconArrowUpRight,
  IconHandFinger,
  IconPolygon,
  IconRuler2,
  IconZoomCancel,
  type Icon,
} from '@tabler/icons-react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { createPortal } from 'react-dom'
import { usePerson } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import classes from './plan.module.css'

type GroundPatch = Partial<Pick<Ground, 'moved' | 'gradient' | 'outline' | 'avoid' | 'parts'>>

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
]
type Tool = 'pick' | 'move' | 'arrow' | 'avoid' | 'edge' | 'measure'

/** In pixels: how near a corner or an edge is meant. */
const NEAR = 9

interface PlanWorkProps {
  readonly layer: SVGGElement
  readonly units: readonly Unit[]
  readonly site: Site
  readonly extent: Rectangle
}

/** The tools over the plan of Ground: what is drawn and moved is saved as it is let go, and can be undone and done again. */
export function PlanWork({ layer, units, site, extent }: PlanWorkProps) {
  const [tool, setTool] = useState<Tool>('pick')
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
        <Tooltip label="Back a step on the plan">
          <ActionIcon
            variant="subtle"
            c="var(--ink-soft)"
            aria-label="Back a step on the plan"
            disabled={!undo}
            onClick={undo ?? undefined}
          >
            <IconArrowBackUp size={17} />
          </ActionIcon>
        </Tooltip>
        <Tooltip label="Do it again on the plan">
          <ActionIcon
            variant="subtle"
            c="var(--ink-soft)"
            aria-label="Do it again on the plan"
            disabled={!redo}
            onClick={redo ?? undefined}
          >
            <IconArrowForwardUp size={17} />
          </ActionIcon>
        </Tooltip>
        <span className={`${classes.worknote} small quiet`}>{says}</span>
      </div>
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
            onDone={(from, to) => act({ gradient: { what: site.ground.gradient?.what ?? 'slope', from, to } })}
          />
        ) : tool === 'measure' ? (
          <Stroke {...shared} text={(from, to) => formatQuantity(Math.hypot(to[0] - from[0], to[1] - from[1]), 'm', system)} keep />
        ) : tool === 'avoid' ? (
          <Corners
            {...shared}
            onDone={(corners) => {
              const { avoid } = site.ground
              act({ avoid: [...avoid, { name: nameFor(avoid), corners }] })
            }}
          />
        ) : tool === 'edge' ? (
          <Corners {...shared} onDone={(corners) => act({ outline: corners })} />
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

function misfitOf(units: readonly Unit[], ground: Ground, unit: Site['design']['unit'], system: 'metric' | 'us'): string | null {
  const fit = fitOf(units, ground)
  return fits(fit) ? null : misfitInWords(fit, unit, system).join(' ')
}

/** Saves what was done on the plan, and turns it back and forth. */
function useActs(site: Site) {
  const { save } = useSaving()
  const [problem, setProblem] = useState<string | null>(null)
  const [past, setPast] = useState<readonly { before: GroundPatch; after: GroundPatch }[]>([])
  const [next, setNext] = useState<readonly { before: GroundPatch; after: GroundPatch }[]>([])
  const put = useCallback(
    async (patch: GroundPatch): Promise<boolean> => {
      const fields = Object.fromEntries(Object.entries(patch).map(([field, value]) => [`ground.${field}`, value]))
      const saved = await save(`site:${site.key}`, fields)
      setProblem(saved.ok || saved.left ? null : saved.problem)
      return saved.ok
    },
    [save, site.key],
  )
  const act = useCallback(
    (after: GroundPatch): void => {
      const before = Object.fromEntries(Object.keys(after).map((field) => [field, site.ground[field as keyof GroundPatch]])) as GroundPatch
      void put(after).then((done) => {
        if (!done) return
        setPast((all) => [...all.slice(-60), { before, after }])
        setNext([])
      })
    },
    [put, site.ground],
  )
  const step = (from: typeof past, to: 'before' | 'after'): (() => void) | null => {
    const last = from.at(-1)
    if (!last) return null
    return () =>
      void put(last[to]).then((done) => {
        if (!done) return
        const [take, give] = to === 'before' ? [setPast, setNext] : [setNext, setPast]
        take((all) => all.slice(0, -1))
        give((all) => [...all, last])
      })
  }
  return { act, undo: step(past, 'before'), redo: step(next, 'after'), problem }
}

interface WorkProps {
  readonly layer: SVGGElement
  readonly units: readonly Unit[]
  readonly site: Site
  readonly top: number
  readonly act: (patch: GroundPatch) => void
}

/** The place of the site under a pointer, metres. */
function placeAt(layer: SVGGElement, top: number, event: { clientX: number; clientY: number }): Point {
  const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(layer.getScreenCTM()!.inverse())
  return [x, top - y]
}

/** Pixels for a metre as the plan is drawn now. */
function perMetre(layer: SVGGElement): number {
  return Math.abs(layer.getScreenCTM()!.a)
}

function tenth([x, y]: Point): Point {
  return [Math.round(x * 10) / 10, Math.round(y * 10) / 10]
}

/** What a pointer does on the drawing, from its pressing to its letting go. */
interface Press {
  readonly onDown?: (event: PointerEvent) => void
  readonly onMove?: (event: PointerEvent) => void
  readonly onUp?: (event: PointerEvent) => void
}

function usePointer(layer: SVGGElement, press: Press): void {
  const now = useRef(press)
  useEffect(() => {
    now.current = press
  })
  useEffect(() => {
    const svg = layer.ownerSVGElement
    if (!svg) return
    const down = (event: PointerEvent): void => {
      if (event.button !== 0) return
      svg.setPointerCapture(event.pointerId)
      now.current.onDown?.(event)
    }
    const move = (event: PointerEvent): void => now.current.onMove?.(event)
    const up = (event: PointerEvent): void => now.current.onUp?.(event)
    svg.addEventListener('pointerdown', down)
    svg.addEventListener('pointermove', move)
    svg.addEventListener('pointerup', up)
    return () => {
      svg.removeEventListener('pointerdown', down)
      svg.removeEventListener('pointermove', move)
      svg.removeEventListener('pointerup', up)
    }
  }, [layer])
}

function useKeys(onKey: (event: KeyboardEvent) => boolean): void {
  const now = useRef(onKey)
  useEffect(() => {
    now.current = onKey
  })
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      const { target } = event
      if (target instanceof HTMLElement && target.closest('input, textarea, select, [contenteditable]')) return
      if (!event.altKey && now.current(event)) {
        event.preventDefault()
        event.stopPropagation()
      }
    }
    window.addEventListener('keydown', listen, { capture: true })
    return () => window.removeEventListener('keydown', listen, { capture: true })
  }, [])
}

/** Kinds that are moved, the widest first; of two that lie in each other the one held is found. */
const ORDER: readonly string[] = ['site', 'replicate', 'block', 'strip', 'row', 'column', 'main plot', 'subplot']

function MoveGroups({ layer, units, site, top, act }: WorkProps) {
  const { ground } = site
  const groups = useMemo(
    () => movableGroups(units, ground).filter(({ unit }) => unit.place !== null || unit.kind === 'site'),
    [ground, units],
  )
  const kinds = useMemo(
    () => [...new Set(groups.map(({ unit }) => unit.kind))].sort((a, b) => ORDER.indexOf(a) - ORDER.indexOf(b)),
    [groups],
  )
  const [chosen, setChosen] = useState<string | null>(null)
  const [inner, setInner] = useState(false)
  const drag = useRef<{ start: Point; turning: boolean; by: Point; degrees: number } | null>(null)
  const ghost = useRef<SVGGElement>(null)
  const nudge = useRef<{ by: Point; degrees: number; timer: ReturnType<typeof setTimeout> | undefined }>({
    by: [0, 0],
    degrees: 0,
    timer: undefined,
  })
  const placeOf = useCallback(({ unit }: MovableGroup): Rectangle => unit.place ?? wholeOf(units), [units])
  const refs = useMemo(() => (chosen ? movesWith(chosen, ground) : []), [chosen, ground])
  const moving = groups.filter((each) => refs.includes(each.ref))
  const middle = moving.length > 0 ? centreOf(moving.map(placeOf)) : null
  const handle = middle && handleOf(moving.map(placeOf))
  const show = (by: Point, degrees: number): void => {
    if (!middle) return
    const [x, y] = [middle[0], top - middle[1]]
    ghost.current?.setAttribute('transform', `translate(${by[0]} ${-by[1]}) rotate(${-degrees} ${x} ${y})`)
  }
  const finish = (by: Point, degrees: number): void => {
    if (!middle || (by[0] === 0 && by[1] === 0 && degrees === 0)) return show([0, 0], 0)
    const aside = shifted(ground.moved, refs, by)
    act({
      moved: degrees === 0 ? aside : turnedBy(units, { ...ground, moved: aside }, refs, [middle[0] + by[0], middle[1] + by[1]], degrees),
    })
  }
  // Where what was let go lies is drawn by then.
  useEffect(() => ghost.current?.setAttribute('transform', ''), [units])
  usePointer(layer, {
    onDown: (event) => {
      const start = placeAt(layer, top, event)
      const near = NEAR / perMetre(layer)
      if (handle && Math.hypot(start[0] - handle[0], start[1] - handle[1]) < near * 1.4) {
        drag.current = { start, turning: true, by: [0, 0], degrees: 0 }
        return
      }
      const under = groups.filter((each) => covers(placeOf(each), start))
      const kind = inner ? kinds.at(-1) : (kinds.find((each) => each !== 'site' && each !== 'replicate') ?? kinds[0])
      const found = under.find(({ unit }) => unit.kind === kind) ?? under.at(-1)
      setChosen(found?.ref ?? null)
      if (found) drag.current = { start, turning: false, by: [0, 0], degrees: 0 }
    },
    onMove: (event) => {
      const { current } = drag
      if (!current || !middle) return
      const at = placeAt(layer, top, event)
      if (current.turning) {
        const angle = (point: Point): number => (Math.atan2(point[1] - middle[1], point[0] - middle[0]) * 180) / Math.PI
        const raw = angle(at) - angle(current.start)
        current.degrees = event.ctrlKey ? Math.round(raw * 10) / 10 : Math.round(raw / 5) * 5
      } else {
        const others = groups.filter((each) => !refs.includes(each.ref) && each.unit.kind === moving[0]?.unit.kind).map(placeOf)
        const raw: Point = [at[0] - current.start[0], at[1] - current.start[1]]
        current.by = Math.hypot(...raw) * perMetre(layer) < 3 ? [0, 0] : snapped(moving.map(placeOf), others, raw, NEAR / perMetre(layer))
      }
      show(current.by, current.degrees)
    },
    onUp: () => {
      const { current } = drag
      drag.current = null
      if (current) finish(current.by, current.degrees)
    },
  })
  useKeys((event) => {
    const steps: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }
    const step = steps[event.key]
    const turn = event.key === '[' ? 1 : event.key === ']' ? -1 : 0
    if (event.key === 'Escape') {
      setChosen(null)
      return true
    }
    if (!chosen || (!step && turn === 0)) return false
    const { current } = nudge
    const size = event.shiftKey ? 1 : 0.1
    if (step) current.by = [current.by[0] + step[0] * size, current.by[1] + step[1] * size]
    current.degrees += turn * (event.shiftKey ? 15 : 1)
    show(current.by, current.degrees)
    clearTimeout(current.timer)
    // Saved when one pauses: each press would be a change of its own.
    current.timer = setTimeout(() => {
      const { by, degrees } = current
      ;[current.by, current.degrees] = [[0, 0], 0]
      finish(by, degrees)
    }, 500)
    return true
  })
  const path = useMemo(() => ghostPath(moving, units, placeOf, top), [moving, placeOf, top, units])
  return (
    <>
      {groups.map((each) => (
        <polygon
          key={each.ref}
          points={pointsOf(placeOf(each), top)}
          fill="transparent"
          data-group={each.ref}
          onDoubleClick={() => setInner(!inner)}
        />
      ))}
      <g ref={ghost} data-testid="moving">
        {moving.length > 0 && <path d={path} className={classes.ghost} />}
        {handle && (
          <circle cx={handle[0]} cy={top - handle[1]} r={NEAR / perMetre(layer)} className={classes.handle} data-testid="turn-handle" />
        )}
      </g>
    </>
  )
}

function wholeOf(units: readonly Unit[]): Rectangle {
  const corners = units.flatMap(({ place }) => (place ? cornersOf(place) : []))
  const xs = corners.map((corner) => corner[0])
  const ys = corners.map((corner) => corner[1])
  const [x, y] = [Math.min(...xs), Math.min(...ys)]
  return { x, y, width: Math.max(...xs) - x, length: Math.max(...ys) - y }
}

function covers(place: Rectangle, at: Point): boolean {
  const [cx, cy] = middleOf(place)
  const [dx, dy] = turned([at[0] - cx, at[1] - cy], -(place.turn ?? 0))
  return Math.abs(dx) <= place.width / 2 && Math.abs(dy) <= place.length / 2
}

function centreOf(places: readonly Rectangle[]): Point {
  const middles = places.map(middleOf)
  return [
    middles.reduce((sum, each) => sum + each[0], 0) / middles.length,
    middles.reduce((sum, each) => sum + each[1], 0) / middles.length,
  ]
}

/** The back right corner of what is moved. */
function handleOf(places: readonly Rectangle[]): Point {
  return places.flatMap((place) => [cornersOf(place)[2]]).reduce((a, b) => (b[0] + b[1] > a[0] + a[1] ? b : a))
}

function pointsOf(place: Rectangle, top: number): string {
  return cornersOf(place)
    .map(([x, y]) => `${x},${top - y}`)
    .join(' ')
}

/** The groups and the plots in them as one line: thousands of plots move as one shape. */
function ghostPath(
  moving: readonly MovableGroup[],
  units: readonly Unit[],
  placeOf: (group: MovableGroup) => Rectangle,
  top: number,
): string {
  const inside = new Set(moving.map(({ unit }) => unit.id))
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const lies = (unit: Unit): boolean => unit.in.some((id) => inside.has(id) || (index.has(id) && lies(index.get(id)!)))
  const outlines = [
    ...moving.map(placeOf),
    ...units.filter((unit) => unit.walk !== null && unit.place && lies(unit)).map((unit) => unit.place!),
  ]
  return outlines
    .map((place) => {
      const [a, b, c, d] = cornersOf(place).map(([x, y]) => `${x} ${top - y}`)
      return `M${a}L${b}L${c}L${d}Z`
    })
    .join('')
}

/** A line drawn from where the pointer is pressed to where it is let go. */
function Stroke({
  layer,
  top,
  text,
  keep = false,
  onDone,
}: WorkProps & {
  readonly text: (from: Point, to: Point) => string
  /** It stays until the next. */
  readonly keep?: boolean
  readonly onDone?: (from: Point, to: Point) => void
}) {
  const [line, setLine] = useState<{ from: Point; to: Point } | null>(null)
  const pressed = useRef(false)
  usePointer(layer, {
    onDown: (event) => {
      const at = placeAt(layer, top, event)
      pressed.current = true
      setLine({ from: at, to: at })
    },
    onMove: (event) => {
      if (pressed.current) setLine((before) => before && { ...before, to: placeAt(layer, top, event) })
    },
    onUp: (event) => {
      pressed.current = false
      if (!line) return
      const [from, to] = [tenth(line.from), tenth(placeAt(layer, top, event))]
      if (!keep) setLine(null)
      if (Math.hypot(to[0] - from[0], to[1] - from[1]) > 0.1) onDone?.(from, to)
    },
  })
  if (!line) return null
  const { from, to } = line
  const size = 13 / perMetre(layer)
  return (
    <g data-testid="stroke">
      <path d={`M${from[0]} ${top - from[1]}L${to[0]} ${top - to[1]}`} className={classes.draft} />
      <g className={classes.gradient}>
        <text x={(from[0] + to[0]) / 2} y={top - (from[1] + to[1]) / 2 - size * 0.5} fontSize={size}>
          {text(from, to)}
        </text>
      </g>
    </g>
  )
}

/** A piece of ground by its corners, one click each. */
function Corners({ layer, top, onDone }: WorkProps & { readonly onDone: (corners: Point[]) => void }) {
  const [corners, setCorners] = useState<readonly Point[]>([])
  const [at, setAt] = useState<Point | null>(null)
  const close = (): void => {
    setCorners([])
    // A line has no ground in it.
    if (corners.length >= 3 && areaWithin(corners) > 0.01) onDone([...corners])
  }
  usePointer(layer, {
    onDown: (event) => {
      const next = tenth(placeAt(layer, top, event))
      const first = corners[0]
      if (first && corners.length >= 3 && Math.hypot(next[0] - first[0], next[1] - first[1]) * perMetre(layer) < NEAR) close()
      else if (!corners.some((each) => each[0] === next[0] && each[1] === next[1])) setCorners([...corners, next])
    },
    onMove: (event) => setAt(placeAt(layer, top, event)),
  })
  useKeys((event) => {
    if (event.key === 'Enter') close()
    else if (event.key === 'Escape') setCorners([])
    else if (event.key === 'Backspace') setCorners(corners.slice(0, -1))
    else return false
    return true
  })
  const drawn = at ? [...corners, at] : corners
  const radius = 4 / perMetre(layer)
  return (
    <g data-testid="corners">
      {drawn.length > 1 && <polygon points={drawn.map(([x, y]) => `${x},${top - y}`).join(' ')} className={classes.draft} />}
      {corners.map(([x, y], i) => (
        <circle key={i} cx={x} cy={top - y} r={radius} className={classes.handle} />
      ))}
    </g>
  )
}
