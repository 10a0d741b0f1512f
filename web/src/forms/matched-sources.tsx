import { dosesOf, matchSources, parseRate } from '@canter/core/amounts'
import { convert, figure, sameMeasure } from '@canter/core/quantity'
import { Nutrient, nutrientName, type Trial } from '@canter/core/trial'
import { Select, TextInput } from '@mantine/core'
import { useState } from 'react'
import { usePerson } from '../data/queries.ts'

/** What of each product of a trial makes one rate of a nutrient, half of it and double, and what comes with it. */
export function MatchedSources({ trial }: { trial: Trial }) {
  const { units: system } = usePerson()
  const { treatments, amounts } = trial
  const products = [...(amounts.supply ? [amounts.supply] : []), ...(amounts.products ?? [])]
  const carried = Nutrient.options.filter((each) => products.some((product) => (product.analysis[each] ?? 0) > 0))
  const first = dosesOf(treatments, amounts).find((dose) => Nutrient.safeParse(dose.of).success)
  const [nutrient, setNutrient] = useState<Nutrient>((first?.of as Nutrient | undefined) ?? carried[0] ?? 'N')
  const [typed, setTyped] = useState('40 kg/ha')
  if (carried.length === 0) return null
  const read = parseRate(typed, 'kg/ha')
  const problem = !read.ok ? read.problem : sameMeasure(read.measure, 'kg/ha') ? null : 'A rate by area, as 40 kg/ha.'
  const matched = read.ok && problem === null ? matchSources(products, nutrient, convert(read.amount, read.measure, 'kg/ha')) : []
  return (
    <details style={{ marginTop: 10 }}>
      <summary className="small">Half, whole and double of one rate, from each product</summary>
      <div className="fields" style={{ marginTop: 6 }}>
        <Select
          label="Matched on"
          allowDeselect={false}
          data={carried.map((each) => ({ value: each, label: nutrientName(each) }))}
          value={nutrient}
          onChange={(value) => setNutrient(value as Nutrient)}
        />
        <TextInput label="Whole rate of it" value={typed} error={problem} onChange={(event) => setTyped(event.currentTarget.value)} />
      </div>
      <div style={{ overflowX: 'auto' }}>
        <table className="ruled" data-testid="sources" style={{ marginTop: 8 }}>
          <thead>
            <tr>
              <th>Product</th>
              <th className="number">Half</th>
              <th className="number">Whole</th>
              <th className="number">Double</th>
              <th>With the whole</th>
            </tr>
          </thead>
          <tbody>
            {matched.map(({ product, rates, others }) => (
              <tr key={product.product}>
                <td>{product.product}</td>
                {rates.map((rate) => (
                  <td key={rate.label} className="number">
                    {figure(rate, system)}
                  </td>
                ))}
                <td className="small">
                  {others.length === 0 ? 'nothing else' : others.map((each) => figure(each.rate, system)).join(', ')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  )
}
