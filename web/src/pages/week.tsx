import { api, Stage, type TrialSummary } from '@canter/core/trial'
import { ActionIcon, Anchor, Button, FileButton, Group, Menu, TextInput } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { IconDots, IconPlus, IconSearch, IconTable, IconUpload } from '@tabler/icons-react'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { ApiProblem, pathOf } from '../data/client.ts'
import { trialsQuery, useDeleteTrial, useImportPackage } from '../data/queries.ts'
import { Head } from './head.tsx'
import classes from './week.module.css'

const STAGES = Stage.options

/** Where the next act of a trial is done. */
const STEP_OF = { question: 'ground', 'laid out': 'amounts', planted: 'walk', measuring: 'walk', measured: 'results' } as const

/** Home: every trial, where it is in its season, and the one thing it needs next. */
export function WeekPage() {
  const [search, setSearch] = useSearchParams()
  const aside = search.get('aside') === '1'
  const { data: trials, error, refetch } = useQuery(trialsQuery(aside))
  const [find, setFind] = useState('')
  const finder = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (search.has('find')) finder.current?.focus()
  }, [search])
  const wanted = find.trim().toLowerCase()
  // What waits for a decision first, then what is furthest in its season.
  const ordered = [...(trials ?? [])].sort((a, b) => STAGES.indexOf(b.progress.stage) - STAGES.indexOf(a.progress.stage))
  const shown = ordered.filter((trial) =>
    `${trial.title} ${trial.crop} ${trial.sites.join(' ')} ${trial.season}`.toLowerCase().includes(wanted),
  )
  return (
    <>
      <Head
        right={
          <Link to="/shelf" className="small">
            Shelf
          </Link>
        }
      />
      <main id="main" className={classes.page}>
        <div className={classes.top}>
          <h1 className={classes.title}>{aside ? 'Put aside' : 'This week'}</h1>
          <TextInput
            ref={finder}
            aria-label="Find a trial"
            placeholder="Find by title, crop, site or year"
            leftSection={<IconSearch size={14} />}
            value={find}
            onChange={(event) => setFind(event.currentTarget.value)}
            className={classes.find}
          />
          <Button component={Link} to="/trials/import" variant="outline" leftSection={<IconTable size={16} />}>
            From a spreadsheet
          </Button>
          <ImportButton />
          <Button component={Link} to="/trials/new" leftSection={<IconPlus size={16} />}>
            New trial
          </Button>
        </div>
        {error && (
          <div className="caution" role="alert">
            {error.message}{' '}
            <button type="button" className="link-button" onClick={() => void refetch()}>
              Try again
            </button>
          </div>
        )}
        {trials && trials.length === 0 && <Empty aside={aside} />}
        {shown.length > 0 && (
          <table className={`ruled ${classes.list}`}>
            <thead>
              <tr>
                <th>Trial</th>
                <th>Where it is</th>
                <th className="number">Readings</th>
                <th>Next</th>
                <th>
                  <span className="visually-hidden">More</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {shown.map((trial) => (
                <TrialRow key={trial.id} trial={trial} />
              ))}
            </tbody>
          </table>
        )}
        {trials && trials.length > 0 && shown.length === 0 && <p className="quiet">No trial matches “{find}”.</p>}
        <p className="small quiet">
          <button type="button" className="link-button" onClick={() => setSearch(aside ? {} : { aside: '1' })}>
            {aside ? 'Back to the trials under way' : 'Trials put aside'}
          </button>
        </p>
      </main>
    </>
  )
}

function TrialRow({ trial }: { trial: TrialSummary }) {
  return trial.problem === null ? <OpenRow trial={trial} /> : <BrokenRow title={trial.title} problem={trial.problem} />
}

/** One that cannot be opened does not hide the others. */
function BrokenRow({ title, problem }: { title: string; problem: string }) {
  return (
    <tr>
      <td>
        <strong>{title}</strong>
      </td>
      <td colSpan={4} className="caution">
        {problem}
      </td>
    </tr>
  )
}

