import { QuestionSheet } from '../forms/question-sheet.tsx'
import { useOpenTrial } from '../pages/trial-context.ts'
import { useSaving } from '../pages/use-save.tsx'
import { TrialDraft } from '@canter/core/trial'

export function QuestionStep() {
  const { trial, fixed, progress } = useOpenTrial()
  const { save } = useSaving()
  return <QuestionSheet draft={TrialDraft.parse(trial)} onChange={save} fixed={fixed} measured={progress.readings > 0} />
}
