import { counted } from '../quantity/index.ts'
import type { Stage } from '../trial/index.ts'

/** The one thing a trial needs next, in words. */
export function nextAct({ stage, conflicts, left, unlaid }: { stage: Stage; conflicts: number; left: number; unlaid: number }): string {
  if (conflicts > 0) return `${counted(conflicts, 'value')} entered twice: choose which holds`
  if (stage !== 'question' && unlaid > 0) return `Lay out ${counted(unlaid, 'more site')}`
  switch (stage) {
    case 'question':
      return 'Lay the plots on the ground'
    case 'laid out':
      return 'Check the amounts, then mark it planted'
    case 'planted':
      return 'Walk the plots and measure'
    case 'measuring':
      return `${counted(left, 'reading')} still to take`
    case 'measured':
      return 'Read the results and decide'
  }
}
