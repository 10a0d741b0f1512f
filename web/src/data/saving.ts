import { fieldName, fieldValue, same, sectionName, valueInWords } from '@canter/core/document'
import type { Trial, TrialFile } from '@canter/core/trial'
import { useQueryClient } from '@tanstack/react-query'
import { createContext, useCallback, useContext, useMemo, useRef, useState } from 'react'
import { ApiProblem } from './client.ts'
import { patchOf, trialQuery, useEditSection, useUndoEvent, type Edit, type PatchOf } from './trial-file.ts'

/** What became of an edit: saved, left by whoever made it, or the problem in words. */
export type Saved = { ok: true } | { ok: false; problem: string; left: boolean }

/** Changes fields of one section; says what became of it, where that is known. */
export type ChangeSection = (section: string, patch: Readonly<Record<string, unknown>>) => void | Promise<Saved>

export interface Saving {
  /** Saves fields of one section at once; asks for a reason or a yes where one is needed. Always says what became of it. */
  readonly save: (section: string, patch: Readonly<Record<string, unknown>> | PatchOf) => Promise<Saved>
  /** Turns back the last change made here, on what it changed. */
  readonly undo: () => void
  /** Lets Undo turn back a change that was not an edit of a section: a layout, what a unit got. */
  readonly remember: (file: TrialFile) => void
  readonly canUndo: boolean
  readonly state: 'saved' | 'saving' | 'not saved'
  /** What a failed save said, until another succeeds. */
  readonly problem: string | null
}

export const SavingContext = createContext<Saving | null>(null)

export function useSaving(): Saving {
  const saving = useContext(SavingContext)
  if (!saving) throw new Error('No trial is open here')
  return saving
}

/** Both versions of what two people changed, in words. */
export interface Clash {
  readonly what: string
  readonly yours: string
  readonly stands: string
}

export type Question =
  | { readonly kind: 'reason'; readonly text: string; readonly answer: (reason: string | null) => void }
  | { readonly kind: 'confirm'; readonly text: string; readonly answer: (yes: boolean) => void }
  | { readonly kind: 'stale'; readonly section: string; readonly clashes: readonly Clash[]; readonly answer: (mine: boolean) => void }

/** Saving as one goes; `ask` shows a question and waits for its answer. */
export function useTrialSaving(trial: string): { saving: Saving; question: Question | null } {
  const { mutateAsync, isPending } = useEditSection(trial)
  const { mutateAsync: turnBack, isPending: turning } = useUndoEvent(trial)
  const client = useQueryClient()
  const [question, setQuestion] = useState<Question | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const past = useRef<string[]>([])
  const [depth, setDepth] = useState(0)
  const standing = useCallback(() => client.getQueryData(trialQuery(trial).queryKey), [client, trial])

  const remember = useCallback((file: TrialFile) => {
    const last = file.events.at(-1)
    if (last) past.current = [...past.current.slice(-50), last.id]
    setDepth(past.current.length)
  }, [])

  const save = useCallback(
    async (section: string, patch: Readonly<Record<string, unknown>> | PatchOf): Promise<Saved> => {
      const seen = standing()?.trial
      let edit: Edit = { section, patch }
      for (;;) {
        try {
          remember(await mutateAsync(edit))
          setProblem(null)
          return { ok: true }
        } catch (error) {
          const answer = await answerTo(error, edit, seen, setQuestion, (file) => client.setQueryData(trialQuery(trial).queryKey, file))
          setQuestion(null)
          if (answer === 'left') return { ok: false, problem: '', left: true }
          if (answer !== null) {
            edit = answer
            continue
          }
          const text = error instanceof Error ? error.message : String(error)
          setProblem(text)
          return { ok: false, problem: text, left: false }
        }
      }
    },
    [client, mutateAsync, remember, standing, trial],
  )

  const undo = useCallback(() => {
    const event = past.current.pop()
    setDepth(past.current.length)
    if (!event) return
    turnBack({ event }).then(
      () => setProblem(null),
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    )
  }, [turnBack])

  const canUndo = depth > 0
  const state = isPending || turning ? 'saving' : problem ? 'not saved' : 'saved'
  const saving = useMemo((): Saving => ({ save, undo, remember, canUndo, state, problem }), [canUndo, problem, remember, save, state, undo])
  return { saving, question }
}

/** What to do about a refusal: another try, leave it, or nothing (null). */
async function answerTo(
  error: unknown,
  edit: Edit,
  seen: Trial | undefined,
  ask: (question: Question) => void,
  take: (file: TrialFile) => void,
): Promise<Edit | 'left' | null> {
  if (!(error instanceof ApiProblem)) return null
  const { problem } = error
  const asksFor = (path: string): boolean => problem.errors?.some((each) => each.path === path) ?? false
  if (asksFor('reason')) {
    const reason = await new Promise<string | null>((answer) => ask({ kind: 'reason', text: problem.detail, answer }))
    return reason === null ? 'left' : { ...edit, reason }
  }
  if (asksFor('confirm')) {
    const yes = await new Promise<boolean>((answer) => ask({ kind: 'confirm', text: problem.detail, answer }))
    return yes ? { ...edit, confirm: true } : 'left'
  }
  if (problem.status !== 409 || !problem.current) return null
  const current = problem.current as TrialFile
  take(current)
  const version = current.trial.versions[edit.section] ?? 1
  const patch = patchOf(edit, seen ?? current.trial)
  const clashing = Object.keys(patch).filter(
    (path) => !seen || !same(fieldValue(seen, edit.section, path), fieldValue(current.trial, edit.section, path)),
  )
  // Somebody changed another field of the section: there is nothing to choose between.
  if (clashing.length === 0) return { ...edit, version }
  const clashes = clashing.map((path): Clash => ({
    what: fieldName(edit.section, path, current.trial),
    yours: valueInWords(patch[path]),
    stands: valueInWords(fieldValue(current.trial, edit.section, path)),
  }))
  const mine = await new Promise<boolean>((answer) =>
    ask({ kind: 'stale', section: sectionName(edit.section, current.trial), clashes, answer }),
  )
  return mine ? { ...edit, version } : 'left'
}
