import { TextInput, type TextInputProps } from '@mantine/core'
import { useCommit, type Commit } from './use-commit.ts'

interface CountFieldProps extends Omit<TextInputProps, 'value' | 'onChange' | 'defaultValue'> {
  readonly value: number | null
  readonly low: number
  readonly high: number
  /** An empty field says nothing is stated. */
  readonly optional?: boolean
  readonly onCommit: Commit<number | null>
}

/** A whole number, saved when one leaves the field or presses Enter: never a digit on the way to another. */
export function CountField({ value, low, high, optional, onCommit, ...rest }: CountFieldProps) {
  const field = useCommit<number | null>({
    standing: value === null ? '' : String(value),
    read: (text) => {
      if (text.trim() === '' && optional) return { ok: true, value: null }
      const typed = Number(text.trim())
      if (text.trim() === '' || !Number.isInteger(typed)) return { ok: false, problem: 'A whole number.' }
      if (typed < low || typed > high) return { ok: false, problem: `From ${low} to ${high}.` }
      return { ok: true, value: typed }
    },
    onCommit,
  })
  return (
    <TextInput
      {...rest}
      inputMode="numeric"
      value={field.text}
      error={field.problem ?? rest.error}
      onBlur={field.commit}
      onChange={field.onChange}
      onKeyDown={(event) => field.onKeyDown(event, true)}
    />
  )
}
