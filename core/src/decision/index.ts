export { decide, priceOnScale, type Decision, type DecisionOutcome, type LevelReturn } from './returns.ts'
export { decisionSentences, oddsInWords } from './sentences.ts'
