import { vi } from 'vitest'
import type { Analysis, AnalysisRequest } from '../../src/analysis/index.ts'
import type * as Analyse from '../../src/analysis/analyse.ts'
import type * as Classes from '../../src/analysis/classes.ts'
import { sentencesOf } from '../../src/analysis/claims/text.ts'
import type * as Money from '../../src/decision/sentences.ts'
import type * as Shown from '../../src/analysis/shown-words.ts'
import { faultsIn, faultsOf } from './rules.ts'

function refuse(faults: readonly string[]): void {
  if (faults.length > 0) throw new Error(`What was said cannot stand:\n${faults.join('\n')}`)
}

/** Whatever any test has said is heard: what no sentence may say fails the test that made it say so. */
vi.mock('../../src/analysis/analyse.ts', async (original) => {
  const real = await original<typeof Analyse>()
  return {
    ...real,
    analyse: (request: AnalysisRequest): Analysis => {
      const found = real.analyse(request)
      const share = found.trait.unit === '%'
      refuse([...faultsOf(found), ...sentencesOf(found, 'us').flatMap(({ text, evidence }) => faultsIn(text, { evidence, share }))])
      return found
    },
  }
})

vi.mock('../../src/analysis/classes.ts', async (original) => {
  const real = await original<typeof Classes>()
  const classAnswers: typeof real.classAnswers = (...of) => {
    const said = real.classAnswers(...of)
    refuse(said.flatMap(({ text }) => faultsIn(text)))
    return said
  }
  return { ...real, classAnswers }
})

vi.mock('../../src/analysis/shown-words.ts', async (original) => {
  const real = await original<typeof Shown>()
  const shownAnswers: typeof real.shownAnswers = (...of) => {
    const said = real.shownAnswers(...of)
    refuse(said.flatMap(({ text, evidence }) => faultsIn(text, { evidence })))
    return said
  }
  return { ...real, shownAnswers }
})

vi.mock('../../src/decision/sentences.ts', async (original) => {
  const real = await original<typeof Money>()
  const decisionSentences: typeof real.decisionSentences = (...of) => {
    const said = real.decisionSentences(...of)
    refuse(said.flatMap((text) => faultsIn(text)))
    return said
  }
  return { ...real, decisionSentences }
})
