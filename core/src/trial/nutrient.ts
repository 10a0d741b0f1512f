import { z } from 'zod'

/** Plant nutrients, as elements, in the order they are told; adding one is a line here. */
const NUTRIENTS = {
  N: 'Nitrogen',
  P: 'Phosphorus',
  K: 'Potassium',
  S: 'Sulphur',
  Ca: 'Calcium',
  Mg: 'Magnesium',
  Zn: 'Zinc',
  B: 'Boron',
  Fe: 'Iron',
  Mn: 'Manganese',
  Cu: 'Copper',
  Na: 'Sodium',
  Cl: 'Chlorine',
} as const

export const Nutrient = z.enum(Object.keys(NUTRIENTS) as (keyof typeof NUTRIENTS)[])
export type Nutrient = z.infer<typeof Nutrient>

export function nutrientName(nutrient: Nutrient): string {
  return NUTRIENTS[nutrient]
}
