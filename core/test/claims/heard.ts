import { vi } from 'vitest'
import type { Analysis, AnalysisRequest } from '../../src/analysis/index.ts'
import type * as Analyse from '../../src/analysis/analyse.ts'
import type * as Classes from '../../src/analysis/classes.ts'
import { sentencesOf } from '../../src/analysis/claims/text.ts'
import type * as Findings from '../../src/analysis/findings.ts'
import type * as Limits from '../../src/analysis/within-limits.ts'
import type * as Ranking from '../../src/decision/ranking.ts'
import type * as Schools from '../../src/analysis/schools.ts'
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

vi.mock('../../src/analysis/within-limits.ts', async (original) => {
  const real = await original<typeof Limits>()
  const withinLimits: typeof real.withinLimits = (...of) => {
    const said = real.withinLimits(...of)
    refuse(said ? faultsIn(said.text, said) : [])
    return said
  }
  return { ...real, withinLimits }
})

vi.mock('../../src/analysis/findings.ts', async (original) => {
  const real = await original<typeof Findings>()
  const findings: typeof real.findings = (...of) => {
    const said = real.findings(...of)
    refuse(said.flatMap((text) => faultsIn(text)))
    return said
  }
  return { ...real, findings }
})

vi.mock('../../src/analysis/schools.ts', async (original) => {
  const real = await original<typeof Schools>()
  const otherSchools: typeof real.otherSchools = (...of) => {
    const said = real.otherSchools(...of)
    refuse(said.flatMap(({ sentence }) => faultsIn(sentence)))
    return said
  }
  return { ...real, otherSchools }
})

vi.mock('../../src/decision/ranking.ts', async (original) => {
  const real = await original<typeof Ranking>()
  const rankingSentence: typeof real.rankingSentence = (...of) => {
    const said = real.rankingSentence(...of)
    refuse(said === null ? [] : faultsIn(said))
    return said
  }
  return { ...real, rankingSentence }
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
