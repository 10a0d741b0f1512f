import { edgesOf, middleOf, risesInWords, type Edge, type Rectangle } from '@canter/core/ground'
import type { Ground, Point, Unit } from '@canter/core/trial'
import { memo, useImperativeHandle, useRef, type Ref } from 'react'
import classes from './plan.module.css'

/** What lies on the ground besides the units of the trial. */
export interface GroundMarks {
  readonly edges: readonly Edge[]
  readonly avoid: Ground['avoid']
  readonly outline: Ground['outline']
  readonly gradient: Ground['gradient']
  readonly bearing: number | null
  /** Units are round: pots. */
  readonly round: boolean
}

export function groundMarks(units: readonly Unit[], ground: Ground): GroundMarks {
  const { avoid, outline, gradient, bearing, round } = ground
  return { edges: edgesOf(units, ground), avoid, outline, gradient, bearing, round }
}

/** Turned as it lies; the drawing counts downwards. Nothing for what lies along the axes. */
export function upwards(place: Rectangle, top: number): string | undefined {
  if (!place.turn) return undefined
  const [x, y] = middleOf(place)
  return `rotate(${-place.turn} ${x} ${top - y})`
}

/** What is avoided, the edge of the ground, guards, and the arrow along which the ground changes. `size`: a length that can be seen, metres. */
export const Marks = memo(function Marks({ marks, top, size }: { marks: GroundMarks; top: number; size: number }) {
  const { edges, avoid, outline } = marks
  const points = (corners: readonly Point[]): string => corners.map(([x, y]) => `${x},${top - y}`).join(' ')
  return (
    <g aria-hidden>
      {outline && <polygon points={points(outline)} className={classes.outline} />}
      {edges.map((edge, i) => (
        <rect
          key={i}
          className={edge.kind === 'guard' ? classes.guard : classes.filler}
          x={edge.x}
          y={top - edge.y - edge.length}
          width={edge.width}
          height={edge.length}
          rx={marks.round ? Math.min(edge.width, edge.length) / 2 : undefined}
          transform={upwards(edge, top)}
        />
      ))}
      {avoid.map(({ name, corners }, i) => {
        const middle = corners.reduce(([x, y], corner) => [x + corner[0] / corners.length, y + corner[1] / corners.length], [0, 0])
        return (
          <g key={i}>
            <polygon points={points(corners)} className={classes.avoided} />
            <text x={middle[0]} y={top - middle[1]} fontSize={size * 0.62} className={classes.avoidedName}>
              {name}
            </text>
          </g>
        )
      })}
    </g>
  )
})

/** Drawn over the plots: an arrow that says what is more at its head. */
export function Gradient({
  gradient: { what, from, to },
  top,
  size,
}: {
  gradient: NonNullable<Ground['gradient']>
  top: number
  size: number
}) {
  const [x1, y1, x2, y2] = [from[0], top - from[1], to[0], top - to[1]]
  const way = Math.atan2(y2 - y1, x2 - x1)
  const barb = (off: number): string => `L${x2 - size * 0.5 * Math.cos(way + off)} ${y2 - size * 0.5 * Math.sin(way + off)}`
  const upright = Math.abs(way) > Math.PI / 2 ? (way * 180) / Math.PI + 180 : (way * 180) / Math.PI
  const [mx, my] = [(x1 + x2) / 2, (y1 + y2) / 2]
  return (
    <g className={classes.gradient} aria-hidden>
      <path d={`M${x1} ${y1}L${x2} ${y2}${barb(0.5)}M${x2} ${y2}${barb(-0.5)}`} />
      <text x={mx} y={my} dy={-size * 0.22} fontSize={size * 0.62} transform={`rotate(${upright} ${mx} ${my})`}>
        {risesInWords(what)}
      </text>
    </g>
  )
}

export interface ScaleHandle {
  /** Pixels for a metre as it is drawn now. */
  show: (perMetre: number) => void
}

/** A length to hold distances against, and where north is if that is known. Drawn straight, as the ground is while it moves. */
export function Scale({
  ref,
  measure,
  bearing,
}: {
  ref: Ref<ScaleHandle>
  measure: { readonly name: string; readonly metres: number }
  bearing: number | null
}) {
  const bar = useRef<HTMLSpanElement>(null)
  const text = useRef<HTMLSpanElement>(null)
  useImperativeHandle(ref, () => ({
    show: (perMetre) => {
      if (!bar.current || !text.current) return
      const length = roundLength(90 / perMetre / measure.metres)
      bar.current.style.width = `${length * measure.metres * perMetre}px`
      text.current.textContent = `${length} ${measure.name}`
    },
  }))
  return (
    <div className={classes.scale}>
      {bearing !== null && (
        <svg
          viewBox="-10 -10 20 20"
          width={22}
          height={22}
          role="img"
          aria-label={`North; the back of the site lies at ${bearing}°`}
          style={{ transform: `rotate(${-bearing}deg)` }}
        >
          <path d="M0 -8L4 7L0 4L-4 7Z" fill="currentColor" />
        </svg>
      )}
      <span className={classes.scaleBar} ref={bar} />
      <span ref={text} />
    </div>
  )
}

/** 1, 2 or 5 times a power of ten, the largest not above. */
function roundLength(most: number): number {
  const power = 10 ** Math.floor(Math.log10(most))
  const times = [5, 2, 1].find((each) => each * power <= most) ?? 1
  return Number((times * power).toPrecision(1))
}
