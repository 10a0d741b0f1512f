import { convert, formatPlain, parseQuantity, shown, shownUnit, withUnit } from '@canter/core/quantity'
import { TextInput, type TextInputProps } from '@mantine/core'
import { useState } from 'react'
import { usePerson } from '../data/queries.ts'
import { useCommit, type Commit } from './use-commit.ts'

interface QuantityFieldProps extends Omit<TextInputProps, 'value' | 'onChange'> {
  /** In `unit`; null when not stated. */
  readonly value: number | null
  readonly unit: string
  readonly of?: string
  readonly currency?: string
  readonly low?: number
  readonly high?: number
  readonly optional?: boolean
  readonly onCommit: Commit<number | null>
}

/**
 * A quantity in the person's own measure; a measure typed with it is understood and said.
 * Saved when one leaves the field or presses Enter.
 */
export function QuantityField({ value, unit, of, currency, low, high, optional, onCommit, ...rest }: QuantityFieldProps) {
  const { units } = usePerson()
  const own = shownUnit(unit, units)
  const [understood, setUnderstood] = useState<string | null>(null)
  const bound = (stored: number): string => withUnit(formatPlain(convert(stored, unit, own), 4), own, undefined, currency)
  const field = useCommit<number | null>({
    standing: value === null ? '' : formatPlain(shown(value, unit, units).value, 5),
    read: (text) => {
      if (text.trim() === '' && optional) return { ok: true, value: null }
      const parsed = parseQuantity(text, unit, own)
      if (!parsed.ok) return parsed
      if (low !== undefined && parsed.value < low) return { ok: false, problem: `Must be at least ${bound(low)}.` }
      if (high !== undefined && parsed.value > high) return { ok: false, problem: `Must be at most ${bound(high)}.` }
      if (parsed.typedUnit !== own) {
        const as = withUnit(formatPlain(convert(parsed.value, unit, own), 5), own)
        setUnderstood(`${withUnit(formatPlain(parsed.typedValue), parsed.typedUnit)} = ${as}`)
      }
      return { ok: true, value: parsed.value }
    },
    onCommit,
    onTyping: () => setUnderstood(null),
  })
  const suffix = unit.startsWith('money') ? `${currency ?? '€'}${own.slice('money'.length)}` : of ? withUnit('', own, of).trim() : own
  return (
    <TextInput
      {...rest}
      value={field.text}
      inputMode="decimal"
      error={field.problem ?? rest.error}
      description={understood ?? rest.description}
      inputWrapperOrder={['label', 'input', 'description', 'error']}
      rightSection={suffix === 'score' ? undefined : <span className="quiet small">{suffix}</span>}
      rightSectionWidth={Math.max(24, suffix.length * 8 + 6)}
      rightSectionPointerEvents="none"
      onBlur={field.commit}
      onChange={field.onChange}
      onKeyDown={(event) => field.onKeyDown(event, true)}
    />
  )
}
