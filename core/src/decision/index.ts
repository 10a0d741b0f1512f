export { costedProducts, costsOf, priceOf } from './costs.ts'
export {
  decide,
  decisionInputs,
  notStated,
  priceOnScale,
  type Decision,
  type DecisionInput,
  type DecisionOutcome,
  type TreatmentReturn,
} from './returns.ts'
export { rankAtSites, rankedIn, rankingSentence, siteInSeason, type Ranked, type SiteRanking } from './ranking.ts'
export { decisionSentences, oddsInWords } from './sentences.ts'
