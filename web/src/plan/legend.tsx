import type { Trial } from '@canter/core/trial'
import { swatchFill, treatmentColours } from './colours.ts'
import type { Colouring, Looks } from './looks.ts'
import classes from './plan-panel.module.css'

/** What the colours mean: codes with their names, or a ramp with its ends. */
export function Legend({ trial, colouring, look }: { trial: Trial; colouring: Colouring; look: Looks }) {
  const factor = trial.factors[0]!
  if (look.ramp) {
    return (
      <div className={classes.legend}>
        <span>{look.ramp.name}</span>
        <span>{look.ramp.low}</span>
        <span className={classes.ramp} style={{ background: `linear-gradient(to right, ${look.ramp.stops})` }} />
        <span>{look.ramp.high}</span>
        <span className="quiet">dashed ring: odd or flagged; cross: missing or left out</span>
      </div>
    )
  }
  if (colouring === 'progress') {
    return (
      <div className={classes.legend}>
        <Swatch fill="#9dbfa8" name="all measured" />
        <Swatch fill="#e9e0bd" name="some" />
        <Swatch fill="#fffefb" name="none yet" />
        <span className="quiet">dashed ring: flagged</span>
      </div>
    )
  }
  const colours = treatmentColours(factor)
  const shown = factor.levels.slice(0, 14)
  return (
    <div className={classes.legend}>
      {shown.map((level) => {
        const colour = colours.get(level.key)
        return <Swatch key={level.key} fill={swatchFill(colour)} name={`${level.code}${level.control ? ' (control)' : ''}`} />
      })}
      {factor.levels.length > shown.length && <span className="quiet">and {factor.levels.length - shown.length} more</span>}
    </div>
  )
}

function Swatch({ fill, name }: { fill: string; name: string }) {
  return (
    <span>
      <span className="swatch" style={{ background: fill }} />
      {name}
    </span>
  )
}
