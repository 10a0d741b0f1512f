import {
  importedContents,
  packTrial,
  proposeRoles,
  readSource,
  saidOf,
  textSource,
  understand,
  type ImportSaid,
  type Source,
} from '@canter/core/exchange'
import { counted } from '@canter/core/quantity'
import { Button, FileButton, Group, Select, Textarea, TextInput } from '@mantine/core'
import { IconUpload } from '@tabler/icons-react'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { v7 as uuidv7 } from 'uuid'
import { useImportPackage, usePerson } from '../data/queries.ts'
import { ImportAsked, ImportOdd, ImportSlips } from '../forms/import-answers.tsx'
import { ImportColumns } from '../forms/import-columns.tsx'
import { NumberField } from '../forms/number-field.tsx'
import { ImportPreview } from '../plan/import-preview.tsx'
import { Head } from './head.tsx'
import trial from './trial.module.css'
import classes from './import.module.css'

/** A trial begun elsewhere, out of one table: columns matched, structure confirmed in words, odd rows seen before anything is kept. */
export function ImportPage() {
  const [source, setSource] = useState<Source | null>(null)
  const [said, setSaid] = useState<ImportSaid | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [pasted, setPasted] = useState('')
  const take = (found: Source): void => {
    setSource(found)
    setProblem(null)
    const title = found.name.replace(/\.[a-z]+$/i, '').slice(0, 120)
    setSaid({ ...saidOf(proposeRoles(found), new Date().getFullYear()), title: found.name === PASTED ? '' : title })
  }
  const attempt = (read: () => Source | Promise<Source>): void => {
    void Promise.resolve()
      .then(read)
      .then(take)
      .catch((error: unknown) => setProblem(error instanceof Error ? error.message : String(error)))
  }
  const open = (file: File | null): void => {
    if (file) attempt(async () => readSource(file.name, new Uint8Array(await file.arrayBuffer())))
  }
  const choose = (label: string, variant: 'filled' | 'outline') => (
    <FileButton onChange={open} accept=".csv,.tsv,.txt,.xlsx,.geojson,.json">
      {(props) => (
        <Button {...props} variant={variant} size={variant === 'filled' ? 'sm' : 'compact-sm'} leftSection={<IconUpload size={16} />}>
          {label}
        </Button>
      )}
    </FileButton>
  )
  return (
    <div className={trial.frame}>
      <Head right={source && choose('Another file', 'outline')}>
        <h1 className={trial.title}>{source && source.name !== PASTED ? `From ${source.name}` : 'From a spreadsheet'}</h1>
      </Head>
      {source && said ? (
        <Matching key={source.name} source={source} said={said} say={(more) => setSaid((before) => ({ ...before!, ...more }))} />
      ) : (
        <main id="main" className={classes.begin}>
          <p className="sentence lead">A trial begun elsewhere, data and all, out of one table.</p>
          <p>
            One row a plot: its number, its block or its row and column, what it got, and what was measured. For example{' '}
            <em>101, 1, N0, 5.2</em>. Nothing is kept until you have seen what was understood.
          </p>
          <Group>
            {choose('Choose a file', 'filled')}
            <span className="small quiet">CSV, a workbook (XLSX) or GeoJSON</span>
          </Group>
          <Textarea
            mt={16}
            label="Or paste it from a spreadsheet, with the line of names"
            autosize
            minRows={6}
            maxRows={14}
            value={pasted}
            onChange={(event) => setPasted(event.currentTarget.value)}
            placeholder={'plot\tblock\ttreatment\tyield (t/ha)\n101\t1\tN0\t5.2'}
          />
          <Button mt={8} variant="outline" disabled={pasted.trim() === ''} onClick={() => attempt(() => textSource(PASTED, pasted))}>
            Read what is pasted
          </Button>
        </main>
      )}
      {problem && (
        <p className={`caution ${classes.problem}`} role="alert">
          Not read: {problem}
        </p>
      )}
    </div>
  )
}

const PASTED = 'what was pasted'

interface MatchingProps {
  readonly source: Source
  readonly said: ImportSaid
  readonly say: (more: Partial<ImportSaid>) => void
}

