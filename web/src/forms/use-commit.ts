import { useEffect, useRef, useState } from 'react'
import type { Saved } from '../data/saving.ts'

/** Saves a value; what became of it, where that is known. */
export type Commit<Value> = (value: Value) => void | Promise<Saved>

type Read<Value> = { ok: true; value: Value } | { ok: false; problem: string }

interface CommitField {
  readonly text: string
  readonly problem: string | null
  readonly commit: () => void
  readonly onChange: (event: { currentTarget: { value: string } }) => void
  readonly onKeyDown: (event: { key: string }, enters: boolean) => void
}

/**
 * The state of a field that is saved when one leaves it or presses Enter. What is typed stays in the
 * field until it is saved: a refusal stands beside it, and leaving a question unanswered brings back
 * what stands.
 */
export function useCommit<Value>({
  standing,
  read,
  onCommit,
  onTyping,
}: {
  /** What stands, as the field shows it. */
  readonly standing: string
  readonly read: (text: string) => Read<Value>
  readonly onCommit: Commit<Value>
  readonly onTyping?: () => void
}): CommitField {
  const [text, setText] = useState(standing)
  const [problem, setProblem] = useState<string | null>(null)
  // What was committed last: Enter and leaving the field are one commit, though the save takes a moment.
  const committed = useRef(standing)
  useEffect(() => {
    setText(standing)
    committed.current = standing
  }, [standing])
  const commit = (): void => {
    if (text === committed.current) {
      if (text === standing) setProblem(null)
      return
    }
    const found = read(text)
    setProblem(found.ok ? null : found.problem)
    if (!found.ok) return
    committed.current = text
    void Promise.resolve(onCommit(found.value)).then((saved) => {
      if (!saved || saved.ok) return
      committed.current = standing
      if (saved.left) setText(standing)
      else setProblem(`Not saved: ${saved.problem}`)
    })
  }
  return {
    text,
    problem,
    commit,
    onChange: (event) => {
      setText(event.currentTarget.value)
      onTyping?.()
    },
    onKeyDown: (event, enters) => {
      if (event.key === 'Escape') {
        setText(standing)
        committed.current = standing
        setProblem(null)
      }
      if (event.key === 'Enter' && enters) commit()
    },
  }
}
