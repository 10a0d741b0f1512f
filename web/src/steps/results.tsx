import {
  classAnswers,
  plannedAnswers,
  sentencesOf,
  shownAnswers,
  spoken,
  spokenTreatment,
  termInWords,
  traitOf,
  withinLimits,
  type Analysis,
  type TermResult,
} from '@canter/core/analysis'
import { comparisonMethods } from '@canter/core/statistics'
import { actualRates, asWentOut } from '@canter/core/amounts'
import type { UnitSystem } from '@canter/core/quantity'
import { asOf, visitsOf, type Treatments } from '@canter/core/trial'
import { SegmentedControl, Select } from '@mantine/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { useAnalysis, useSchools, workKey } from '../data/analysis.ts'
import type { Settled } from '../data/analysis-worker.ts'
import { Stopped, stopWork, useProgress } from '../data/long-work.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { usePeople, usePerson } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { useSelection } from '../data/selection.ts'
import { AnovaTable, ChecksTable, ContrastTable, JointTables, MeansTable } from '../chart/analysis-tables.tsx'
import { BothWaysLines, WhatBecame } from '../chart/both-ways.tsx'
import { MeansChart } from '../chart/means-chart.tsx'
import { ChanceTable, ModelsTable, StabilityTable } from '../chart/mixed-tables.tsx'
import { Sentences } from '../chart/sentences.tsx'
import { Working } from '../chart/working.tsx'
import { OtherSchools } from './results-other-schools.tsx'
import { ResultsOverDates } from './results-over-dates.tsx'
import { Rates } from './results-rates.tsx'
import classes from './results.module.css'

