import { z } from 'zod'
import { key, line } from './text.ts'

const treatmentKeys = z.array(key).min(1, 'Each side of a comparison needs a treatment.').max(500)

/** What a planned comparison sets against what; which coefficient each treatment has follows from it. */
const ComparisonOf = z.discriminatedUnion('kind', [
  /** The mean of one set of treatments less the mean of another. */
  z.object({ kind: z.literal('sides'), plus: treatmentKeys, minus: treatmentKeys }),
  /** How the means over a factor's amounts rise (degree 1) and bend (degree 2), averaged over all else that is crossed with it. */
  z.object({ kind: z.literal('trend'), factor: key, degree: z.union([z.literal(1), z.literal(2)]) }),
])
export type ComparisonOf = z.infer<typeof ComparisonOf>

/** A comparison that was planned in words, and is told first. */
export const PlannedComparison = z
  .object({
    key,
    /** In the words of the trial: “no nitrogen against all others”. */
    name: line('Comparison', 200),
    of: ComparisonOf,
    /** It was added or changed when there were readings already. */
    late: z.boolean().default(false),
  })
  .meta({ id: 'PlannedComparison' })
export type PlannedComparison = z.infer<typeof PlannedComparison>
