import { useEffect, useMemo, useRef } from 'react'

/** Keys typed while a value is being kept, given to the field that has the focus afterwards. */
export interface TypedAhead {
  /** From now on keys are held. */
  readonly hold: () => void
  /** The next field has the focus: what was typed ahead is typed there. */
  readonly release: () => void
  /** There is no next field, or the value could not be kept: what was typed ahead is let go. */
  readonly drop: () => void
}

/**
 * A scale or a quick hand types the next value before the device has kept the last. Without this
 * its first digits would correct the value just given.
 */
export function useTypedAhead(): TypedAhead {
  const keys = useRef<string[]>([])
  const holding = useRef(false)
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent): void => {
      if (!holding.current || !event.isTrusted || event.ctrlKey || event.altKey || event.metaKey) return
      if (event.key === 'Backspace') keys.current.pop()
      else if (event.key === 'Enter' || event.key.length === 1) keys.current.push(event.key)
      else return
      event.preventDefault()
      event.stopPropagation()
    }
    window.addEventListener('keydown', onKeyDown, { capture: true })
    return () => window.removeEventListener('keydown', onKeyDown, { capture: true })
  }, [])
  return useMemo(() => {
    const drop = (): void => {
      keys.current = []
      holding.current = false
    }
    const release = async (): Promise<void> => {
      holding.current = false
      // An Enter among them keeps the next value, and holds the rest again.
      while (!holding.current && keys.current.length > 0) {
        const enter = keys.current.indexOf('Enter')
        const typed = keys.current.splice(0, enter < 0 ? keys.current.length : Math.max(1, enter))
        type(typed)
        await new Promise((resolve) => requestAnimationFrame(resolve))
      }
    }
    return {
      hold: () => {
        holding.current = true
      },
      release: () => void release(),
      drop,
    }
  }, [])
}

/** Into the field that has the focus, as the hand would: a text at once, an Enter or a choice key by key. */
function type(keys: readonly string[]): void {
  const field = document.activeElement
  if (field instanceof HTMLInputElement && keys[0] !== 'Enter') {
    // Through the setter of the element itself, so that the form hears of it as of any input.
    Reflect.set(HTMLInputElement.prototype, 'value', keys.join(''), field)
    field.dispatchEvent(new Event('input', { bubbles: true }))
    return
  }
  for (const key of keys) field?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
}
