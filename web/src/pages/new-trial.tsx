import { newTrialDraft } from '@canter/core/numbers'
import { siteExtent } from '@canter/core/ground'
import type { TrialDraft } from '@canter/core/trial'
import { Button, Group } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { useCreateTrial } from '../api/queries.ts'
import { draftProblems, QuestionSheet } from '../forms/question-sheet.tsx'
import { Plan } from '../plan/plan.tsx'
import { previewUnits } from '../plan/preview.ts'
import { Head } from '../shell/head.tsx'
import classes from './trial.module.css'

const OUTLINE = { fill: '#fffefb', ink: '#1d201d', lines: [], about: 'A plot to come' }

/** Begins with the question; the outline of the ground grows beside it. */
export function NewTrialPage() {
  const [draft, setDraft] = useState<TrialDraft>(() => newTrialDraft('sugar-beet', new Date().getFullYear()))
  const [problems, setProblems] = useState<ReadonlyMap<string, string>>(new Map())
  const { mutate, isPending } = useCreateTrial()
  const navigate = useNavigate()
  const begin = (): void => {
    const found = draftProblems(draft)
    setProblems(found)
    if (found.size > 0) {
      notifications.show({ color: 'red', title: 'Not begun yet', message: [...found.values()].join(' ') })
      return
    }
    mutate(draft, {
      onSuccess: ({ trial }) => void navigate(`/trials/${trial.id}/ground`),
      onError: (error) => notifications.show({ color: 'red', title: 'Not begun', message: error.message }),
    })
  }
  return (
    <div className={classes.frame}>
      <Head>
        <h1 className={classes.title}>New trial</h1>
      </Head>
      <div className={classes.body}>
        <aside aria-label="Outline of the site" className={classes.outline}>
          <Plan
            units={previewUnits(draft)}
            extent={siteExtent(draft.replicates, draft.factors[0]!.levels.length, draft.sites[0]!.ground)}
            look={() => OUTLINE}
            selected={null}
            onSelect={() => undefined}
            label="Outline of the site"
          />
          <p className="small quiet">The outline grows with treatments and replicates. Plot sizes and alleys come next, under Ground.</p>
        </aside>
        <main id="main" className={classes.main}>
          <QuestionSheet
            draft={draft}
            onChange={(patch) => setDraft((before) => ({ ...before, ...patch }))}
            fixed={false}
            measured={false}
            problems={problems}
          />
          <Group mt="lg">
            <Button onClick={begin} loading={isPending}>
              Begin the trial
            </Button>
            <span className="small quiet">Everything can be changed until it is planted.</span>
          </Group>
        </main>
      </div>
    </div>
  )
}
