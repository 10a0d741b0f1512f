import { LaterDrawForm } from '../forms/later-draw.tsx'
import { QuestionSheet } from '../forms/question-sheet.tsx'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSaving } from '../data/saving.ts'

export function QuestionStep() {
  const { known: trial, anyFixed, progress } = useOpenTrial()
  const { save } = useSaving()
  return <QuestionSheet draft={trial} change={save} fixed={anyFixed} measured={progress.measured} standing={<LaterDrawForm />} />
}
