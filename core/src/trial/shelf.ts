import { z } from 'zod'
import { Ground } from './ground.ts'
import { bareSite, SiteFacts } from './site.ts'
import { Product } from './product.ts'
import { id, line, optionalText } from './text.ts'

/** What outlives a trial and is used again: ground and products. A changed item never changes a trial that started from it. */
const kinds = [
  z.object({ kind: z.literal('site'), name: line('Site name', 80), body: z.object({ soil: optionalText('Soil', 500), ground: Ground, facts: SiteFacts.default(bareSite.facts) }) }), // prettier-ignore
  z.object({ kind: z.literal('product'), name: line('Product', 120), body: Product }),
] as const

export const ShelfItemDraft = z.discriminatedUnion('kind', [...kinds]).meta({ id: 'ShelfItemDraft' })
export type ShelfItemDraft = z.infer<typeof ShelfItemDraft>

export const ShelfItem = z.discriminatedUnion('kind', [kinds[0].extend({ id }), kinds[1].extend({ id })]).meta({ id: 'ShelfItem' })
export type ShelfItem = z.infer<typeof ShelfItem>

/** Fields that change, and no others: two people who change different ones both keep theirs. */
export const ShelfPatch = z
  .object({ name: line('Name', 120).optional(), body: z.record(z.string(), z.unknown()).default({}) })
  .meta({ id: 'ShelfPatch' })
export type ShelfPatch = z.infer<typeof ShelfPatch>
