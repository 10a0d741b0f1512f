import { convert, formatPlain, parseQuantity, shown, shownUnit, withUnit } from '@canter/core/quantity'
import { TextInput, type TextInputProps } from '@mantine/core'
import { useEffect, useRef, useState } from 'react'
import { usePerson } from '../api/queries.ts'

interface QuantityFieldProps extends Omit<TextInputProps, 'value' | 'onChange'> {
  /** In `unit`; null when not stated. */
  readonly value: number | null
  readonly unit: string
  readonly of?: string
  readonly currency?: string
  readonly low?: number
  readonly high?: number
  readonly optional?: boolean
  readonly onCommit: (value: number | null) => void
}

/**
 * A quantity in the person's own unit; a unit typed with it is understood and said.
 * Saved when one leaves the field or presses Enter.
 */
export function QuantityField({ value, unit, of, currency, low, high, optional, onCommit, ...rest }: QuantityFieldProps) {
  const { units } = usePerson()
  const own = shownUnit(unit, units)
  const asText = (stored: number | null): string => (stored === null ? '' : formatPlain(shown(stored, unit, units).value, 5))
  const [text, setText] = useState(asText(value))
  const [problem, setProblem] = useState<string | null>(null)
  const [understood, setUnderstood] = useState<string | null>(null)
  const standing = asText(value)
  // What was committed last: Enter and leaving the field are one commit, though the save takes a moment.
  const committed = useRef(standing)
  useEffect(() => {
    setText(standing)
    committed.current = standing
  }, [standing])

  const commit = (): void => {
    if (text.trim() === '' && optional) {
      setProblem(null)
      if (committed.current !== '') onCommit(null)
      committed.current = ''
      return
    }
    if (text.trim() === committed.current && (value !== null || committed.current !== '')) {
      setProblem(null)
      return
    }
    const parsed = parseQuantity(text, unit, own)
    const bound = (stored: number): string => withUnit(formatPlain(convert(stored, unit, own), 4), own, undefined, currency)
    const wrong = !parsed.ok
      ? parsed.problem
      : low !== undefined && parsed.value < low
        ? `Must be at least ${bound(low)}.`
        : high !== undefined && parsed.value > high
          ? `Must be at most ${bound(high)}.`
          : null
    setProblem(wrong)
    if (wrong !== null || !parsed.ok) return
    if (parsed.typedUnit !== own) {
      setUnderstood(
        `${withUnit(formatPlain(parsed.typedValue), parsed.typedUnit)} = ${withUnit(formatPlain(convert(parsed.value, unit, own), 5), own)}`,
      )
    }
    onCommit(parsed.value)
    committed.current = asText(parsed.value)
    setText(committed.current)
  }

  const suffix = unit.startsWith('money') ? `${currency ?? '€'}${own.slice('money'.length)}` : of ? withUnit('', own, of).trim() : own
  return (
    <TextInput
      {...rest}
      value={text}
      inputMode="decimal"
      error={problem}
      description={understood ?? rest.description}
      inputWrapperOrder={['label', 'input', 'description', 'error']}
      rightSection={suffix === 'score' ? undefined : <span className="quiet small">{suffix}</span>}
      rightSectionWidth={Math.max(24, suffix.length * 8 + 6)}
      rightSectionPointerEvents="none"
      onChange={(event) => {
        setText(event.currentTarget.value)
        setUnderstood(null)
      }}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit()
        if (event.key === 'Escape') setText(standing)
      }}
    />
  )
}
