import { areaWithin } from '@canter/core/ground'
import type { Point } from '@canter/core/trial'
import { useRef, useState } from 'react'
import { NEAR, perMetre, placeAt, tenth, useKeys, usePointer, type WorkProps } from './plan-pointer.ts'
import classes from './plan.module.css'

/** A line drawn from where the pointer is pressed to where it is let go. */
export function Stroke({
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
export function Corners({ layer, top, onDone }: WorkProps & { readonly onDone: (corners: Point[]) => void }) {
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
