import type { School } from '@canter/core/analysis'
import { useSchools, workKey, type AnalysisAsked } from '../data/analysis.ts'
import { Stopped, stopWork, useProgress } from '../data/long-work.ts'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSelection } from '../data/selection.ts'
import { SchoolsList } from '../chart/mixed-tables.tsx'
import { Working } from '../chart/working.tsx'

/** The answer the other way where practitioners differ; worked out after the answer, and stopped at a touch. */
export function OtherSchools({ asked }: { asked: AnalysisAsked }) {
  const selection = useSelection()
  const other = selection.get('school') as School['question'] | null
  const open = useOpenTrial()
  const { data: schools, error, refetch } = useSchools(open, asked)
  const key = workKey(open.trial.id, 'schools', asked)
  const progress = useProgress(key)
  if (schools?.length === 0) return null
  return (
    <section aria-labelledby="other-schools">
      <h2 className="section-title" id="other-schools">
        Where practitioners differ
      </h2>
      {schools ? (
        <SchoolsList schools={schools} other={other} onOther={(question) => selection.set({ school: question })} />
      ) : error ? (
        <p className="quiet small">
          {error instanceof Stopped ? 'Stopped.' : `This could not be worked out: ${error.message}.`}{' '}
          <button type="button" className="link-button" onClick={() => void refetch()}>
            Work it out
          </button>
        </p>
      ) : (
        <Working what="Working out the answer the other way" progress={progress ?? null} onStop={() => stopWork(key)} />
      )}
    </section>
  )
}
