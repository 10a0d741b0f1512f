import type { Progress } from '@canter/core/analysis'
import classes from './working.module.css'

/** Long work: what it does, how far it is, and a touch that stops it. Shown once it has taken half a second. */
export function Working({ what, progress, onStop }: { what: string; progress: Progress | null; onStop: () => void }) {
  return (
    <p className={`quiet small ${classes.working}`} role="status" data-testid="working">
      <span className={classes.turning} aria-hidden />
      <span>
        {what}
        {progress ? `: ${progress.doing}${progress.step === null ? '' : `, step ${progress.step}`}` : '…'}
      </span>
      <button type="button" className="link-button" onClick={onStop}>
        Stop
      </button>
    </p>
  )
}
