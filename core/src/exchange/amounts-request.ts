import { z } from 'zod'
import { FileError, readJson } from './table.ts'

const REQUEST_VERSION = 1

/** What is to be worked out, from a file: calculations by their keys, with figures as one would type them. */
export const AmountsRequestFile = z.strictObject({
  canterAmounts: z.literal(REQUEST_VERSION, { error: `“canterAmounts” must be ${REQUEST_VERSION}, the version this Canter reads.` }),
  /** Of figures without a measure. */
  units: z.enum(['metric', 'us']).default('metric'),
  items: z
    .array(
      z.strictObject({
        calculation: z.string(),
        title: z.string().max(120).optional(),
        given: z.record(z.string(), z.union([z.string().max(4000), z.number(), z.array(z.number()).max(400)])),
      }),
    )
    .min(1, 'There is nothing to work out in it.')
    .max(500),
})
export type AmountsRequestFile = z.infer<typeof AmountsRequestFile>

/** Reads a request. Throws FileError naming the field that is wrong. */
export function readAmountsRequest(file: string, text: string): AmountsRequestFile {
  const parsed = AmountsRequestFile.safeParse(readJson(file, text))
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new FileError(file, `${issue.path.join('.') || 'the request'}: ${issue.message}`)
}