function OpenRow({ trial }: { trial: TrialSummary }) {
  const { progress } = trial
  const { mutate } = useDeleteTrial()
  const act = (version: number, restore: boolean): void =>
    mutate(
      { id: trial.id, version, restore },
      {
        onSuccess: (file) =>
          notifications.show({
            message: (
              <>
                “{trial.title}” {restore ? 'is back.' : 'is put aside.'}{' '}
                <button type="button" className="link-button" onClick={() => act(file.trial.version, !restore)}>
                  Undo
                </button>
              </>
            ),
            autoClose: 10_000,
          }),
        onError: (error) => notifications.show({ color: 'red', message: error.message }),
      },
    )
  return (
    <tr>
      <td>
        <Anchor component={Link} to={`/trials/${trial.id}`} className={classes.name}>
          {trial.title}
        </Anchor>
        <div className="small quiet">
          {trial.crop} · {trial.season} · {trial.sites.join(', ')} · {trial.layout}
        </div>
      </td>
      <td>
        <StageLine stage={progress.stage} />
      </td>
      <td className="number">{progress.expected > 0 ? `${progress.readings} of ${progress.expected}` : '–'}</td>
      <td>
        {trial.deletedAt ? (
          <Button size="compact-sm" variant="outline" onClick={() => act(trial.version, true)}>
            Bring back
          </Button>
        ) : (
          <Link to={`/trials/${trial.id}/${STEP_OF[progress.stage]}`} className={classes.next}>
            {progress.next}
          </Link>
        )}
      </td>
      <td>
        {!trial.deletedAt && (
          <Menu position="bottom-end">
            <Menu.Target>
              <ActionIcon variant="subtle" c="var(--ink-soft)" aria-label={`More for ${trial.title}`}>
                <IconDots size={16} />
              </ActionIcon>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item component="a" href={pathOf(api.file.path, { trial: trial.id, format: 'package' })}>
                Export the whole trial
              </Menu.Item>
              <Menu.Item onClick={() => act(trial.version, false)}>Put aside</Menu.Item>
            </Menu.Dropdown>
          </Menu>
        )}
      </td>
    </tr>
  )
}

/** Five marks in a row, filled as far as the trial has come; the word stands beside them. */
function StageLine({ stage }: { stage: TrialSummary['progress']['stage'] }) {
  const at = STAGES.indexOf(stage)
  return (
    <span className={classes.stage}>
      <span aria-hidden className={classes.furrow}>
        {STAGES.map((each, i) => (
          <i key={each} data-done={i <= at} />
        ))}
      </span>
      {stage}
    </span>
  )
}

function Empty({ aside }: { aside: boolean }) {
  if (aside) return <p className="quiet">Nothing is put aside.</p>
  return (
    <div className={classes.empty}>
      <p className="sentence lead">No trial yet.</p>
      <p>
        A trial begins with a question that a comparison can answer. For example: “Fields here get 120 kg N/ha by habit. Is the last bag
        still paid for?” becomes six rates of nitrogen, one of them none, each on four plots.
      </p>
      <Button component={Link} to="/trials/new">
        Begin with a question
      </Button>{' '}
      <Button component={Link} to="/trials/import" variant="subtle">
        Or bring one in from a spreadsheet
      </Button>
    </div>
  )
}

function ImportButton() {
  const { mutate, isPending } = useImportPackage()
  const navigate = useNavigate()
  const take = (file: File | null, copy: boolean): void => {
    if (!file) return
    mutate(
      { file, copy },
      {
        onSuccess: ({ trial }) => void navigate(`/trials/${trial.id}`),
        onError: (error) => {
          const here = error instanceof ApiProblem && error.problem.status === 409
          notifications.show({
            color: here ? 'yellow' : 'red',
            title: here ? 'Already here' : 'Not imported',
            autoClose: false,
            message: (
              <Group gap={8}>
                <span>{error.message}</span>
                {here && (
                  <button type="button" className="link-button" onClick={() => take(file, true)}>
                    Import as a copy
                  </button>
                )}
              </Group>
            ),
          })
        },
      },
    )
  }
  return (
    <FileButton onChange={(file) => take(file, false)} accept=".zip,application/zip">
      {(props) => (
        <Button {...props} variant="outline" loading={isPending} leftSection={<IconUpload size={16} />}>
          Import
        </Button>
      )}
    </FileButton>
  )
}
