import { countEnds, endsInWords, sentencesOf, termInWords, type Analysis, type TermResult } from '@canter/core/analysis'
import type { UnitSystem } from '@canter/core/quantity'
import { Select } from '@mantine/core'
import { useState } from 'react'
import { workKey, useOverDates, type AnalysisAsked } from '../data/analysis.ts'
import { Stopped, stopWork, useProgress } from '../data/long-work.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { AnovaTable, JointTables, MeansTable } from '../chart/analysis-tables.tsx'
import { MeansChart } from '../chart/means-chart.tsx'
import { ChanceTable, ModelsTable } from '../chart/mixed-tables.tsx'
import { Sentences } from '../chart/sentences.tsx'
import { Working } from '../chart/working.tsx'
import classes from './results.module.css'

/** A trait over all visits it was read at: what changes from date to date first. */
export function ResultsOverDates({ asked, visits, system }: { asked: AnalysisAsked; visits: readonly string[]; system: UnitSystem }) {
  const open = useOpenTrial()
  const { treatments } = open.trial
  const { data: answer, error, refetch } = useOverDates(open, asked, visits)
  const key = workKey(open.trial.id, 'dates', asked)
  const progress = useProgress(key)
  const [shown, setShown] = useState<string | null>(null)
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
  if (!answer) return <Working what="Working out all dates together" progress={progress ?? null} onStop={() => stopWork(key)} />
  if (!answer.ok) return <p className="sentence lead">{answer.problem}</p>
  const { over, area, dates, inDays, ends } = answer.dates
  const terms = Object.values(over.terms)
  const term = terms.find((each) => each.term === shown) ?? leading(over)
  const name = (each: TermResult): string => capitalised(termInWords(treatments, each.term))
  return (
    <>
      <Sentences leading sentences={sentencesOf(over, system)} />
      {area && area.kind === 'tested' && (
        <section aria-labelledby="area">
          <h2 className="section-title" id="area">
            Area under the curve
          </h2>
          <Sentences leading={false} sentences={sentencesOf(area, system).slice(0, 3)} />
        </section>
      )}
      <p className="small quiet" style={{ margin: 0 }}>
        {dates.map((each) => each.name).join(', ')}:{' '}
        {inDays
          ? `${dates.map((each) => each.time).join(', ')} days from the first.`
          : 'their days are not known, or two fall on one, so that they are taken as evenly spaced.'}
      </p>
      {dates.map(({ name: date }) => {
        const told = endsInWords(countEnds(ends.filter((each) => each.marks['date'] === date)), open.site.design.unit)
        return (
          told && (
            <p key={date} className="small" style={{ margin: 0 }}>
              {date}: {told}.
            </p>
          )
        )
      })}
      <Select
        size="xs"
        label="Means of"
        data={terms.map((each) => ({ value: each.term, label: name(each) }))}
        value={term.term}
        allowDeselect={false}
        onChange={setShown}
        className={classes.trait}
      />
      <MeansChart analysis={over} term={term} treatments={treatments} system={system} method="lsd" height={230} />
      <div className={classes.tables}>
        <MeansTable analysis={over} term={term} treatments={treatments} method="tukey" system={system} ends={ends} />
        <JointTables analysis={over} term={term} treatments={treatments} system={system} />
        <AnovaTable analysis={over} treatments={treatments} system={system} />
        <ModelsTable analysis={over} />
        {over.mixed && (
          <details className="small">
            <summary className="quiet">What differs by chance, and how well the model fits</summary>
            <ChanceTable analysis={over} treatments={treatments} system={system} />
          </details>
        )}
      </div>
      {over.cautions.map(({ text }) => (
        <p key={text} className="caution small">
          {text}
        </p>
      ))}
      <p className="small quiet">{over.model.words}</p>
    </>
  )
}

/** Where treatments do otherwise from date to date, their means at each date; else of the treatments. */
function leading({ terms, tests, significance }: Analysis): TermResult {
  const all = Object.values(terms)
  const joint = all
    .filter((each) => each.factors.length > 1 && each.factors.at(-1) === 'date')
    .find((each) => {
      const test = tests.find((one) => one.term === each.term)
      return test && test.p < significance
    })
  return joint ?? all[0]!
}

function capitalised(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
