import type { TrialContents } from '@canter/core/exchange'
import { Product, type ShelfItemDraft } from '@canter/core/trial'
import { carrots } from './carrots.ts'
import { beetAtSites } from './beet-sites.ts'
import { hornbeam } from './hornbeam.ts'
import { leek } from './leek.ts'
import { mulch, oats } from './others.ts'
import { pelargonium } from './pelargonium.ts'
import { sugarBeet, sugarBeetDraft } from './sugar-beet.ts'

/** The invented scenario: trials that can be followed to the end, and others at other points of their season. */
export function demoTrials(): TrialContents[] {
  return [beetAtSites(), carrots(), pelargonium(), leek(), hornbeam(), oats(), mulch(), sugarBeet()]
}

/** Ground and products of the stations, to start other trials from. */
export function demoShelf(): ShelfItemDraft[] {
  const contents = demoTrials()
  const sites = contents.flatMap(({ trial }) =>
    trial.sites.map(({ name, soil, ground, facts }): ShelfItemDraft => ({ kind: 'site', name, body: { soil, ground, facts } })),
  )
  const products = contents.flatMap(({ trial: { amounts } }) =>
    [...(amounts.supply ? [amounts.supply] : []), ...(amounts.products ?? [])].map((each): ShelfItemDraft => ({
      kind: 'product',
      name: each.product,
      body: Product.parse(each),
    })),
  )
  const all = [...sites, ...products]
  return all.filter((item, i) => all.findIndex((each) => each.kind === item.kind && each.name === item.name) === i)
}

export { sugarBeet, sugarBeetDraft }
