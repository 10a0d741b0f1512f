import type { ActualRate } from '@canter/core/amounts'
import { figure, formatPlain, type UnitSystem } from '@canter/core/quantity'
import { SegmentedControl } from '@mantine/core'

/** Rates as planned and as they went out, both shown; which of them the answer goes by. */
export function Rates({
  out,
  system,
  chosen,
  onChoose,
}: {
  out: readonly ActualRate[]
  system: UnitSystem
  chosen: string
  onChoose: (value: string) => void
}) {
  const off = (deviation: number): string => `${deviation > 0 ? '+' : deviation < 0 ? '−' : ''}${formatPlain(Math.abs(deviation), 2)} %`
  return (
    <div data-testid="rates">
      <SegmentedControl
        size="xs"
        aria-label="Rates"
        value={chosen}
        onChange={onChoose}
        data={[
          { value: 'planned', label: 'Rates as planned' },
          { value: 'out', label: 'Rates as they went out' },
        ]}
      />
      <p className="small quiet" style={{ margin: '4px 0 0' }}>
        Went out for planned:{' '}
        {out.map((each) => `${figure(each.actual, system)} for ${figure(each.planned, system)} (${off(each.deviation)})`).join(', ')}. Names
        and trends go by {chosen === 'out' ? 'what went out' : 'the plan'}; which plots got which treatment is the same.
      </p>
    </div>
  )
}
