import { genericProducts } from '@canter/core/amounts'
import type { Dose, Product } from '@canter/core/trial'

/** One of the products that ship, by its name. */
export function genericProduct(name: string): Product {
  return genericProducts.find((each) => each.product === name)!
}

/** Put on once, broadcast, and nothing more said of it. */
export function plainDose(key: string, product: string): Dose {
  return {
    key,
    to: null,
    product,
    of: 'product',
    amount: null,
    measure: 'kg/ha',
    per: 'unit',
    carrier: null,
    carrierToAll: false,
    placement: 'broadcast',
    depth: null,
    band: null,
    parts: [{ when: '', on: null, share: 100 }],
    reason: '',
  }
}

const FERTILISER = { reentryHours: 0, preHarvestDays: 0, protection: 'gloves, dust mask when filling' }

/** As its label on the station reads. */
export const superphosphate: Product = {
  ...genericProduct('Triple superphosphate'),
  ...FERTILISER,
  labelMaximumPerApplication: 400,
  labelMaximumPerSeason: 400,
}

/** Phosphorus and potassium that every plot of beet got the autumn before. */
export const autumnFeed = {
  products: [
    { ...superphosphate, key: 'superphosphate' },
    { ...genericProduct('Potassium chloride'), ...FERTILISER, key: 'potash', labelMaximumPerApplication: 500, labelMaximumPerSeason: 500 },
  ],
  doses: [
    {
      ...plainDose('autumn-p', 'superphosphate'),
      of: 'P' as const,
      amount: 30,
      parts: [{ when: 'autumn before', on: '2025-10-14', share: 100 }],
    },
    { ...plainDose('autumn-k', 'potash'), of: 'K' as const, amount: 120, parts: [{ when: 'autumn before', on: '2025-10-14', share: 100 }] },
  ],
}
