import { memo } from 'react'
import { isInside, type Factor, type Treatments } from '@canter/core/trial'
import type { Key } from './colouring/index.ts'
import { hueAndStep, swatchFill, type TreatmentColour } from '@canter/core/ground'
import classes from './plan-panel.module.css'

/** What the colours mean: codes with their names, a small grid of two factors, or a ramp with its ends. */
export const Legend = memo(function Legend({
  treatments,
  colours,
  shows,
  onChoose,
}: {
  treatments: Treatments
  colours: ReadonlyMap<string, TreatmentColour>
  shows: Key
  /** Takes another pair of factors: the one told by hue, the one told by how light it is. */
  onChoose: (hue: string, step: string) => void
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
  const inside = list.filter((each) => isInside(each, factors))
  const pair = pairShown(treatments)
  if (pair && pair[0].levels.length * pair[1].levels.length <= 60 && inside.length > 0)
    return (
      <>
        <CrossedKey treatments={treatments} pair={pair} colours={colours} onChoose={factors.length > 2 ? onChoose : undefined} />
        {shows.note && <div className={classes.legend}>{shows.note}</div>}
      </>
    )
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
      {shows.note && <span className="quiet">{shows.note}</span>}
    </div>
  )
})

type Pair = readonly [Factor, Factor]

/** The two factors that are coloured, in the order they stand; null where one is varied. */
function pairShown(treatments: Treatments): Pair | null {
  const { hue, step } = hueAndStep(treatments)
  if (!step) return null
  return treatments.factors.indexOf(hue) < treatments.factors.indexOf(step) ? [hue, step] : [step, hue]
}

/** Rows of one factor, columns of another; what stands outside beside it. Of three or more it is chosen which two. */
function CrossedKey({
  treatments,
  pair: [first, second],
  colours,
  onChoose,
}: {
  treatments: Treatments
  pair: Pair
  colours: ReadonlyMap<string, TreatmentColour>
  onChoose: ((hue: string, step: string) => void) | undefined
}) {
  const { factors, list } = treatments
  const outside = list.filter((each) => !isInside(each, factors))
  const { hue, step } = hueAndStep(treatments)
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
      {onChoose && step && (
        <span className={classes.chosen}>
          {(['hue', 'lightness'] as const).map((which) => (
            <label key={which}>
              {which === 'hue' ? 'Colour tells ' : 'how dark tells '}
              <select
                value={(which === 'hue' ? hue : step).key}
                onChange={({ currentTarget: { value } }) =>
                  which === 'hue'
                    ? onChoose(value, value === step.key ? hue.key : step.key)
                    : onChoose(value === hue.key ? step.key : hue.key, value)
                }
              >
                {factors.map((factor) => (
                  <option key={factor.key} value={factor.key}>
                    {factor.name.toLowerCase()}
                  </option>
                ))}
              </select>
            </label>
          ))}
        </span>
      )}
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
