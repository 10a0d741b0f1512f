import { benjaminiHochberg } from './benjamini-hochberg.ts'
import { bonferroni } from './bonferroni.ts'
import type { ComparisonMethod } from './comparison.ts'
import { dunnett } from './dunnett.ts'
import { holm } from './holm.ts'
import { lsd } from './lsd.ts'
import { scheffe } from './scheffe.ts'
import { sidak } from './sidak.ts'
import { studentNewmanKeuls } from './student-newman-keuls.ts'
import { tukey } from './tukey.ts'

/** All ways of comparing means, in the order they are offered; adding one is its file and a line here. */
export const comparisonMethods: readonly ComparisonMethod[] = [
  dunnett,
  tukey,
  lsd,
  holm,
  bonferroni,
  sidak,
  benjaminiHochberg,
  studentNewmanKeuls,
  scheffe,
]

/** The method of this key. Throws RangeError when there is none. */
export function comparisonMethod(key: string): ComparisonMethod {
  const found = comparisonMethods.find((each) => each.key === key)
  if (!found) throw new RangeError(`No method of comparison “${key}”; known: ${comparisonMethods.map((each) => each.key).join(', ')}`)
  return found
}
