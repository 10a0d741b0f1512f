import type { Factor, Level } from '@canter/core/trial'

/** A ladder of nutrient rates, the first one the untreated control. */
export function rateLadder(nutrient: 'N' | 'P', name: string, rates: readonly number[]): Factor {
  return {
    key: name.toLowerCase(),
    name,
    unit: 'kg/ha',
    nutrient,
    levels: rates.map((amount, i): Level => ({
      key: `r${amount}`,
      code: `${nutrient}${amount}`,
      name: `${amount} kg ${nutrient}/ha`,
      amount,
      control: i === 0,
    })),
  }
}

export function kinds(key: string, name: string, of: readonly { code: string; name: string; control?: boolean }[]): Factor {
  return {
    key,
    name,
    unit: '',
    nutrient: null,
    levels: of.map((each, i) => ({ key: `k${i + 1}`, code: each.code, name: each.name, amount: null, control: each.control ?? false })),
  }
}
