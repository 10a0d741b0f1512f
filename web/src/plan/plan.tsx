import type { Rectangle } from '@canter/core/ground'
import type { Unit } from '@canter/core/trial'
import { select } from 'd3-selection'
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomBehavior } from 'd3-zoom'
import { IconFocusCentered, IconMinus, IconPlus } from '@tabler/icons-react'
import { ActionIcon } from '@mantine/core'
import { useElementSize } from '@mantine/hooks'
import { memo, useCallback, useEffect, useId, useMemo, useRef, type KeyboardEvent } from 'react'
import { Gradient, Marks, Scale, upwards, type GroundMarks, type ScaleHandle } from './ground-marks.tsx'
import classes from './plan.module.css'

/** How one plot is drawn: its colour, up to two lines under its number, and marks that do not rest on colour. */
export interface PlotLook {
  readonly fill: string
  readonly ink: string
  readonly hatched?: boolean
  readonly lines: readonly string[]
  /** A ring: something odd or flagged. */
  readonly ringed?: boolean
  /** Crossed out: lost or left out. */
  readonly crossed?: boolean
  readonly dimmed?: boolean
  /** Read out and shown in the card. */
  readonly about: string
}

/** How all plots are drawn. */
export interface Looks {
  readonly of: (unit: Unit) => PlotLook
  /** What is known of one unit, and what the looks rest on besides: where both are the same as before, so is the look. */
  readonly own: (unit: string) => unknown
  readonly basis: readonly unknown[]
}

/** Looks that rest on nothing but the function that gives them. */
export function looksOf(of: (unit: Unit) => PlotLook): Looks {
  return { of, own: () => undefined, basis: [of] }
}

export interface PlanProps {
  readonly units: readonly Unit[]
  /** What is shown, metres. */
  readonly extent: Rectangle
  readonly looks: Looks
  readonly selected: string | null
  readonly onSelect: (unit: string | null) => void
  readonly onOpen?: (unit: string) => void
  readonly label: string
  /** What lies on the ground besides the units. */
  readonly marks?: GroundMarks
  /** The measure of the scale bar: its name, and how long it is in metres. */
  readonly measure?: { readonly name: string; readonly metres: number }
  /** Free ground around, as a share of the longer side. */
  readonly room?: number
  /** Given the layer that is drawn over the plots, to be worked on with a pointer. */
  readonly onLayer?: ((layer: SVGGElement | null) => void) | undefined
}

/**
 * The plots of a site to scale, front edge at the bottom. Panned and zoomed with wheel, pinch,
 * drag and keys; plots picked with a click or the arrow keys.
 */
