import { over, times, timesRest, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { moistureOf } from './moisture-inputs.ts'

export const nitrogenRemoved: Calculation = {
  key: 'nitrogen-removed',
  name: 'Nitrogen in the crop, and what was recovered',
  group: 'nutrients',
  about:
    'Nitrogen carried off with grain by its protein; of what was given, the part that was found again; and yield for each kilogram given.',
  inputs: [
    { key: 'yield', name: 'Yield', unit: 't/ha', example: '6.8' },
    { key: 'protein', name: 'Protein', unit: '%', high: 100, example: '11.2' },
    { key: 'factor', name: 'Protein for one part of nitrogen', unit: '', aboveNought: true, usual: 6.25, example: '5.7' },
    { key: 'control-yield', name: 'Yield of the control', unit: 't/ha', optional: true, example: '4.1' },
    { key: 'control-protein', name: 'Protein of the control', unit: '%', high: 100, optional: true, example: '9.6' },
    { key: 'rate', name: 'Nitrogen given', unit: 'kg/ha', aboveNought: true, optional: true, example: '110' },
    { ...moistureOf, optional: true },
  ],
  cautions: ['Yield and protein must be of the same moisture.'],
  applies: false,
  work: (from) => {
    const protein = workedProduct('Protein', 'kg/ha', [times(from.of('yield')), times(from.of('protein'))])
    const nitrogen = workedProduct('Nitrogen carried off', 'kg/ha', [times(protein), over(from.of('factor'))], 'N')
    const found: Record<string, Worked> = { protein, nitrogen }
    if (from.has('control-yield') && from.has('control-protein'))
      found['control'] = workedProduct('Nitrogen carried off by the control', 'kg/ha', [times(from.of('control-yield')), times(from.of('control-protein')), over(from.of('factor'))], 'N') // prettier-ignore
    if (found['control'] && from.has('rate')) {
      found['recovery'] = workedProduct('Of what was given, found again', '%', [times(workedSum('More than the control', 'kg/ha', [nitrogen], [found['control']])), over(from.of('rate'))]) // prettier-ignore
      found['efficiency'] = workedProduct('Yield for each kilogram of nitrogen given, kg', '', [times(workedSum('More yield than the control', 'kg/ha', [from.of('yield')], [from.of('control-yield')])), over(from.of('rate'))]) // prettier-ignore
    }
    if (from.has('moisture')) found['protein-dry'] = workedProduct('Protein of the dry matter', '%', [times(from.of('protein')), over(workedProduct('Dry matter', '', [timesRest(from.of('moisture'))]))]) // prettier-ignore
    return found
  },
}
