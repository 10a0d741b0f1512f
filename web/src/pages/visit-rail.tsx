import dayjs from 'dayjs'
import { useOpenTrial } from '../data/open-trial.ts'
import { useSelection } from '../data/selection.ts'
import classes from './trial.module.css'

/** The visits as dots by date, filled as they are done; one of them is open. Nothing where there is only one. */
export function VisitRail() {
  const { trial, visit, progress } = useOpenTrial()
  const { set } = useSelection()
  const { visits } = trial.traits
  if (visits.length < 2) return null
  return (
    <div className={classes.rail} role="group" aria-label="Visits">
      {visits.map((each) => {
        const tally = progress.visits[each.key]
        const share = tally && tally.expected > 0 ? tally.readings / tally.expected : 0
        return (
          <button
            key={each.key}
            type="button"
            className={classes.visit}
            aria-pressed={each.key === visit.key}
            onClick={() => set({ visit: each.key })}
          >
            <span
              className={classes.dot}
              style={{ background: `linear-gradient(to top, var(--accent) ${share * 100}%, transparent ${share * 100}%)` }}
            />
            <span>{each.name}</span>
            <span className="quiet">
              {each.on ? dayjs(each.on).format('D MMM') : ''} {tally ? `${tally.readings}/${tally.expected}` : ''}
            </span>
          </button>
        )
      })}
    </div>
  )
}
