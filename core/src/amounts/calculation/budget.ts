import { over, times, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const budget: Calculation = {
  key: 'budget',
  name: 'Partial budget of two treatments',
  group: 'comparing',
  about: 'Net return of one treatment against another, what each unit of money more brings, and the response or price that just pays.',
  inputs: [
    { key: 'yield', name: 'Yield', unit: 't/ha', example: '6.9' },
    { key: 'base-yield', name: 'Yield it is held against', unit: 't/ha', example: '5.8' },
    { key: 'price', name: 'Price', unit: 'money/t', example: '210' },
    { key: 'cost', name: 'Costs that vary', unit: 'money/ha', example: '148' },
    { key: 'base-cost', name: 'The same of what it is held against', unit: 'money/ha', example: '62' },
    { key: 'premium', name: 'Premium on all of its yield', unit: 'money/t', usual: 0, example: '12' },
    { key: 'handling', name: 'Handling of each tonne more', unit: 'money/t', usual: 0, example: '9.5' },
  ],
  cautions: ['By the prices given, and by means that may differ by chance: the interval of the difference says how far they go.'],
  applies: false,
  work: (from) => {
    const net = (label: string, of: string, cost: string, price: Worked): Worked =>
      workedSum(label, 'money/ha', [workedProduct(`Gross return, ${label.toLowerCase()}`, 'money/ha', [times(from.of(of)), times(price)])], [from.of(cost)]) // prettier-ignore
    const own = net('Net return', 'yield', 'cost', from.of('price'))
    const base = net('Net return of what it is held against', 'base-yield', 'base-cost', from.of('price'))
    const more = workedSum('More net return', 'money/ha', [own], [base])
    const dearer = workedSum('More cost', 'money/ha', [from.of('cost')], [from.of('base-cost')])
    const full = workedSum('Price with premium', 'money/t', [from.of('price'), from.of('premium')])
    const withPremium = net('Net return with premium', 'yield', 'cost', full)
    const morePremium = workedSum('More net return with premium', 'money/ha', [withPremium], [base])
    const response = workedSum('More yield', 't/ha', [from.of('yield')], [from.of('base-yield')])
    const onBase = workedProduct('Premium on the yield it is held against', 'money/ha', [
      times(from.of('base-yield')),
      times(from.of('premium')),
    ])
    const found: Record<string, Worked> = {
      net: own,
      'base-net': base,
      'more-net': more,
      'more-cost': dearer,
      'net-with-premium': withPremium,
      'more-net-with-premium': morePremium,
      'break-even-response': workedProduct('Response that just pays', 't/ha', [times(dearer), over(workedSum('Price less handling', 'money/t', [from.of('price')], [from.of('handling')]))]), // prettier-ignore
      'break-even-response-with-premium': workedProduct('Response that just pays, with premium', 't/ha', [times(workedSum('More cost less premium', 'money/ha', [dearer], [onBase])), over(full)]), // prettier-ignore
    }
    if (response.value !== 0)
      found['break-even-price'] = workedProduct('Price at which it just pays', 'money/t', [times(dearer), over(response)])
    if (dearer.value !== 0) {
      const gross = workedProduct('More gross return', 'money/ha', [times(response), times(from.of('price'))])
      found['rate-of-return'] = workedProduct('Marginal rate of return', '%', [times(more), over(dearer)])
      found['rate-of-return-with-premium'] = workedProduct('Marginal rate of return with premium', '%', [times(morePremium), over(dearer)])
      found['benefit-cost'] = workedProduct('More gross return for each unit more of cost', '', [times(gross), over(dearer)])
    }
    return found
  },
}