export const Plan = memo(function Plan({
  units,
  extent,
  looks,
  selected,
  onSelect,
  onOpen,
  label,
  marks,
  measure,
  onLayer,
  room = 0.03,
}: PlanProps) {
  const svg = useRef<SVGSVGElement>(null)
  // In pixels: a size that follows its frame has every plot laid out again whenever anything on the page is.
  const { ref: frame, width, height } = useElementSize()
  const ground = useRef<SVGGElement>(null)
  const over = useRef<SVGGElement>(null)
  const scale = useRef<ScaleHandle>(null)
  const behaviour = useRef<ZoomBehavior<SVGSVGElement, unknown>>(null)
  const transform = useRef(zoomIdentity)
  const settling = useRef<ReturnType<typeof setTimeout>>(undefined)
  const ids = useId()
  const plots = useMemo(() => units.filter((unit) => unit.place !== null && unit.walk !== null), [units])
  const groups = useMemo(() => units.filter((unit) => unit.place !== null && GROUPS.has(unit.kind)), [units])
  const drawn = useDrawn(plots, looks)
  const pieces = useMemo(() => piecesOf(drawn), [drawn])
  const size = useMemo(() => textSize(drawn), [drawn])
  const margin = Math.max(extent.width, extent.length) * room + 0.2
  const top = extent.y + extent.length

  // Text too small to read, or out of sight, is not drawn: thousands of labels would only slow the moving.
  const showText = useCallback(() => {
    const node = svg.current
    if (!node || node.clientWidth === 0) return
    const perMetre = Math.min(node.clientWidth / (extent.width + 2 * margin), node.clientHeight / (extent.length + 2 * margin))
    const { x, y, k } = transform.current
    node.toggleAttribute('data-far', size * perMetre * k < READABLE)
    scale.current?.show(perMetre * k)
    node.removeAttribute('data-moving')
    if (plots.length <= MANY) return
    const half = [node.clientWidth / perMetre / 2 / k, node.clientHeight / perMetre / 2 / k] as const
    const centre = [(extent.x + extent.width / 2 - x) / k, (extent.length / 2 - y) / k] as const
    ground.current?.querySelectorAll('[data-unit]').forEach((element, i) => {
      const place = plots[i]?.place
      if (!place) return
      const dx = Math.abs(place.x + place.width / 2 - centre[0])
      const dy = Math.abs(top - place.y - place.length / 2 - centre[1])
      element.toggleAttribute('data-seen', dx < half[0] + place.width && dy < half[1] + place.length)
    })
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the size of the frame decides what can be read
  }, [extent, margin, plots, size, top, width, height])
  const drawText = useRef(showText)
  useEffect(() => {
    drawText.current = showText
    showText()
  }, [showText])
  useEffect(() => {
    const node = svg.current
    if (!node) return
    const moving = zoom<SVGSVGElement, unknown>()
      .scaleExtent([1, 60])
      .on('zoom', (event: D3ZoomEvent<SVGSVGElement, unknown>) => {
        // The transform goes straight to the drawing: no plot is rendered again while it moves.
        ground.current?.setAttribute('transform', event.transform.toString())
        over.current?.setAttribute('transform', event.transform.toString())
        transform.current = event.transform
        node.setAttribute('data-moving', '')
        clearTimeout(settling.current)
        settling.current = setTimeout(() => drawText.current(), 120)
      })
    behaviour.current = moving
    select(node).call(moving).on('dblclick.zoom', null)
    return () => {
      select(node).on('.zoom', null)
    }
  }, [])

  const scaleBy = useCallback((factor: number) => {
    if (svg.current && behaviour.current) select(svg.current).call((target) => behaviour.current!.scaleBy(target, factor))
  }, [])
  const whole = useCallback(() => {
    if (svg.current && behaviour.current) select(svg.current).call((target) => behaviour.current!.transform(target, zoomIdentity))
  }, [])

  const onKeyDown = (event: KeyboardEvent) => {
    if (event.altKey || event.ctrlKey || event.metaKey) return
    const steps: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }
    const step = steps[event.key]
    if (step) {
      const from = plots.find((plot) => plot.id === selected)
      const to = from ? neighbour(plots, from, step) : plots[0]
      if (to) onSelect(to.id)
    } else if (event.key === '+' || event.key === '=') scaleBy(1.4)
    else if (event.key === '-') scaleBy(1 / 1.4)
    else if (event.key === '0') whole()
    else if (event.key === 'Escape') onSelect(null)
    else if (event.key === 'Enter' && selected) onOpen?.(selected)
    else return
    event.preventDefault()
  }

  const viewBox = `${extent.x - margin} ${-margin} ${extent.width + 2 * margin} ${extent.length + 2 * margin}`
  const picked = plots.find((plot) => plot.id === selected)
  return (
    <div className={classes.frame} ref={frame}>
      <svg
        ref={svg}
        className={classes.plan}
        width={width}
        height={height}
        data-many={plots.length > MANY}
        viewBox={viewBox}
        preserveAspectRatio="xMidYMid meet"
        role="listbox"
        aria-label={`${label}. Arrow keys move from plot to plot, plus and minus zoom.`}
        aria-activedescendant={selected ? `${ids}-${selected}` : undefined}
        tabIndex={0}
        onKeyDown={onKeyDown}
        onClick={(event) => {
          onSelect((event.target as Element).closest('[data-unit]')?.getAttribute('data-unit') ?? null)
        }}
      >
        <defs>
          <pattern id={`${ids}-hatch`} width="0.9" height="0.9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="0.9" height="0.9" fill="#ffffff" />
            <line x1="0" y1="0" x2="0" y2="0.9" stroke="#8a877c" strokeWidth="0.14" />
          </pattern>
        </defs>
        <g ref={ground}>
          <rect className={classes.edge} x={extent.x} y={0} width={extent.width} height={extent.length} />
          {marks && <Marks marks={marks} top={top} size={Math.max(extent.width, extent.length) * 0.03 + 0.2} />}
          {groups.map(({ id, place }) => (
            <rect
              key={id}
              className={classes.group}
              x={place!.x - GROUP_ROOM}
              y={top - place!.y - place!.length - GROUP_ROOM}
              width={place!.width + 2 * GROUP_ROOM}
              height={place!.length + 2 * GROUP_ROOM}
              transform={upwards(place!, top)}
            />
          ))}
          {pieces.map((piece, i) => (
            <Piece
              key={i}
              drawn={piece}
              ids={ids}
              size={size}
              top={top}
              round={marks?.round ?? false}
              selected={piece.some(({ plot }) => plot.id === selected) ? selected : null}
            />
          ))}
          {marks?.gradient && <Gradient gradient={marks.gradient} top={top} size={Math.max(extent.width, extent.length) * 0.03 + 0.2} />}
        </g>
      </svg>
      {/* Drawn apart: a line moved within the drawing would have all of its plots laid out again. */}
      <svg className={classes.over} width={width} height={height} viewBox={viewBox} preserveAspectRatio="xMidYMid meet" aria-hidden>
        <g ref={over}>
          {picked?.place && (
            <rect
              x={picked.place.x}
              y={top - picked.place.y - picked.place.length}
              transform={upwards(picked.place, top)}
              width={picked.place.width}
              height={picked.place.length}
              className={classes.selected}
            />
          )}
          <g ref={onLayer} />
        </g>
      </svg>
      {measure && <Scale ref={scale} measure={measure} bearing={marks?.bearing ?? null} />}
      <Tools scaleBy={scaleBy} whole={whole} />
    </div>
  )
})

