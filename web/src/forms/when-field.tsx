import { dayInWords, readSpan, spanInWords, type KnownDay, type Span, type SpanRead } from '@canter/core/trial'
import { TextInput, type TextInputProps } from '@mantine/core'

interface WhenFieldProps extends Omit<TextInputProps, 'value' | 'onChange'> {
  readonly text: string
  readonly year: number
  readonly known: readonly KnownDay[]
  readonly onText: (text: string) => void
  /** One of several meanings was chosen. */
  readonly chosen: Span | null
  readonly onChosen: (span: Span | null) => void
}

/** When something happened, in words; what was understood is shown, and what may mean several days is asked about. */
export function WhenField({ text, year, known, onText, chosen, onChosen, ...rest }: WhenFieldProps) {
  const read = readSpan(text, { year, known })
  const meant = chosen ?? (read.ok ? read.span : null)
  return (
    <div>
      <TextInput
        label="When"
        {...rest}
        value={text}
        maxLength={80}
        description={meant ? understood(meant) : undefined}
        inputWrapperOrder={['label', 'input', 'description', 'error']}
        error={!meant && text.trim() !== '' && !read.ok && read.choices.length === 0 ? read.problem : rest.error}
        onChange={(event) => {
          onChosen(null)
          onText(event.currentTarget.value)
        }}
      />
      {!meant && !read.ok && read.choices.length > 0 && (
        <div className="caution small" role="group" aria-label="Which day is meant">
          {read.problem}{' '}
          {read.choices.map((choice) => (
            <button
              key={choice.label}
              type="button"
              className="link-button"
              style={{ marginRight: 10 }}
              onClick={() => onChosen(choice.span)}
            >
              {choice.label}
            </button>
          ))}
        </div>
      )}
    </div>
  )
}

/** The span that is meant, if it is clear; else why not. */
export function whenMeant(text: string, chosen: Span | null, of: { year: number; known: readonly KnownDay[] }): SpanRead {
  return chosen ? { ok: true, span: chosen } : readSpan(text, of)
}

function understood(span: Span): string {
  return span.from === span.to ? dayInWords(span.from) : spanInWords(span)
}