/** Words first, then the numbers, then the tables. */
export function ResultsStep() {
  const open = useOpenTrial()
  const { trial, layouts, site } = open
  const { units: system } = usePerson()
  const selection = useSelection()
  const all = [...trial.traits.observed, ...trial.traits.derived]
  const trait = all.find((each) => each.key === selection.get('trait')) ?? traitOf(trial, trial.traits.response)
  const visits = visitsOf(trial.traits, trait.key)
  const visit = visits.includes(open.visit.key) ? open.visit.key : (visits.at(-1) ?? open.visit.key)
  const together = layouts.length > 1 && selection.get('sites') !== 'one'
  const overDates = visits.length > 1 && selection.get('visits') === 'all'
  const looked = layouts.map((layout) => layout.siteKey).filter((key) => together || key === site.key)
  const out = actualRates(trial.treatments, trial.amounts, looked)
  const rates = out.length > 0 && selection.get('rates') === 'out' ? ('out' as const) : undefined
  const asked = { trait: trait.key, visit, site: together ? null : site.key, observer: selection.get('observer'), rates }
  // The other way where practitioners differ, if somebody wants to see it.
  const school = selection.get('school')
  const { data: schools } = useSchools(open, school === null ? null : asked)
  const other = schools?.find((each) => each.question === school)
  const shownAs = { ...asked, options: other?.options }
  const { data: answer, error, refetch } = useAnalysis(open, shownAs)
  const key = workKey(trial.id, 'answer', shownAs)
  const progress = useProgress(key)
  // Traits with a limit, of which two can stand beside the one that is read.
  const [limitA, limitB] = all.filter((each) => each.limit !== undefined && each.key !== trait.key)
  const beside = { visit, site: together ? null : site.key }
  const ofA = useAnalysis(open, limitA ? { ...beside, trait: limitA.key } : null).data
  const ofB = useAnalysis(open, limitB ? { ...beside, trait: limitB.key } : null).data
  const [shown, setShown] = useState<string | null>(null)
  if (layouts.length === 0 || (!together && !open.layout)) {
    return (
      <>
        <p className="sentence lead">Results come once {layouts.length === 0 ? 'the trial' : site.name} is laid out and measured.</p>
        <p className="quiet">
          Then they are said in words first: “120 kg N/ha gave 0.9 t/ha more sugar than no nitrogen (0.5 to 1.3)”, with the evidence beside
          it. Begin under <Link to={`/trials/${trial.id}/ground`}>Ground</Link>.
        </p>
      </>
    )
  }
  if (error instanceof Stopped)
    return (
      <p className="quiet">
        Stopped.{' '}
        <button type="button" className="link-button" onClick={() => void refetch()}>
          Work it out
        </button>
      </p>
    )
  if (error) return <p className="caution">The analysis failed: {error.message}</p>
  if (!answer) return <Working what="Working it out" progress={progress ?? null} onStop={() => stopWork(key)} />
  const pickers = (
    <div className={classes.pickers}>
      <Select
        size="xs"
        aria-label="Trait"
        data={all.map((each) => ({
          value: each.key,
          label: `${each.name}${each.key === trial.traits.response ? ' (the response that matters)' : ''}`,
        }))}
        value={trait.key}
        allowDeselect={false}
        onChange={(value) => value && selection.set({ trait: value })}
        className={classes.trait}
      />
      {layouts.length > 1 && (
        <SegmentedControl
          size="xs"
          aria-label="Sites"
          value={together ? 'all' : 'one'}
          onChange={(value) => selection.set({ sites: value === 'all' ? null : 'one' })}
          data={[
            { value: 'all', label: `All ${layouts.length} sites` },
            { value: 'one', label: site.name },
          ]}
        />
      )}
      {visits.length > 1 && (
        <SegmentedControl
          size="xs"
          aria-label="Visits"
          value={overDates ? 'all' : 'one'}
          onChange={(value) => selection.set({ visits: value === 'all' ? 'all' : null })}
          data={[
            { value: 'one', label: trial.traits.visits.find((each) => each.key === visit)?.name ?? visit },
            { value: 'all', label: `Over ${visits.length} visits` },
          ]}
        />
      )}
    </div>
  )
  if (overDates)
    return (
      <div className={classes.page}>
        {pickers}
        <ResultsOverDates asked={asked} visits={visits} system={system} />
      </div>
    )
  if (!answer.ok) {
    return (
      <>
        {pickers}
        <Unsettled settled={answer.settled} trait={trait.key} />
        <p className="sentence lead">{answer.problem}</p>
        {open.progress.readings === 0 && (
          <p className="quiet">
            Once plots are measured, the answer stands here in words first: “120 kg N/ha gave 0.9 t/ha more sugar than no nitrogen (0.5 to
            1.3)”, then the means and the tests. Begin under <Link to={`/trials/${trial.id}/walk`}>Walk</Link>.
          </p>
        )}
      </>
    )
  }
  const { without: analysis } = answer.both
  const { treatments } = asOf({ treatments: (rates ? asWentOut(trial, looked) : trial).treatments, layouts: [] }, answer.settled.day)
  const limited = [limitA && { trait: limitA, answer: ofA }, limitB && { trait: limitB, answer: ofB }].flatMap((each) =>
    each?.answer?.ok ? [{ trait: each.trait, analysis: each.answer.both.without }] : [],
  )
  const kept = withinLimits(analysis, limited, treatments, trait.better, system)
  const terms = Object.values(analysis.terms)
  const term = terms.find((each) => each.term === shown) ?? firstTerm(analysis, treatments)
  const offered = comparisonMethods.filter((each) => term.comparisons[each.key] !== undefined)
  const method = offered.find((each) => each.key === selection.get('method')) ?? offered[0]
  return (
    <div className={classes.page}>
      {pickers}
      <Unsettled settled={answer.settled} trait={trait.key} />
      {other && (
        <p className="caution small" data-testid="other-school">
          Shown with {other.other}; taken by itself: {other.taken}.
        </p>
      )}
      {out.length > 0 && (
        <Rates
          out={out}
          system={system}
          chosen={rates ?? 'planned'}
          onChoose={(value) => selection.set({ rates: value === 'out' ? 'out' : null })}
        />
      )}
      <Planned analysis={analysis} treatments={treatments} system={system} />
      <div data-testid="sentences">
        <Sentences
          leading={treatments.comparisons.length === 0}
          sentences={sentencesOf(analysis, system).filter((each) => each.about !== 'planned')}
        />
      </div>
      <Sentences sentences={shownAnswers(answer.both.shown, analysis, treatments, system)} leading={false} />
      {kept && <Sentences sentences={[kept]} leading={false} />}
      <Sentences sentences={classAnswers(analysis, treatments, system)} leading={false} />
      <BothWaysLines both={answer.both} system={system} />
      {analysis.kind === 'tested' && <OtherSchools asked={asked} />}
      {terms.length > 1 && (
        <Select
          size="xs"
          label="Means of"
          data={terms.map((each) => ({ value: each.term, label: termName(each, treatments) }))}
          value={term.term}
          allowDeselect={false}
          onChange={setShown}
          className={classes.trait}
        />
      )}
      <MeansChart analysis={analysis} term={term} treatments={treatments} system={system} method={method?.key ?? 'lsd'} height={230} />
      {analysis.kind === 'tested' && method && (
        <div>
          <Select
            size="xs"
            aria-label="How means are compared"
            value={method.key}
            onChange={(value) => selection.set({ method: value })}
            allowDeselect={false}
            data={offered.map((each) => ({ value: each.key, label: `${each.name} (${each.school})` }))}
            className={classes.trait}
          />
          <p className="small quiet" style={{ margin: '4px 0 0' }}>
            {method.controls} Level: {analysis.significance}.
          </p>
        </div>
      )}
      <div className={classes.tables}>
        <MeansTable
          analysis={analysis}
          term={term}
          treatments={treatments}
          method={method?.key ?? 'lsd'}
          system={system}
          ends={answer.both.ends}
        />
        <WhatBecame ends={answer.both.ends} unit={analysis.unit} />
        {analysis.kind === 'tested' && <AnovaTable analysis={analysis} treatments={treatments} system={system} />}
        <JointTables analysis={analysis} term={term} treatments={treatments} system={system} />
        <ModelsTable analysis={analysis} />
        {analysis.mixed && (
          <details className="small">
            <summary className="quiet">What differs by chance, and how well the model fits</summary>
            <ChanceTable analysis={analysis} treatments={treatments} system={system} />
          </details>
        )}
        <StabilityTable
          analysis={analysis}
          term={stabilityOf(analysis, term)}
          treatments={treatments}
          system={system}
          nameOf={(level) => spokenLevels(treatments, stabilityOf(analysis, term), level, system)}
        />
      </div>
      {analysis.cautions.map(({ text }) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
      <div className={classes.tables}>
        <ChecksTable analysis={analysis} />
      </div>
      <p className="small quiet">
        {analysis.model.words} Model: <em>{analysis.model.symbols}</em>
      </p>
    </div>
  )
}

/** What was planned beforehand comes first, with its figures a click away. */
function Planned({ analysis, treatments, system }: { analysis: Analysis; treatments: Treatments; system: UnitSystem }) {
  const answers = plannedAnswers(analysis, treatments, system)
  if (answers.length === 0) return null
  return (
    <section aria-labelledby="planned-answers" data-testid="planned">
      <h2 className="section-title" id="planned-answers">
        What was to be compared
      </h2>
      {answers.map((each, i) => (
        <div key={each.comparison.key}>
          <Sentences sentences={[each]} leading={i === 0} />
          {each.atSites && (
            <p className="small quiet" style={{ margin: '-2px 0 8px' }}>
              {each.atSites}
            </p>
          )}
        </div>
      ))}
      <details className="small">
        <summary className="quiet">The figures behind {answers.length === 1 ? 'it' : 'them'}</summary>
        <ContrastTable answers={answers} analysis={analysis} system={system} />
      </details>
      <h2 className="section-title" style={{ marginTop: 12 }}>
        Treatments
      </h2>
    </section>
  )
}

/** What matters most: all factors together where they depend on each other, else the first of them. */
function firstTerm(analysis: Analysis, { factors }: Treatments): TermResult {
  const whole = factors.map((factor) => factor.key).join(':')
  const joint = analysis.tests.find((test) => test.term === whole)
  if (factors.length > 1 && joint && joint.p < analysis.significance && analysis.terms[whole]) return analysis.terms[whole]
  return Object.values(analysis.terms)[0]!
}

/** Of the term that is shown, or of what it is at each site. */
function stabilityOf({ stability }: Analysis, { factors }: TermResult): string {
  const own = factors.filter((key) => key !== 'site').join(':')
  return stability[own] ? own : (Object.keys(stability)[0] ?? own)
}

function spokenLevels(treatments: Treatments, term: string, level: string, system: UnitSystem): string {
  const keys = term.split(':')
  const levels = level.split(':')
  return keys
    .map((key, i) => {
      const factor = treatments.factors.find((each) => each.key === key)
      return factor ? spoken(factor, levels[i]!, system) : spokenTreatment(treatments, level, system)
    })
    .join(', ')
}

function termName({ term }: TermResult, treatments: Treatments): string {
  const name = termInWords(treatments, term)
  return name.charAt(0).toUpperCase() + name.slice(1)
}

/** Readings that are not settled: kept apart by observer until somebody has them averaged, or entered twice. */
function Unsettled({ settled, trait: key }: { settled: Settled; trait: string }) {
  const { trial } = useOpenTrial()
  const { save } = useSaving()
  const people = usePeople()
  const selection = useSelection()
  const observed = trial.traits.observed.find((each) => each.key === key)
  const averaged = observed?.observers === 'averaged'
  const setObservers = (observers: 'apart' | 'averaged'): void =>
    void save('traits', { observed: trial.traits.observed.map((each) => (each.key === key ? { ...each, observers } : each)) })
  if (averaged) {
    return (
      <p className="small quiet" style={{ margin: 0 }}>
        Where two people read the same, their readings are averaged, as asked.{' '}
        <button type="button" className="link-button" onClick={() => setObservers('apart')}>
          Keep them apart
        </button>
      </p>
    )
  }
  return (
    <>
      {settled.observers.length > 0 && (
        <div className="caution small" data-testid="observers">
          {settled.observers.length} people read some of the same; their readings are kept apart.{' '}
          {settled.apart > 0 ? `${settled.apart} are left aside until you choose: ` : 'Shown are those of one: '}
          {settled.observers.map((id) => (
            <button
              key={id}
              type="button"
              className="link-button"
              aria-pressed={selection.get('observer') === id}
              style={{ marginRight: 10 }}
              onClick={() => selection.set({ observer: selection.get('observer') === id ? null : id })}
            >
              {people.find((each) => each.id === id)?.name ?? 'somebody else'} only
            </button>
          ))}
          {observed && (
            <button type="button" className="link-button" onClick={() => setObservers('averaged')}>
              Average them
            </button>
          )}
        </div>
      )}
      {settled.conflicts > 0 && (
        <p className="caution small">
          {settled.conflicts} {settled.conflicts === 1 ? 'value was' : 'values were'} entered twice and{' '}
          {settled.conflicts === 1 ? 'is' : 'are'} not counted until somebody chooses in Walk which holds.
        </p>
      )}
    </>
  )
}
