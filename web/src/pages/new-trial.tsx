import { extentOf, outline } from '@canter/core/ground'
import { forCrop, newTrialDraft } from '@canter/core/numbers'
import type { TrialDraft } from '@canter/core/trial'
import { Button, Group } from '@mantine/core'
import { useHotkeys, useStateHistory } from '@mantine/hooks'
import { notifications } from '@mantine/notifications'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { useCreateTrial } from '../data/queries.ts'
import { draftProblems, QuestionSheet } from '../forms/question-sheet.tsx'
import { looksOf, Plan } from '../plan/plan.tsx'
import { Head } from './head.tsx'
import classes from './trial.module.css'

const OUTLINES = looksOf(() => ({ fill: '#fffefb', ink: '#1d201d', lines: [], about: 'A plot to come' }))

/** Begins with the question; the outline of the ground grows beside it. */
export function NewTrialPage() {
  const [draft, history, { history: past, current }] = useStateHistory<TrialDraft>(newTrialDraft(new Date().getFullYear()))
  const [problems, setProblems] = useState<ReadonlyMap<string, string>>(new Map())
  const { mutate, isPending } = useCreateTrial()
  const navigate = useNavigate()
  const [site] = draft.sites
  const units = outline(draft, site!.key)
  const canUndo = current > 0 && past.length > 1
  useHotkeys([['mod+Z', () => history.back()]])
  const begin = (): void => {
    const found = draftProblems(draft)
    setProblems(found)
    if (found.size > 0) {
      notifications.show({ color: 'red', title: 'Not begun yet', message: [...new Set(found.values())].slice(0, 4).join(' ') })
      return
    }
    mutate(draft, {
      onSuccess: ({ trial }) => void navigate(`/trials/${trial.id}/ground`),
      onError: (error) => notifications.show({ color: 'red', title: 'Not begun', message: error.message, autoClose: 12_000 }),
    })
  }
  return (
    <div className={classes.frame}>
      <Head
        right={
          canUndo && (
            <Button size="compact-sm" variant="subtle" onClick={() => history.back()} title="Ctrl Z">
              Undo
            </Button>
          )
        }
      >
        <h1 className={classes.title}>New trial</h1>
      </Head>
      <div className={classes.body}>
        <aside aria-label="Outline of the site" className={classes.outline}>
          {units.length > 0 ? (
            <Plan
              units={units}
              extent={extentOf(units, site!.ground.border)}
              looks={OUTLINES}
              selected={null}
              onSelect={() => undefined}
              label="Outline of the site"
            />
          ) : (
            <div className={classes.example}>
              <p className="sentence">“Fields here get 120 kg N/ha by habit. Is the last bag still paid for?”</p>
              <p>
                becomes: crop <em>Sugar beet</em>, rates of <em>nitrogen</em>, levels <em>0 40 80 120 160 200</em>, on four plots each.
              </p>
              <p className="quiet">Name the crop and what is varied; the outline of the ground grows here.</p>
            </div>
          )}
          <p className="small quiet">
            The outline grows with treatments and replicates. Design, plot sizes, alleys and further sites come next, under Ground.
          </p>
        </aside>
        <main id="main" className={classes.main}>
          <QuestionSheet
            draft={draft}
            change={(section, patch) => history.set(patched(draft, section, patch))}
            onCrop={(crop) => history.set(forCrop(draft, crop))}
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

/** The same patch as a section of a standing trial gets; what does not fit is said when the trial is begun. */
function patched(draft: TrialDraft, section: string, patch: Readonly<Record<string, unknown>>): TrialDraft {
  const set = (value: object): object => {
    const next = structuredClone(value) as Record<string, unknown>
    for (const [path, to] of Object.entries(patch)) {
      const keys = path.split('.')
      const last = keys.pop()!
      const holder = keys.reduce<Record<string, unknown>>((at, key) => at[key] as Record<string, unknown>, next)
      holder[last] = to
    }
    return next
  }
  if (section.startsWith('site:'))
    return { ...draft, sites: draft.sites.map((site) => (`site:${site.key}` === section ? (set(site) as typeof site) : site)) }
  return { ...draft, [section]: set(draft[section as 'question']) }
}
