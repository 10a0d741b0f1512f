import { given, over, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation, CalculationInput } from './calculation.ts'
import { DECLARED } from './nutrients.ts'

/** What a bag says of its contents, in % by weight. */
const analysisInputs: readonly CalculationInput[] = DECLARED.map((key) => ({ key, name: `${key} in the product`, unit: '%', high: 100, optional: true, example: key === 'N' ? '27' : '0' })) // prettier-ignore

export const fertiliser: Calculation = {
  key: 'fertiliser',
  name: 'Fertilizer from a rate of a nutrient',
  group: 'nutrients',
  about: 'The product that carries a rate of one nutrient, what a plot needs of it, and what else comes with it.',
  inputs: [
    { key: 'target', name: 'Rate of the nutrient', unit: 'kg/ha', example: '120' },
    { key: 'of', name: 'Nutrient', unit: '', kind: 'choice', choices: DECLARED, example: 'N' },
    { key: 'area', from: 'plot area', name: 'Area of a plot', unit: 'm²', aboveNought: true, example: '18' },
    ...analysisInputs,
  ],
  cautions: ['High rates can scorch leaves and seedlings and bring salt near the seed.'],
  applies: true,
  work: (from) => {
    const nutrient = from.text('of')
    if (!from.has(nutrient) || from.number(nutrient) === 0) throw new RangeError(`The product has no ${nutrient}: type its share, or match on another nutrient.`) // prettier-ignore
    const product = workedProduct('Product', 'kg/ha', [times({ ...from.of('target'), of: nutrient }), over(from.of(nutrient))])
    const supplied = DECLARED.filter((each) => from.has(each)).map((each): [string, Worked] => [
      `supplied-${each}`,
      workedProduct(`${each} that comes with it`, 'kg/ha', [times(product), times(from.of(each))], each),
    ])
    return {
      product,
      'per-plot': workedProduct('Product for a plot', 'g', [times(product), times(from.of('area'))]),
      'per-square-metre': workedProduct('Product for a square metre', 'g/m²', [
        times(product),
        times(given('As grams on a square metre', 1, '')),
      ]),
      ...Object.fromEntries(supplied),
    }
  },
}
