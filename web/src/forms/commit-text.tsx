import { Textarea, TextInput, type TextInputProps } from '@mantine/core'
import { useEffect, useRef, useState } from 'react'

interface CommitTextProps extends Omit<TextInputProps, 'value' | 'onChange' | 'defaultValue'> {
  readonly value: string
  readonly onCommit: (value: string) => void
  readonly lines?: number
  /** A message keeps the text from being saved and stays until it is mended. */
  readonly check?: (value: string) => string | null
}

/** A text saved when one leaves it or presses Enter; Escape takes the typing back. */
export function CommitText({ value, onCommit, lines, check, ...rest }: CommitTextProps) {
  const [text, setText] = useState(value)
  const [problem, setProblem] = useState<string | null>(null)
  // What was committed last: Enter and leaving the field are one commit, though the save takes a moment.
  const committed = useRef(value)
  useEffect(() => {
    setText(value)
    committed.current = value
  }, [value])
  const commit = (): void => {
    const trimmed = text.trim()
    const found = check?.(trimmed) ?? null
    setProblem(found)
    if (found !== null || trimmed === committed.current) return
    committed.current = trimmed
    onCommit(trimmed)
  }
  const shared = {
    value: text,
    error: problem ?? rest.error,
    onBlur: commit,
    onChange: (event: { currentTarget: { value: string } }) => setText(event.currentTarget.value),
  }
  const onKeyDown = (event: { key: string }): void => {
    if (event.key === 'Escape') setText(value)
    if (event.key === 'Enter' && !lines) commit()
  }
  if (lines) {
    const { label, description, placeholder, disabled, className } = rest
    return (
      <Textarea
        {...{ label, description, placeholder, disabled, className }}
        {...shared}
        autosize
        minRows={lines}
        maxRows={6}
        onKeyDown={onKeyDown}
      />
    )
  }
  return <TextInput {...rest} {...shared} onKeyDown={onKeyDown} />
}
