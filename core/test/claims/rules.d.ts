import type { Analysis } from '../../src/analysis/index.ts'
/** What no sentence may say, wherever a test has it made; in words, empty where nothing is wrong. */
export declare function faultsIn(
  text: string,
  {
    evidence,
    share,
  }?: {
    evidence?: string
    share?: boolean
  },
): string[]
/** Faults in all that an analysis says. */
export declare function faultsOf({ sentences, cautions, trait, claims }: Analysis): string[]