function Matching({ source, said, say }: MatchingProps) {
  const person = usePerson()
  const navigate = useNavigate()
  const { mutate, isPending } = useImportPackage()
  const [failed, setFailed] = useState<string | null>(null)
  const found = useMemo(() => understand(source, said, uuidv7), [source, said])
  const unsaid = found.asked.some((each) => each.key === 'how' && each.proposed === '') && said.how === null
  const ready = found.problems.length === 0 && found.layouts.length > 0 && !unsaid
  const begin = (): void => {
    const missing = [said.title.trim() === '' && 'a title', said.crop.trim() === '' && 'the crop'].filter(Boolean)
    if (missing.length > 0) return setFailed(`It still needs ${missing.join(' and ')}.`)
    let file: Blob
    try {
      const contents = importedContents(found, {
        person,
        at: new Date().toISOString(),
        device: 'import',
        source: source.name,
        newId: uuidv7,
      })
      file = new Blob([packTrial(contents) as Uint8Array<ArrayBuffer>])
    } catch (error) {
      return setFailed(error instanceof Error ? error.message : String(error))
    }
    mutate(
      { file, copy: false },
      {
        onSuccess: ({ trial: { id } }) => void navigate(`/trials/${id}/${found.values.length > 0 ? 'results' : 'ground'}`),
        onError: (error) => setFailed(error.message),
      },
    )
  }
  const measured = said.matched.some((each) => each.role === 'width')
  return (
    <div className={trial.body}>
      <ImportPreview found={found} className={trial.outline} />
      <main id="main" className={trial.main}>
        <section className="section" aria-labelledby="what">
          <h2 className="section-title" id="what">
            What it is
          </h2>
          <div className="fields">
            <TextInput
              className="half"
              label="Title"
              maxLength={120}
              value={said.title}
              onChange={(event) => say({ title: event.currentTarget.value })}
            />
            <TextInput
              className="half"
              label="Crop"
              maxLength={80}
              value={said.crop}
              onChange={(event) => say({ crop: event.currentTarget.value })}
            />
            <NumberField
              label="Season"
              value={said.season}
              low={1900}
              high={2200}
              onCommit={(season) => say({ season: season ?? said.season })}
            />
            <Select
              label="One row is a"
              allowDeselect={false}
              data={['plot', 'pot', 'bed', 'strip']}
              value={said.kind}
              onChange={(kind) => say({ kind: kind as ImportSaid['kind'] })}
            />
            {!measured && (
              <>
                <NumberField
                  label="Wide"
                  suffix="m"
                  value={said.plotWidth}
                  low={0.01}
                  high={1000}
                  onCommit={(plotWidth) => say({ plotWidth: plotWidth ?? 3 })}
                />
                <NumberField
                  label="Long"
                  suffix="m"
                  value={said.plotLength}
                  low={0.01}
                  high={1000}
                  onCommit={(plotLength) => say({ plotLength: plotLength ?? 10 })}
                />
              </>
            )}
            <TextInput
              label="Measured on"
              type="date"
              value={said.on ?? ''}
              onChange={(event) => say({ on: event.currentTarget.value || null })}
            />
          </div>
        </section>
        <section className="section" aria-labelledby="columns">
          <h2 className="section-title" id="columns">
            Columns
          </h2>
          <ImportColumns source={source} matched={said.matched} onChange={(matched) => say({ matched })} />
        </section>
        <section className="section" aria-labelledby="understood" data-testid="understood">
          <h2 className="section-title" id="understood">
            As it is understood
          </h2>
          {found.problems.map((text) => (
            <p key={text} className="caution">
              {text}
            </p>
          ))}
          {found.sentences.map((text) => (
            <p key={text} style={{ margin: '0 0 4px' }}>
              {text}
            </p>
          ))}
          <ImportAsked found={found} said={said} say={say} />
        </section>
        <ImportSlips found={found} said={said} say={say} />
        <ImportOdd found={found} />
        {failed && (
          <p className="caution" role="alert">
            Not taken over: {failed}
          </p>
        )}
        <Group mt="md">
          <Button disabled={!ready} loading={isPending} onClick={begin}>
            So it is: take it over
          </Button>
          <span className="small quiet">
            {ready
              ? `${counted(found.values.length, 'value')} come with it.`
              : unsaid
                ? 'Say how the treatments were dealt out.'
                : 'Match the columns first.'}
          </span>
        </Group>
      </main>
    </div>
  )
}
