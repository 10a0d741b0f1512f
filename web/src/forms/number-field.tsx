import { formatPlain } from '@canter/core/quantity'
import { TextInput, type TextInputProps } from '@mantine/core'
import { useCommit, type Commit } from './use-commit.ts'

interface NumberFieldProps extends Omit<TextInputProps, 'value' | 'onChange' | 'defaultValue'> {
  readonly value: number | null
  readonly low: number
  readonly high: number
  readonly suffix?: string
  /** An empty field says nothing is stated. */
  readonly optional?: boolean
  readonly onCommit: Commit<number | null>
}

/** A number without a measure of its own (degrees), saved when one leaves the field or presses Enter. */
export function NumberField({ value, low, high, suffix, optional, onCommit, ...rest }: NumberFieldProps) {
  const field = useCommit<number | null>({
    standing: value === null ? '' : formatPlain(value, 6),
    read: (text) => {
      const typed = text.trim().replace(',', '.').replace('−', '-')
      if (typed === '' && optional) return { ok: true, value: null }
      const number = Number(typed)
      if (typed === '' || !Number.isFinite(number)) return { ok: false, problem: 'A number.' }
      if (number < low || number > high) return { ok: false, problem: `From ${low} to ${high}.` }
      return { ok: true, value: number }
    },
    onCommit,
  })
  return (
    <TextInput
      {...rest}
      inputMode="decimal"
      value={field.text}
      error={field.problem ?? rest.error}
      rightSection={suffix ? <span className="quiet small">{suffix}</span> : undefined}
      rightSectionPointerEvents="none"
      onBlur={field.commit}
      onChange={field.onChange}
      onKeyDown={(event) => field.onKeyDown(event, true)}
    />
  )
}
