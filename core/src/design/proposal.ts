import { isCrossing, type DesignChoice } from '../trial/index.ts'
import { counted, plural } from '../quantity/index.ts'
import type { Design, DesignQuestion } from './design.ts'
import { augmented } from './augmented.ts'
import { alphaLattice } from './alpha-lattice.ts'
import { completelyRandomised } from './completely-randomised.ts'
import { confounded } from './confounded.ts'
import { incompleteLatinSquare } from './incomplete-latin-square.ts'
import { latinSquare } from './latin-square.ts'
import { partiallyReplicated } from './partially-replicated.ts'
import { randomisedBlock } from './randomised-block.ts'
import { rowColumn } from './row-column.ts'
import { splitPlot } from './split-plot.ts'

/** What a person can say of ground and seed without knowing any design. */
export interface GroundAnswers {
  /** Key of the factor that cannot be changed from plot to plot: water, tillage, a date; null: all can. */
  readonly hard: string | null
  /** Ways in which the ground, or the light on a bench, changes: 0 even, 1 along one line, 2 both ways. */
  readonly ways: 0 | 1 | 2
  /** How many units lie on ground that is even; null: not said. */
  readonly even: number | null
  /** Whether there is seed for one plot only of most entries. */
  readonly single: boolean
}

export interface Proposal {
  readonly design: Design
  /** What the design is told. */
  readonly choice: DesignChoice
  /** Why this one, as a sentence. */
  readonly why: string
}

/** Above this many without a word about the ground, one block is taken not to lie on even ground. */
const MANY = 16

/** The first design that suits what was said and can be laid out as things stand; null when none can. */
export function proposeDesign(question: DesignQuestion, answers: GroundAnswers): Proposal | null {
  for (const { design, why, choice } of candidates(question, answers)) {
    const told: DesignChoice = { ...question.choice, placed: {}, settings: {}, ...choice, key: design.key }
    if (design.problems({ treatments: question.treatments, choice: told }).length === 0) return { design, choice: told, why }
  }
  return null
}

interface Candidate {
  readonly design: Design
  readonly why: string
  readonly choice?: Partial<DesignChoice>
}

function candidates({ treatments, choice }: DesignQuestion, { hard, ways, even, single }: GroundAnswers): Candidate[] {
  const { list, factors } = treatments
  const t = list.length
  const units = plural(choice.unit)
  const found: Candidate[] = []
  if (single) {
    const words = 'there is seed for one plot only of most entries'
    found.push({ design: augmented, why: `Because ${words}, and checks that stand in every block tell how good the ground is.` })
    found.push({ design: partiallyReplicated, why: `Because ${words}: those with seed for two stand twice and give the error.` })
  }
  const factor = factors.find((each) => each.key === hard)
  if (factor && factors.length > 1)
    found.push({
      design: splitPlot,
      why: `Because ${factor.name.toLowerCase()} cannot be changed from ${choice.unit} to ${choice.unit}: it goes on main plots, the rest inside them.`,
      choice: { placed: { 'main plot': [factor.key] } },
    })
  if (t > (even ?? MANY)) {
    const room = even ?? Math.round(Math.sqrt(t))
    const words =
      even === null
        ? `a block of ${counted(t, choice.unit)} is seldom even`
        : `${counted(t, 'treatment')} do not lie on ${counted(even, 'even ' + choice.unit)}`
    if (ways === 2)
      found.push({ design: rowColumn, why: `Because ${words} and the ground changes both ways: rows and columns are both taken out.` })
    if (isCrossing(treatments) && factors.length > 2)
      found.push({
        design: confounded,
        why: `Because ${words}: the highest interaction is given up to the blocks, and all else is judged within them.`,
        choice: { settings: { blockSize: room >= 8 && t > 8 ? '8' : '4' } },
      })
    const size = sizeWithin(t, Math.max(2, room))
    found.push({
      design: alphaLattice,
      why: `Because ${words}: each replicate is broken into blocks of ${size}.`,
      choice: { settings: { blockSize: size } },
    })
  }
  if (ways === 2) {
    const words = `the ground changes both ways, and ${counted(t, 'treatment')} fit a square`
    if (choice.replicates >= t) found.push({ design: latinSquare, why: `Because ${words}.`, choice: { replicates: 1 } })
    found.push({
      design: incompleteLatinSquare,
      why: `Because the ground changes both ways, and ${counted(choice.replicates, 'row')} are enough.`,
    })
  }
  if (ways === 0 && even !== null && even >= t * choice.replicates)
    found.push({
      design: completelyRandomised,
      why: `Because all ${counted(t * choice.replicates, choice.unit)} lie on even ground: nothing need be taken out.`,
    })
  found.push({
    design: randomisedBlock,
    why:
      ways === 0
        ? 'Because blocks cost little and keep a change in the day or the crew out of the comparisons.'
        : `Because ${counted(t, choice.unit)} can lie side by side on ground that is even: every block holds all treatments, and differences between ${plural('block')} of ${units} are taken out.`,
  })
  return found
}

/** The largest size of block that is not above the room and divides the entries; else the room. */
function sizeWithin(entries: number, room: number): number {
  const most = Math.min(room, Math.floor(entries / 2))
  for (let size = most; size > Math.max(1, most / 2); size--) if (entries % size === 0) return size
  return Math.max(2, most)
}
