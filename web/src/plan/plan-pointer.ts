import type { Ground, Point, Site, Unit } from '@canter/core/trial'
import { useEffect, useRef } from 'react'

export type GroundPatch = Partial<Pick<Ground, 'moved' | 'gradient' | 'outline' | 'avoid' | 'parts'>>

/** What is kept: as it is, or made from the ground that stands when its turn comes. */
export type Act = (patch: GroundPatch | ((ground: Ground) => GroundPatch)) => Promise<boolean>

/** In pixels: how near a corner or an edge is meant. */
export const NEAR = 9

export interface WorkProps {
  readonly layer: SVGGElement
  readonly units: readonly Unit[]
  readonly site: Site
  readonly top: number
  /** Keeps it, and says whether it was kept. */
  readonly act: Act
}

/** The place of the site under a pointer, metres. */
export function placeAt(layer: SVGGElement, top: number, event: { clientX: number; clientY: number }): Point {
  const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(layer.getScreenCTM()!.inverse())
  return [x, top - y]
}

/** Pixels for a metre as the plan is drawn now. */
export function perMetre(layer: SVGGElement): number {
  return Math.abs(layer.getScreenCTM()!.a)
}

export function tenth([x, y]: Point): Point {
  return [Math.round(x * 10) / 10, Math.round(y * 10) / 10]
}

/** What a pointer does on the drawing, from its pressing to its letting go. */
interface Press {
  readonly onDown?: (event: PointerEvent) => void
  readonly onMove?: (event: PointerEvent) => void
  readonly onUp?: (event: PointerEvent) => void
}

export function usePointer(layer: SVGGElement, press: Press): void {
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

export function useKeys(onKey: (event: KeyboardEvent) => boolean): void {
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
