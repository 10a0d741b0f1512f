import { genericProducts } from '@canter/core/amounts'
import type { Dose, Product, Worksheet } from '@canter/core/trial'

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

/** Metered water by drip lines, so much of it at each of these waterings. */
export function watering(key: string, level: string, depth: number, days: readonly string[]): Dose {
  return {
    ...plainDose(key, 'water'),
    to: { factor: 'water', level },
    amount: depth,
    measure: 'mm',
    placement: 'irrigation',
    parts: days.map((on) => ({ when: '', on, share: 100 / days.length })),
  }
}

/** Drip lines as they were laid: how long they run for a depth. */
export function dripLines(key: string, site: string, title: string, on: string, emitter: string): Worksheet {
  return {
    key,
    calculation: 'irrigation',
    title,
    site,
    on,
    given: { depth: '14', area: '1', efficiency: '90', emitter, 'emitter-spacing': '0.3', 'line-spacing': '0.75' },
    system: 'metric',
    note: '',
  }
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
