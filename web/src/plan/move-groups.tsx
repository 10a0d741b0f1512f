import {
  carriedWith,
  cornersOf,
  middleOf,
  movableGroups,
  movesWith,
  shifted,
  snapped,
  turnedBy,
  type MovableGroup,
  type Rectangle,
} from '@canter/core/ground'
import { turned, type Point, type Unit } from '@canter/core/trial'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { NEAR, perMetre, placeAt, useKeys, usePointer, type WorkProps } from './plan-pointer.ts'
import classes from './plan.module.css'

/** Kinds that are moved, the widest first; of two that lie in each other the one held is found. */
const ORDER: readonly string[] = ['site', 'replicate', 'block', 'strip', 'row', 'column', 'main plot', 'subplot']

export function MoveGroups({ layer, units, site, top, act }: WorkProps) {
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
    // From where they stand by then: an earlier step may still be on its way when this one is let go.
    void act((standing) => {
      const aside = { ...standing, moved: shifted(standing.moved, refs, by) }
      const at = carriedWith(units, refs[0]!, ground, aside, middle)
      return { moved: degrees === 0 ? aside.moved : turnedBy(units, aside, refs, at, degrees) }
    }).then((kept) => kept || show([0, 0], 0))
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
