import { useHotkeys, useMediaQuery } from '@mantine/hooks'
import { Button } from '@mantine/core'
import { useState } from 'react'
import { Link, Navigate, NavLink, Outlet, useLocation, useParams, useSearchParams } from 'react-router'
import { usePerson } from '../api/queries.ts'
import { PlanPanel } from '../plan/plan-panel.tsx'
import { Head } from '../shell/head.tsx'
import { keptSearch, STEPS } from '../shell/steps.ts'
import { stepNotes } from './step-notes.ts'
import { TrialContext, useLoadTrial, useOpenTrial } from './trial-context.ts'
import { SavingProvider, useSaving } from './use-save.tsx'
import classes from './trial.module.css'

/** One trial: the plan stays on the left through every step; the step's own work is on the right. */
export function TrialPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  if (error && !open) {
    return (
      <>
        <Head />
        <main id="main" className={classes.told}>
          <h1>The trial could not be opened</h1>
          <p>{error.message}</p>
          <Link to="/">To this week</Link>
        </main>
      </>
    )
  }
  if (!open) {
    return (
      <>
        <Head />
        <main id="main" className={classes.told} aria-busy="true">
          <p className="quiet">Opening…</p>
        </main>
      </>
    )
  }
  return (
    <TrialContext.Provider value={open}>
      <SavingProvider trial={id}>
        <TrialFrame />
      </SavingProvider>
    </TrialContext.Provider>
  )
}

/** Opens where the work is. */
export function FirstStep() {
  const { progress } = useOpenTrial()
  const step = { question: 'question', 'laid out': 'ground', planted: 'walk', measuring: 'walk', measured: 'results' }[progress.stage]
  return <Navigate to={step} replace />
}

function TrialFrame() {
  const open = useOpenTrial()
  const { trial } = open
  const { pathname } = useLocation()
  const [search] = useSearchParams()
  const { undo, canUndo, state, resets } = useSaving()
  const narrow = useMediaQuery('(max-width: 48em)', false, { getInitialValueInEffect: false })
  const [planShown, setPlanShown] = useState(false)
  const walking = pathname.endsWith('/walk')
  useHotkeys([['mod+Z', undo]])
  const notes = stepNotes(open, usePerson().units)
  const undoButton = canUndo && !walking && (
    <Button size="compact-sm" variant="subtle" onClick={undo} title="Ctrl Z">
      Undo
    </Button>
  )
  return (
    <div className={classes.frame} data-walking={walking}>
      <Head
        right={
          <>
            {undoButton}
            <SendState saving={state === 'saving'} />
          </>
        }
      >
        <h1 className={classes.title}>{trial.title}</h1>
        <span className={`small quiet ${classes.where}`}>
          {trial.crop} · {trial.season} · {trial.sites[0]!.name}
        </span>
      </Head>
      <nav className={`${classes.steps} no-print`} aria-label="Steps of the trial">
        {STEPS.map((step, i) => (
          <NavLink key={step.key} to={{ pathname: step.key, search: keptSearch(search) }} className={classes.step} title={`Alt ${i + 1}`}>
            <span className={classes.stepName}>{step.name}</span>
            <span className={classes.stepNote}>{notes[step.key]}</span>
          </NavLink>
        ))}
      </nav>
      <div className={classes.body}>
        {narrow ? (
          <div className={classes.planToggle}>
            <Button size="compact-md" variant="outline" onClick={() => setPlanShown(!planShown)} aria-expanded={planShown}>
              {planShown ? 'Hide the plan' : 'Show the plan'}
            </Button>
          </div>
        ) : null}
        {(!narrow || planShown) && <PlanPanel />}
        <main id="main" className={classes.main}>
          <Outlet key={resets} />
        </main>
      </div>
    </div>
  )
}

/** Always says what is not yet sent. */
function SendState({ saving }: { saving: boolean }) {
  const { records } = useOpenTrial()
  const { waiting, refused, online } = records
  const text =
    refused.length > 0
      ? `${refused.length} not taken`
      : waiting > 0
        ? `${waiting} ${waiting === 1 ? 'record' : 'records'} on this device, not yet sent`
        : saving
          ? 'Saving…'
          : online
            ? 'All saved'
            : 'No signal; nothing waits'
  return (
    <span
      className={classes.sent}
      data-alert={waiting > 0 || refused.length > 0 || !online}
      role="status"
      data-testid="send-state"
      title={refused[0]?.problem}
    >
      {text}
    </span>
  )
}
