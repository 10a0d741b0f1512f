import type { ReactNode } from 'react'
import { checkTrial } from '@canter/core/document'
import { shownUnit } from '@canter/core/quantity'
import type { TrialDraft } from '@canter/core/trial'
import { usePerson } from '../data/queries.ts'
import type { ChangeSection } from '../data/saving.ts'
import { CommitText } from './commit-text.tsx'
import { CommonList } from './common-list.tsx'
import { CountField } from './count-field.tsx'
import { HowSure } from './how-sure.tsx'
import { MeasuredSheet } from './measured-sheet.tsx'
import { TreatmentSheet } from './treatment-sheet.tsx'

interface QuestionSheetProps {
  readonly draft: TrialDraft
  readonly change: ChangeSection
  /** Naming the crop of a trial that is only being begun brings what is usual for it. */
  readonly onCrop?: (crop: string) => void
  /** Treatments stand on the ground. */
  readonly fixed: boolean
  /** Traits with readings cannot be swapped. */
  readonly measured: boolean
  readonly problems?: ReadonlyMap<string, string>
  /** What else can be done with treatments that stand on the ground. */
  readonly standing?: ReactNode
}

/** The question, the treatments, what is measured and how sure one wants to be: the same sheet for a new trial and a standing one. */
export function QuestionSheet({ draft, change, onCrop, fixed, measured, problems, standing }: QuestionSheetProps) {
  const { units } = usePerson()
  const { question } = draft
  const ask = (patch: Partial<TrialDraft['question']>) => change('question', patch)
  return (
    <>
      <section className="section" aria-labelledby="asked">
        <h2 className="section-title" id="asked">
          What is asked
        </h2>
        <div className="fields">
          <CommitText
            className="wide"
            label="Title"
            placeholder="Sugar beet: how much nitrogen pays?"
            value={question.title}
            onCommit={(title) => ask({ title })}
            error={problems?.get('question.title')}
            check={(text) => (text === '' ? 'Give the trial a title.' : null)}
          />
          <CommitText
            label="Crop"
            placeholder="Sugar beet"
            value={question.crop}
            onCommit={(crop) => (onCrop ? onCrop(crop) : ask({ crop }))}
            error={problems?.get('question.crop')}
            check={(text) => (text === '' ? 'Name the crop.' : null)}
          />
          <CountField
            label="Season"
            value={question.season}
            low={1900}
            high={2200}
            onCommit={(season) => (season === null ? undefined : ask({ season }))}
          />
          <CommitText
            className="half"
            label="Asked by"
            placeholder="a growers’ circle"
            value={question.askedBy}
            onCommit={(askedBy) => ask({ askedBy })}
          />
          <CommitText
            className="wide"
            label="Why"
            lines={2}
            placeholder="Most fields get 120 kg N/ha by habit. Is the last bag still paid for?"
            value={question.why}
            onCommit={(why) => ask({ why })}
          />
          <CommitText
            className="wide"
            label="What you expect, to set against what comes"
            value={question.expected}
            onCommit={(expected) => ask({ expected })}
          />
          <CommitText className="half" label="Ground lent by" value={question.hostedBy} onCommit={(hostedBy) => ask({ hostedBy })} />
          <CommitText className="half" label="Paid by" value={question.paidBy} onCommit={(paidBy) => ask({ paidBy })} />
        </div>
      </section>
      <TreatmentSheet draft={draft} change={change} fixed={fixed} measured={measured} problems={problems} standing={standing} />
      <MeasuredSheet draft={draft} change={change} measured={measured} />
      <HowSure draft={draft} change={change} fixed={fixed} />
      <section className="section" aria-labelledby="common">
        <h2 className="section-title" id="common">
          What every plot gets
        </h2>
        <CommonList draft={draft} onChange={(common) => change('amounts', { common })} units={shownUnit('kg/ha', units)} />
      </section>
    </>
  )
}

/** What is wrong with a draft, by field. */
export function draftProblems(draft: TrialDraft): Map<string, string> {
  const found = new Map(checkTrial(draft).map(({ path, message }) => [path, message]))
  if (draft.treatments.list.length < 2 && !found.has('treatments.list'))
    found.set('treatments.list', 'Give at least two treatments: with one there is nothing to compare.')
  return found
}
