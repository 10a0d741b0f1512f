import { crossFactors, treatmentsOf, type Factor, type Level, type Treatments } from '@canter/core/trial'

/** A ladder of nutrient rates, the first one the untreated control. */
export function rateLadder(nutrient: 'N' | 'P', name: string, rates: readonly number[]): Factor {
  return {
    key: name.toLowerCase(),
    name,
    kind: 'rate',
    measure: 'kg/ha',
    of: { what: 'nutrient', nutrient },
    levels: rates.map((amount): Level => ({
      key: `r${amount}`,
      code: `${nutrient}${amount}`,
      name: `${amount} kg ${nutrient}/ha`,
      amount,
    })),
  }
}

export function kinds(
  key: string,
  name: string,
  of: readonly { code: string; name: string }[],
  kind: 'kind' | 'practice' = 'kind',
): Factor {
  return {
    key,
    name,
    kind,
    measure: '',
    of: null,
    levels: of.map((each, i) => ({ key: `k${i + 1}`, code: each.code, name: each.name, amount: null })),
  }
}

/** Every combination, the first of all levels in the role given. */
export function crossed(factors: Factor[], role: 'untreated control' | 'standard' | 'none'): Treatments {
  return treatmentsOf(
    factors,
    crossFactors(factors).map((each, i) => ({ ...each, role: i === 0 ? role : 'none' })),
  )
}
