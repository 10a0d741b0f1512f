import { SPREADABLE, worksheetsFor, type Pass, type PassWorksheet } from '@canter/core/amounts'
import { formatQuantity } from '@canter/core/quantity'
import type { Site, Trial } from '@canter/core/trial'
import { usePerson } from '../data/queries.ts'
import type { Saved } from '../data/saving.ts'
import { QuantityField } from './quantity-field.tsx'

interface SmallDosesProps {
  readonly trial: Trial
  readonly site: Site
  readonly passes: readonly Pass[]
  readonly onBegin: (sheet: PassWorksheet) => void
  readonly onThreshold: (spreadable: number | null) => Promise<Saved>
}

/** From how little on a dry product is not spread any more on this trial, and the solution for each that is less. */
export function SmallDoses({ trial, site, passes, onBegin, onThreshold }: SmallDosesProps) {
  const { units: system } = usePerson()
  const { spreadable } = trial.amounts
  const solutions = passes.flatMap((pass) =>
    worksheetsFor(pass, site, system, spreadable).filter((each) => each.calculation.key === 'small-dose'),
  )
  return (
    <div className="fields" style={{ marginTop: 8, alignItems: 'end' }} data-testid="small-doses">
      <QuantityField
        className="half"
        label="Spread dry from"
        value={spreadable ?? null}
        unit="g/m²"
        low={0.001}
        high={1000}
        optional
        placeholder={`usually ${formatQuantity(SPREADABLE, 'g/m²', system, { plain: true })}`}
        onCommit={onThreshold}
      />
      {solutions.length > 0 && (
        <p className="small" style={{ margin: 0, gridColumn: 'span 2' }}>
          {solutions.map((each) => (
            <button
              key={`${each.pass.dose}.${each.pass.part}.${each.pass.level ?? ''}`}
              type="button"
              className="link-button"
              style={{ display: 'block', textAlign: 'left' }}
              onClick={() => onBegin(each)}
            >
              Work out the solution: {each.title.slice(each.title.indexOf(', ') + 2)}
            </button>
          ))}
        </p>
      )}
    </div>
  )
}
