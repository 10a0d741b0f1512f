import { over, times, workedBy, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const relativeToControl: Calculation = {
  key: 'relative-to-control',
  name: 'Against the control: percent, efficacy, mortality',
  group: 'comparing',
  about: 'Reduced to, reduced by, and efficacy by counts before and after or by mortality, each corrected for the control.',
  inputs: [
    { key: 'treated', name: 'Treated, after', unit: '', optional: true, example: '14' },
    { key: 'control', name: 'Control, after', unit: '', aboveNought: true, optional: true, example: '62' },
    { key: 'treated-before', name: 'Treated, before', unit: '', aboveNought: true, optional: true, example: '71' },
    { key: 'control-before', name: 'Control, before', unit: '', aboveNought: true, optional: true, example: '58' },
    { key: 'treated-dead', name: 'Dead of the treated', unit: '%', high: 100, optional: true, example: '81' },
    { key: 'control-dead', name: 'Dead of the control', unit: '%', high: 99.999, optional: true, example: '12' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const found: Record<string, Worked> = {}
    const rest = (label: string, of: Worked): Worked => workedSum(label, '%', [{ label: 'All', value: 100, unit: '%' }], [of])
    if (from.has('treated') && from.has('control')) {
      found['reduced-to'] = workedProduct('Reduced to, of the control', '%', [times(from.of('treated')), over(from.of('control'))])
      found['reduced-by'] = rest('Reduced by', found['reduced-to'])
      found['efficacy'] = rest('Efficacy (Abbott)', found['reduced-to'])
      if (from.has('treated-before') && from.has('control-before'))
        found['efficacy-before-after'] = rest('Efficacy (Henderson–Tilton)', workedProduct('Left, for what was there before', '%', [times(from.of('treated')), times(from.of('control-before')), over(from.of('treated-before')), over(from.of('control'))])) // prettier-ignore
    }
    if (from.has('treated-dead') && from.has('control-dead')) {
      const [treated, control] = [from.number('treated-dead'), from.number('control-dead')]
      found['mortality'] = workedBy('Mortality, corrected for the control (Abbott)', (100 * (treated - control)) / (100 - control), '%', `(${treated} − ${control}) ÷ (100 − ${control})`) // prettier-ignore
    }
    if (Object.keys(found).length === 0) throw new RangeError('Give treated and control, as counts or as what died.')
    return found
  },
}
