import { memo } from 'react'
import { isInside, type Treatments } from '@canter/core/trial'
import type { Key } from './colouring/index.ts'
import { swatchFill, type TreatmentColour } from './colours.ts'
import classes from './plan-panel.module.css'

/** What the colours mean: codes with their names, a small grid of two factors, or a ramp with its ends. */
export const Legend = memo(function Legend({
  treatments,
  colours,
  shows,
}: {
  treatments: Treatments
  colours: ReadonlyMap<string, TreatmentColour>
  shows: Key
}) {
  if (shows.kind === 'ramp') {
    return (
      <div className={classes.legend}>
        <span>{shows.name}</span>
        <span>{shows.low}</span>
        <span className={classes.ramp} style={{ background: `linear-gradient(to right, ${shows.stops})` }} />
        <span>{shows.high}</span>
        <span className="quiet">dashed ring: odd or flagged; cross: missing or left out</span>
      </div>
    )
  }
  if (shows.kind === 'swatches') {
    return (
      <div className={classes.legend}>
        {shows.swatches.map((each) => (
          <Swatch key={each.name} fill={each.fill} name={each.name} />
        ))}
        <span className="quiet">dashed ring: flagged</span>
      </div>
    )
  }
  const { factors, list } = treatments
  const [first, second] = factors
  const inside = list.filter((each) => isInside(each, factors))
  if (first && second && factors.length === 2 && first.levels.length * second.levels.length <= 60 && inside.length > 0)
    return <CrossedKey treatments={treatments} colours={colours} />
  const most = 14
  return (
    <div className={classes.legend}>
      {list.slice(0, most).map((treatment) => (
        <Swatch
          key={treatment.key}
          fill={swatchFill(colours.get(treatment.key))}
          name={`${treatment.code}${treatment.role === 'none' ? '' : ` (${treatment.role})`}`}
        />
      ))}
      {list.length > most && <span className="quiet">and {list.length - most} more</span>}
    </div>
  )
})

/** Rows of the first factor, columns of the second; what stands outside beside it. */
function CrossedKey({ treatments, colours }: { treatments: Treatments; colours: ReadonlyMap<string, TreatmentColour> }) {
  const { factors, list } = treatments
  const [first, second] = factors as [Treatments['factors'][number], Treatments['factors'][number]]
  const outside = list.filter((each) => !isInside(each, factors))
  return (
    <div className={classes.legend}>
      <table className={classes.grid} aria-label="Colours of the treatments">
        <thead>
          <tr>
            <td />
            {second.levels.map((level) => (
              <th key={level.key} title={level.name}>
                {level.code}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {first.levels.map((level) => (
            <tr key={level.key}>
              <th title={level.name}>{level.code}</th>
              {second.levels.map((other) => {
                const treatment = list.find((each) => each.levels[first.key] === level.key && each.levels[second.key] === other.key)
                return (
                  <td key={other.key}>
                    {treatment ? (
                      <span className="swatch" title={treatment.name} style={{ background: swatchFill(colours.get(treatment.key)) }} />
                    ) : (
                      ''
                    )}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {outside.map((treatment) => (
        <Swatch key={treatment.key} fill={swatchFill(colours.get(treatment.key))} name={treatment.code} />
      ))}
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
