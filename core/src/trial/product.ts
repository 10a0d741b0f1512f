import { z } from 'zod'
import { isUnit, sameMeasure } from '../quantity/index.ts'
import { Nutrient } from './nutrient.ts'
import { day, key, line, optionalText, words } from './text.ts'

/** What a product is like in the hand: how it is put on, and when it goes into a tank. */
interface ProductForm {
  readonly name: string
  /** Goes into a tank in this order; null: not into a tank. The order of the label holds where it says another. */
  readonly mixed: number | null
  readonly settles?: true
  /** Poured by volume, not weighed. */
  readonly poured?: true
  /** Spreads what it is given with: an arm without it misses it. */
  readonly wets?: true
}

/** All forms, in the order they are offered; adding one is a line here. */
const FORMS = {
  granules: { name: 'Granules', mixed: null },
  powder: { name: 'Powder that is spread dry', mixed: null },
  'wettable powder': { name: 'Powder that is stirred into water', mixed: 1, settles: true },
  'soluble salt': { name: 'Salt that dissolves', mixed: 2 },
  suspension: { name: 'Suspension', mixed: 3, settles: true, poured: true },
  solution: { name: 'Solution', mixed: 4, poured: true },
  emulsion: { name: 'Oil that mixes as an emulsion', mixed: 5, poured: true },
  wetter: { name: 'Wetter or oil put in with another', mixed: 6, wets: true, poured: true },
  seed: { name: 'Seed', mixed: null },
  living: { name: 'Living inoculant', mixed: 7, settles: true },
  water: { name: 'Water', mixed: 0, poured: true },
} as const satisfies Record<string, ProductForm>

const FormKey = z.enum(Object.keys(FORMS) as (keyof typeof FORMS)[])
export type FormKey = z.infer<typeof FormKey>
export const productForms = FormKey.options.map((each) => ({ key: each, name: FORMS[each].name }))

export function formOf(product: Pick<Product, 'form'>): ProductForm | null {
  return product.form ? FORMS[product.form] : null
}

/** Kinds of product that carry over to what is treated next: between two of them everything is cleaned. */
const HYGIENE = {
  inoculant: 'living inoculant',
  'growth regulator': 'growth regulator',
  herbicide: 'herbicide',
  repellent: 'repellent',
  pesticide: 'other plant protection',
} as const

const HygieneClass = z.enum(Object.keys(HYGIENE) as (keyof typeof HYGIENE)[])
export type HygieneClass = z.infer<typeof HygieneClass>
export const hygieneClasses = HygieneClass.options.map((each) => ({ key: each, name: HYGIENE[each] }))

const measureLike = (...like: string[]) =>
  z
    .string()
    .refine((text) => isUnit(text) && like.some((each) => sameMeasure(text, each)), `A measure such as ${like.filter(Boolean).join(', ')}.`)

/** What a product is, and what its label says. What is not stated is null, and is never filled in. */
export const Product = z
  .object({
    product: line('Product', 120),
    form: FormKey.nullish(),
    /** Share of each nutrient in the product, %, in elements. */
    analysis: z.partialRecord(Nutrient, z.number().min(0).max(100, 'An analysis is at most 100 %.')),
    /** Whether those shares are of the weight, or grams in 100 mL. */
    analysisBy: z.enum(['weight', 'volume']).nullish(),
    /** kg/L, of a liquid; none where it is weighed. */
    density: z.number().positive('A density is above nought.').max(5, 'A density is at most 5 kg/L.').nullish(),
    active: z
      .object({
        name: line('Active ingredient', 120),
        content: z.number().positive('A content is above nought.').nullable(),
        measure: measureLike('%', 'g/L'),
      })
      .nullish(),
    /** Of a living product: how many in a gram, how cool it is kept, until when it is good, and how long once opened. */
    live: z
      .object({
        perGram: z.number().positive().nullable(),
        keepBelow: z.number().min(-30).max(60).nullable(),
        useBy: day.nullable(),
        openHours: z.number().positive().max(10000).nullable(),
      })
      .nullish(),
    /** Of seed: mg a kernel, and the share that germinates, %. */
    seed: z
      .object({
        kernelWeight: z.number().positive().max(1e6).nullable(),
        germination: z.number().positive().max(100, 'At most 100 %.').nullable(),
      })
      .nullish(),
    price: z.object({ amount: z.number().min(0, 'A price is never below zero.').max(1e9), per: z.enum(['kg', 'L']) }).nullish(),
    /** What the label states its maxima in. */
    labelMeasure: z.enum(['kg/ha', 'L/ha']).nullish(),
    labelMaximumPerApplication: z.number().positive().nullable(),
    labelMaximumPerSeason: z.number().positive().nullable(),
    /** Hours before people may go back in; days before harvest. */
    reentryHours: z.number().min(0).max(10000).nullable(),
    preHarvestDays: z.number().min(0).max(1000).nullable(),
    protection: optionalText('Protective equipment', 500),
    /** When it must not be put on: “not on seedlings”. */
    notAt: words().max(300, 'At most 300 characters.').nullish(),
    /** What salt, scorch or poisoning to mind. */
    harm: words().max(500, 'At most 500 characters.').nullish(),
    /** mg/L of the active ingredient, or of a product that states none, above which it harms the crop. */
    harmAbove: z.number().positive().nullish(),
    hygiene: HygieneClass.nullish(),
    /** For how many seasons one rate is meant. */
    seasons: z.number().int().min(1).max(50).nullish(),
  })
  .meta({ id: 'Product' })
export type Product = z.infer<typeof Product>

/** A product as a trial has it: what it was when it was taken, whatever is said on the shelf since. */
export const TrialProduct = Product.extend({ key })
export type TrialProduct = z.infer<typeof TrialProduct>

/** A product of which nothing is known but its name. */
export function bareProduct(product: string): Product {
  return {
    product,
    analysis: {},
    labelMaximumPerApplication: null,
    labelMaximumPerSeason: null,
    reentryHours: null,
    preHarvestDays: null,
    protection: '',
  }
}

/** Fields of a product, as they are told. */
const FIELDS: Readonly<Record<keyof Product, string>> = {
  product: 'name',
  form: 'form',
  analysis: 'analysis',
  analysisBy: 'what the analysis is of',
  density: 'density',
  active: 'active ingredient',
  live: 'what is alive in it',
  seed: 'kernels',
  price: 'price',
  labelMeasure: 'what maxima are in',
  labelMaximumPerApplication: 'maximum for one application',
  labelMaximumPerSeason: 'maximum for the season',
  reentryHours: 'when people may go back in',
  preHarvestDays: 'days before harvest',
  protection: 'what to wear',
  notAt: 'when it is not put on',
  harm: 'salt and scorch',
  harmAbove: 'what harms the crop',
  hygiene: 'what carries over',
  seasons: 'for how many seasons',
}

/** What of a product is said otherwise by another, in words; what nobody has stated is the same as nothing. */
export function changedFields(own: Product, other: Product): string[] {
  const told = (value: unknown): string => (value === undefined || value === null || value === '' ? '' : JSON.stringify(value))
  return (Object.keys(FIELDS) as (keyof Product)[]).filter((key) => told(own[key]) !== told(other[key])).map((key) => FIELDS[key])
}
