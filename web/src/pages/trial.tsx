import { useHotkeys, useMediaQuery } from '@mantine/hooks'
import { Button } from '@mantine/core'
import { memo, useCallback, useMemo, useState, type MouseEvent } from 'react'
import { Link, Navigate, Outlet, useLocation, useNavigate, useParams } from 'react-router'
import { GroundContext, TrialContext, useLive, useLoadTrial, useOpenGround, useOpenTrial, type OpenTrial } from '../data/open-trial.ts'
import { usePerson } from '../data/queries.ts'
import { useRecordState } from '../data/record-state.ts'
import { SavingContext, useSaving, useTrialSaving } from '../data/saving.ts'
import { keptSearch } from '../data/selection.ts'
import { useTroubles } from '../data/troubles.ts'
import { PlanPanel } from '../plan/plan-panel.tsx'
import { stepOf, steps } from '../steps/steps.ts'
import { Head } from './head.tsx'
import { SavingQuestions } from './saving-questions.tsx'
import { VisitRail } from './visit-rail.tsx'
import classes from './trial.module.css'

/** One trial: the plan stays on the left through every step; the step's own work is on the right. */
export function TrialPage() {
  const { trial: id = '' } = useParams()
  const { open, error } = useLoadTrial(id)
  const { saving, question } = useTrialSaving(id)
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
          <Troubles />
        </main>
      </>
    )
  }
  return (
    <SavingContext.Provider value={saving}>
      <Opened key={open.trial.id} open={open} />
      <SavingQuestions question={question} />
    </SavingContext.Provider>
  )
}

function Opened({ open }: { open: OpenTrial }) {
  const live = useLive(open)
  return (
    <GroundContext.Provider value={open.ground}>
      <TrialContext.Provider value={live}>
        <TrialFrame />
      </TrialContext.Provider>
    </GroundContext.Provider>
  )
}

/** Where the work of each stage is. */
const STEP_OF_STAGE = { question: 'question', 'laid out': 'ground', planted: 'walk', measuring: 'walk', measured: 'results' } as const

/** Opens where the work is. */
export function FirstStep() {
  const { progress } = useOpenTrial()
  return <Navigate to={STEP_OF_STAGE[progress.stage]} replace />
}

/** Steps that show what was read at one visit. */
const BY_VISIT: ReadonlySet<string> = new Set(['walk', 'numbers', 'results'])

/** Each part hears for itself of what it shows: a reading or a plot picked does not draw the frame again. */
const TrialFrame = memo(function TrialFrame() {
  const { trial } = useOpenGround()
  const { question } = trial
  const { pathname } = useLocation()
  const { undo, canUndo } = useSaving()
  const narrow = useMediaQuery('(max-width: 48em)', false, { getInitialValueInEffect: false })
  const [planShown, setPlanShown] = useState(false)
  const step = stepOf(pathname.split('/').at(-1) ?? '')
  const walking = step?.key === 'walk'
  useHotkeys([['mod+Z', undo]])
  const where = trial.sites.length === 1 ? trial.sites[0]!.name : `${trial.sites.length} sites`
  return (
    <div className={classes.frame} data-walking={walking}>
      <Head
        right={
          <>
            {canUndo && !walking && (
              <Button size="compact-sm" variant="subtle" onClick={undo} title="Ctrl Z">
                Undo
              </Button>
            )}
            <SendState />
          </>
        }
      >
        <h1 className={classes.title}>{question.title}</h1>
        <span className={`small quiet ${classes.where}`}>
          {question.crop} · {question.season} · {where}
        </span>
      </Head>
      <StepBar />
      <div className={classes.body}>
        {narrow ? (
          <div className={classes.planToggle}>
            <Button size="compact-md" variant="outline" onClick={() => setPlanShown(!planShown)} aria-expanded={planShown}>
              {planShown ? 'Hide the plan' : 'Show the plan'}
            </Button>
          </div>
        ) : null}
        {(!narrow || planShown) && <PlanPanel first={step?.colouring ?? 'treatment'} />}
        <main id="main" className={classes.main}>
          <Troubles />
          {step && BY_VISIT.has(step.key) && <VisitRail />}
          <Outlet />
        </main>
      </div>
    </div>
  )
})

/** The steps with what each holds, each opened at what is selected here. */
function StepBar() {
  const open = useOpenTrial()
  const { units } = usePerson()
  const { pathname } = useLocation()
  const navigate = useNavigate()
  const notes = useMemo(() => steps.map((step) => step.note(open, units)), [open, units])
  const path = `/trials/${open.trial.id}`
  const go = useCallback(
    (step: string) => void navigate({ pathname: `${path}/${step}`, search: keptSearch(new URLSearchParams(window.location.search)) }),
    [navigate, path],
  )
  return (
    <nav className={`${classes.steps} no-print`} aria-label="Steps of the trial">
      {steps.map(({ key, name }, i) => (
        <StepLink
          key={key}
          step={key}
          href={`${path}/${key}`}
          current={pathname.endsWith(`/${key}`)}
          name={name}
          note={notes[i]!}
          title={`Alt ${i + 1}`}
          onGo={go}
        />
      ))}
    </nav>
  )
}

interface StepLinkProps {
  readonly step: string
  readonly href: string
  readonly current: boolean
  readonly name: string
  readonly note: string
  readonly title: string
  readonly onGo: (step: string) => void
}

/** A link that is not drawn again with each plot walked to: what is selected is added when it is followed. */
const StepLink = memo(function StepLink({ step, href, current, name, note, title, onGo }: StepLinkProps) {
  const follow = (event: MouseEvent): void => {
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return
    event.preventDefault()
    onGo(step)
  }
  return (
    <a href={href} className={classes.step} aria-current={current ? 'page' : undefined} title={title} onClick={follow}>
      <span className={classes.stepName}>{name}</span>
      <span className={classes.stepNote}>{note}</span>
    </a>
  )
})

/** What this page cannot do at the moment. */
function Troubles() {
  return useTroubles().map((text) => (
    <p key={text} className="caution small" role="alert">
      {text}
    </p>
  ))
}

/** Always says what is not yet sent or saved; that all is saved only when it is. */
function SendState() {
  const { trial } = useOpenGround()
  const { state, problem } = useSaving()
  const { waiting, refused, online } = useRecordState(trial.id)
  const text =
    refused.length > 0
      ? `${refused.length} not taken`
      : waiting > 0
        ? `${waiting} ${waiting === 1 ? 'record' : 'records'} on this device, not yet sent`
        : state === 'saving'
          ? 'Saving…'
          : state === 'not saved'
            ? 'Last change not saved'
            : online
              ? 'All saved'
              : 'No signal; nothing waits'
  return (
    <span
      className={classes.sent}
      data-alert={waiting > 0 || refused.length > 0 || !online || state === 'not saved'}
      role="status"
      data-testid="send-state"
      title={refused[0]?.problem ?? problem ?? undefined}
    >
      {refused.length > 0 ? <Link to={`/trials/${trial.id}/walk`}>{text}</Link> : text}
    </span>
  )
}
