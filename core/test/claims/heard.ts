import { vi } from 'vitest'
import type { Analysis, AnalysisRequest } from '../../src/analysis/index.ts'
import type * as Analyse from '../../src/analysis/analyse.ts'
import { sentencesOf } from '../../src/analysis/claims/text.ts'
import { faultsIn, faultsOf } from './rules.ts'

/** Every answer that any test has worked out is heard: what no sentence may say fails the test that made it say so. */
vi.mock('../../src/analysis/analyse.ts', async (original) => {
  const real = await original<typeof Analyse>()
  return {
    ...real,
    analyse: (request: AnalysisRequest): Analysis => {
      const found = real.analyse(request)
      const share = found.trait.unit === '%'
      const customary = sentencesOf(found, 'us').flatMap(({ text, evidence }) => faultsIn(text, { evidence, share }))
      const faults = [...faultsOf(found), ...customary]
      if (faults.length > 0) throw new Error(`What was said cannot stand:\n${faults.join('\n')}`)
      return found
    },
  }
})