const Tools = memo(function Tools({ scaleBy, whole }: { scaleBy: (factor: number) => void; whole: () => void }) {
  return (
    <div className={`${classes.tools} no-print`}>
      <ActionIcon variant="subtle" c="var(--ink-soft)" aria-label="Closer" onClick={() => scaleBy(1.4)}>
        <IconPlus size={16} />
      </ActionIcon>
      <ActionIcon variant="subtle" c="var(--ink-soft)" aria-label="Farther" onClick={() => scaleBy(1 / 1.4)}>
        <IconMinus size={16} />
      </ActionIcon>
      <ActionIcon variant="subtle" c="var(--ink-soft)" aria-label="Whole site" onClick={whole}>
        <IconFocusCentered size={16} />
      </ActionIcon>
    </div>
  )
})

/** Larger units drawn as a line around what lies in them, a little outside it. Metres. */
const GROUPS: ReadonlySet<string> = new Set(['main plot', 'block'])
const GROUP_ROOM = 0.12
/** Above this count outlines are dropped and edges drawn fast. */
export const MANY = 600
/** Smallest text worth drawing, in pixels. */
const READABLE = 5
/** Plots drawn as one piece: a change of one plot looks at its piece alone. */
const PIECE = 60

interface Drawn {
  readonly plot: Unit
  readonly look: PlotLook
}

/** The plots with their looks; only what is known to have changed is looked at, and what looks as before is the same object as before. */
function useDrawn(plots: readonly Unit[], looks: Looks): readonly Drawn[] {
  const last = useRef<{ plots: readonly Unit[]; basis: readonly unknown[]; own: readonly unknown[]; drawn: readonly Drawn[] }>(null)
  const made = useMemo(() => {
    const { of, basis } = looks
    const from = last.current
    const own = plots.map((plot) => looks.own(plot.id))
    const known = from?.plots === plots && from.basis.length === basis.length && from.basis.every((each, i) => each === basis[i])
    const drawn = plots.map((plot, i): Drawn => {
      const before = from?.drawn[i]
      if (before && known && from.own[i] === own[i]) return before
      const look = of(plot)
      return before?.plot === plot && sameLook(before.look, look) ? before : { plot, look }
    })
    return { plots, basis, own, drawn }
  }, [looks, plots])
  useEffect(() => {
    last.current = made
  }, [made])
  return made.drawn
}

function piecesOf(drawn: readonly Drawn[]): readonly (readonly Drawn[])[] {
  return Array.from({ length: Math.ceil(drawn.length / PIECE) }, (_, i) => drawn.slice(i * PIECE, (i + 1) * PIECE))
}

interface PieceProps {
  readonly drawn: readonly Drawn[]
  readonly ids: string
  readonly size: number
  readonly top: number
  readonly round: boolean
  /** The plot picked, where it is in this piece. */
  readonly selected: string | null
}

