import { formatPlain, oxideOf } from '@canter/core/quantity'
import { Nutrient, nutrientName, type Supply } from '@canter/core/trial'
import type { Saved } from '../data/saving.ts'
import { QuantityField } from './quantity-field.tsx'

/** Fields of the product that change, or what they become from those that stand. */
export type SupplyPatch = Partial<Supply> | ((stands: Supply | null) => Partial<Supply>)

/** What else is in a product, as elements with the oxide beside, and its density. */
export function ProductAnalysis({
  supply,
  main,
  change,
}: {
  supply: Supply | null
  main: Nutrient
  change: (patch: SupplyPatch) => Promise<Saved>
}) {
  const held = Nutrient.options.filter((each) => each !== main && (supply?.analysis[each] ?? 0) > 0)
  const withShare = (nutrient: Nutrient, share: number | null) =>
    change((stands) => {
      const { [nutrient]: _, ...rest } = stands?.analysis ?? {}
      return { analysis: share ? { ...rest, [nutrient]: share } : rest }
    })
  return (
    <details className="wide">
      <summary className="small">What else is in it{held.length > 0 ? ` (${held.join(', ')})` : ''}, and its density</summary>
      <div className="fields" style={{ alignItems: 'start', marginTop: 6 }}>
        {Nutrient.options
          .filter((each) => each !== main)
          .map((nutrient) => {
            const value = supply?.analysis[nutrient] ?? null
            const oxide = oxideOf(nutrient)
            return (
              <QuantityField
                key={nutrient}
                label={`${nutrientName(nutrient)}, ${nutrient}`}
                description={oxide && value ? `${formatPlain(value / oxide.share, 3)} % ${oxide.oxide}` : undefined}
                value={value}
                unit="%"
                low={0}
                high={100}
                optional
                onCommit={(share) => withShare(nutrient, share)}
              />
            )
          })}
        <QuantityField
          label="Density, of a liquid"
          value={supply?.density ?? null}
          unit="kg/L"
          low={0.5}
          high={5}
          optional
          onCommit={(density) => change({ density })}
        />
      </div>
    </details>
  )
}
