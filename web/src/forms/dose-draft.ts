import { genericProducts, parseRate, productOf, typedRate } from '@canter/core/amounts'
import { formatPlain, parseQuantity } from '@canter/core/quantity'
import { bareProduct, placementOf, type Dose, type nutrientOf, type PlacementKey, type Product, type ShelfItem } from '@canter/core/trial'

/** Whom it goes to where it goes to every plot. */
export const EVERY = 'every'

/** What is typed, field by field. */
export interface DoseValues {
  readonly to: string
  readonly product: string
  readonly name: string
  readonly rate: string
  readonly of: string
  readonly placement: string
  readonly carrier: string
  readonly carrierToAll: boolean
  readonly holds: string
  readonly dead: string
  readonly depth: string
  readonly bandWidth: string
  readonly bandSpacing: string
  readonly parts: { readonly share: string; readonly when: string; readonly on: string }[]
}
export type DoseProblems = Partial<Record<keyof DoseValues | 'whole', string>>

/** A dose as it stands in the fields; a new one as it usually is. */
export function valuesOf(dose: Dose | null): DoseValues {
  const to = dose?.to
  const words = (value: number, measure: string): string => `${formatPlain(value, 6)} ${measure}`
  return {
    to: !to
      ? EVERY
      : 'treatment' in to
        ? `treatment:${to.treatment}`
        : to.level === null
          ? `own:${to.factor}`
          : `level:${to.factor}:${to.level}`,
    product: dose ? `own:${dose.product}` : '',
    name: '',
    rate: dose && dose.amount !== null ? typedRate({ ...dose, amount: dose.amount }) : '',
    of: dose?.of ?? 'product',
    placement: dose?.placement ?? 'broadcast',
    carrier: dose?.carrier ? words(dose.carrier.amount, dose.carrier.measure) : '',
    carrierToAll: dose?.carrierToAll ?? false,
    holds: dose?.tank ? words(dose.tank.holds, 'L') : '',
    dead: dose?.tank ? words(dose.tank.dead, 'L') : '',
    depth: dose?.depth ? words(dose.depth, 'cm') : '',
    bandWidth: dose?.band ? words(dose.band.width, 'cm') : '',
    bandSpacing: dose?.band ? words(dose.band.spacing, 'cm') : '',
    parts: (dose?.parts ?? [{ share: 100, when: '', on: null }]).map((part) => ({
      share: formatPlain(part.share, 6),
      when: part.when,
      on: part.on ?? '',
    })),
  }
}

/** As many parts, all alike. */
export function evenly(parts: DoseValues['parts']): DoseValues['parts'] {
  return parts.map((part) => ({ ...part, share: formatPlain(100 / parts.length, 6) }))
}

interface Sources {
  readonly amounts: Parameters<typeof productOf>[0]
  readonly shelf: readonly ShelfItem[]
  readonly taken: ReadonlySet<string>
}

/** The product that is meant, with the key it has or is to have in this trial. */
export function chosenProduct(
  choice: string,
  name: string,
  { amounts, shelf, taken }: Sources,
): { product: Product & { key?: string }; added: boolean } | null {
  // prettier-ignore
  const [from, ...rest] = choice.split(':')
  const of = rest.join(':')
  if (from === 'own') {
    const product = productOf(amounts, of)
    return product ? { product: { ...product, key: of }, added: false } : null
  }
  const item = shelf.find((each) => each.id === of)
  const found =
    from === 'shelf' ? (item?.kind === 'product' ? item.body : undefined) : from === 'usual' ? genericProducts.find((each) => each.product === of) : name.trim() === '' ? undefined : bareProduct(name.trim()) // prettier-ignore
  if (!found) return null
  // The same from the shelf again is the one this trial has already.
  const known = amounts.products?.find((each) => each.product === found.product)
  if (known) return { product: known, added: false }
  return { product: { ...found, key: freeKey(found.product, taken) }, added: true }
}

function freeKey(name: string, taken: ReadonlySet<string>): string {
  const base = name.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^[^a-z]+|-+$/g, '').slice(0, 34) || 'product' // prettier-ignore
  let key = base
  for (let n = 2; taken.has(key); n++) key = `${base}-${n}`
  return key
}

/** What the fields come to, and what is wrong with which. */
export function draftOf(
  values: DoseValues,
  product: string,
  factors: readonly { key: string; measure: string; of: Parameters<typeof nutrientOf>[0]['of'] }[],
  standing: Dose | null,
): { problems: DoseProblems; dose: Omit<Dose, 'key'> | null } {
  // prettier-ignore
  const problems: DoseProblems = {}
  const measured = (field: 'carrier' | 'depth' | 'bandWidth' | 'bandSpacing' | 'holds' | 'dead', unit: string): number | null => {
    const text = values[field].trim()
    if (text === '') return null
    const read = parseQuantity(text, unit)
    if (read.ok) return read.value
    problems[field] = read.problem
    return null
  }
  const [kind, factor, level] = values.to.split(':')
  const own = kind === 'own' ? factors.find((each) => each.key === factor) : undefined
  const rate = own ? { ok: true as const, amount: null, measure: own.measure, per: 'unit' as const } : parseRate(values.rate)
  if (!rate.ok) problems.rate = values.rate.trim() === '' ? 'Say how much.' : rate.problem
  const carried = values.carrier.trim() === '' ? null : parseRate(/[a-z]/i.test(values.carrier) ? values.carrier : `${values.carrier} L/ha`)
  if (carried && !carried.ok) problems.carrier = carried.problem
  const [depth, width, spacing, holds, dead] = [measured('depth', 'cm'), measured('bandWidth', 'cm'), measured('bandSpacing', 'cm'), measured('holds', 'L'), measured('dead', 'L')] // prettier-ignore
  const inBand = placementOf(values.placement as PlacementKey).inBand
  const shares = values.parts.map((part) => Number(part.share.replace(',', '.')))
  if (shares.some((share) => !(share > 0))) problems.parts = 'Each pass needs its share of the whole, in %.'
  if (Object.keys(problems).length > 0 || !rate.ok) return { problems, dose: null }
  return {
    problems,
    dose: {
      to: kind === EVERY ? null : kind === 'treatment' ? { treatment: factor! } : { factor: factor!, level: own ? null : level! },
      product,
      of: values.of as Dose['of'],
      amount: rate.amount,
      measure: rate.measure,
      per: carried?.ok && rate.measure !== carried.measure && carried.per === 'plant' ? 'plant' : rate.per,
      carrier: carried?.ok ? { amount: carried.amount, measure: carried.measure } : null,
      carrierToAll: carried !== null && kind !== EVERY && values.carrierToAll,
      tank: holds === null ? null : { holds, dead: dead ?? 0 },
      placement: values.placement as PlacementKey,
      depth,
      band: inBand && width !== null && spacing !== null ? { width, spacing } : null,
      parts: values.parts.map((part, i) => ({
        share: shares[i]!,
        when: part.when.trim(),
        on: part.on === '' ? null : part.on,
      })),
      reason: standing?.reason ?? '',
      // What comes up by the change is not answered by a reason of before.
      answered: standing?.answered ?? null,
    },
  }
}