const Piece = memo(
  function Piece({ drawn, ids, size, top, round, selected }: PieceProps) {
    return (
      <g role="presentation">
        {drawn.map(({ plot, look }) => (
          <Plot
            key={plot.id}
            unit={plot}
            id={`${ids}-${plot.id}`}
            hatch={`url(#${ids}-hatch)`}
            look={look}
            size={size}
            top={top}
            round={round}
            selected={plot.id === selected}
          />
        ))}
      </g>
    )
  },
  (a, b) =>
    a.selected === b.selected &&
    a.size === b.size &&
    a.top === b.top &&
    a.round === b.round &&
    a.ids === b.ids &&
    a.drawn.length === b.drawn.length &&
    a.drawn.every((each, i) => each === b.drawn[i]),
)

interface PlotProps {
  readonly unit: Unit
  readonly id: string
  readonly hatch: string
  readonly look: PlotLook
  readonly size: number
  readonly top: number
  readonly round: boolean
  readonly selected: boolean
}

const Plot = memo(function Plot({ unit, id, hatch, look, size, top, round, selected }: PlotProps) {
  const { x, y, width, length } = unit.place!
  const up = top - y - length
  const lines = [unit.code, ...look.lines].filter(Boolean)
  const middle = up + length / 2 - ((lines.length - 1) * size * 1.25) / 2
  const inset = Math.min(width, length) * 0.09
  return (
    <g
      role="option"
      id={id}
      data-unit={unit.id}
      aria-selected={selected}
      aria-label={look.about}
      className={classes.plot}
      transform={upwards(unit.place!, top)}
      opacity={look.dimmed ? 0.3 : 1}
    >
      <rect
        x={x}
        y={up}
        width={width}
        height={length}
        rx={round ? Math.min(width, length) / 2 : undefined}
        fill={look.hatched ? hatch : look.fill}
        className={classes.box}
      />
      {look.ringed && (
        <rect
          x={x + inset}
          y={up + inset}
          width={width - 2 * inset}
          height={length - 2 * inset}
          rx={inset}
          className={classes.ring}
          stroke={look.ink}
        />
      )}
      {look.crossed && (
        <path
          d={`M${x} ${up}L${x + width} ${up + length}M${x + width} ${up}L${x} ${up + length}`}
          className={classes.cross}
          stroke={look.ink}
        />
      )}
      {lines.map((line, i) => (
        <text
          key={i}
          x={x + width / 2}
          y={middle + i * size * 1.25}
          fontSize={size}
          fill={look.ink}
          className={i === 0 ? classes.code : classes.line}
          // White behind dark text keeps it readable on hatch and crosses.
          stroke={look.hatched || look.crossed ? (look.ink === '#ffffff' ? look.fill : '#ffffff') : 'none'}
          strokeWidth={size * 0.28}
        >
          {line}
        </text>
      ))}
    </g>
  )
})

/** One size of text for all plots: the largest at which the longest line fits its plot. Metres. */
function textSize(drawn: readonly { plot: Unit; look: PlotLook }[]): number {
  let size = 4
  for (const { plot, look } of drawn) {
    const longest = Math.max(3, plot.code.length * 1.08, ...look.lines.map((line) => line.length))
    size = Math.min(size, (plot.place!.width * 0.94) / (longest * 0.66), plot.place!.length / ((look.lines.length + 1) * 1.4))
  }
  return size
}

function sameLook(a: PlotLook, b: PlotLook): boolean {
  return (
    a.fill === b.fill &&
    a.ink === b.ink &&
    a.about === b.about &&
    a.ringed === b.ringed &&
    a.crossed === b.crossed &&
    a.dimmed === b.dimmed &&
    a.hatched === b.hatched &&
    a.lines.join('|') === b.lines.join('|')
  )
}

/** The nearest plot that way, leaning towards the same row or column. */
function neighbour(plots: readonly Unit[], from: Unit, [dx, dy]: [number, number]): Unit | undefined {
  const centre = (plot: Unit): [number, number] => [plot.place!.x + plot.place!.width / 2, plot.place!.y + plot.place!.length / 2]
  const [x, y] = centre(from)
  let best: Unit | undefined
  let least = Infinity
  for (const plot of plots) {
    const [px, py] = centre(plot)
    const along = (px - x) * dx + (py - y) * dy
    if (plot === from || along <= 1e-6) continue
    const aside = Math.abs((px - x) * dy) + Math.abs((py - y) * dx)
    const cost = along + 3 * aside
    if (cost < least) {
      least = cost
      best = plot
    }
  }
  return best
}
