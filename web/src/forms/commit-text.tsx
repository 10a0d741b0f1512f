import { Textarea, TextInput, type TextInputProps } from '@mantine/core'
import { useCommit, type Commit } from './use-commit.ts'

interface CommitTextProps extends Omit<TextInputProps, 'value' | 'onChange' | 'defaultValue'> {
  readonly value: string
  readonly onCommit: Commit<string>
  readonly lines?: number
  /** A message keeps the text from being saved and stays until it is mended. */
  readonly check?: (value: string) => string | null
}

/** A text saved when one leaves it or presses Enter; Escape takes the typing back. What could not be saved stays in the field, with the reason. */
export function CommitText({ value, onCommit, lines, check, ...rest }: CommitTextProps) {
  const field = useCommit({
    standing: value,
    read: (text) => {
      const problem = check?.(text.trim()) ?? null
      return problem === null ? { ok: true, value: text.trim() } : { ok: false, problem }
    },
    onCommit,
  })
  const shared = { value: field.text, error: field.problem ?? rest.error, onBlur: field.commit, onChange: field.onChange }
  if (lines) {
    const { label, description, placeholder, disabled, className } = rest
    return (
      <Textarea
        {...{ label, description, placeholder, disabled, className }}
        {...shared}
        autosize
        minRows={lines}
        maxRows={6}
        onKeyDown={(event) => field.onKeyDown(event, false)}
      />
    )
  }
  return <TextInput {...rest} {...shared} onKeyDown={(event) => field.onKeyDown(event, true)} />
}
