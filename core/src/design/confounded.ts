import { isCrossing, type Treatment } from '../trial/index.ts'
import { APART, ordersFor } from './constrained.ts'
import type { Design, DesignQuestion, DesignSetting } from './design.ts'
import { shuffled } from './random.ts'
import { commonProblems, inBlocks, letter, marksFor, numberIn, oneError, settingOf, UnitMaker } from './units.ts'

const SIZE: DesignSetting = {
  key: 'blockSize',
  name: 'Units in a block',
  kind: 'choice',
  about: 'Smaller blocks are evener, and give up more interactions.',
  usual: ({ treatments: { list } }) => (list.length > 16 ? '8' : '4'),
  options: ({ treatments: { list } }) => ['4', '8'].filter((each) => Number(each) < list.length).map((value) => ({ value, name: value })),
}

/** Interactions that a message lists. */
const MOST_LISTED = 8

const GIVEN_UP: DesignSetting = {
  key: 'givenUp',
  name: 'What is given up to the blocks',
  kind: 'choice',
  about: 'These interactions are mixed with the differences between blocks and cannot be told from them.',
  usual: (question) =>
    subgroups(question)[0]
      ?.map((effect) => effect.join('×'))
      .join(', ') ?? '',
  options: (question) =>
    subgroups(question).map((effects) => ({
      value: effects.map((effect) => effect.join('×')).join(', '),
      name: effects.map((effect) => effect.map((key) => nameOf(question, key)).join(' × ')).join(', '),
    })),
}

/** Factors of two levels in blocks that take a part of the combinations, an interaction given up to the blocks (F. Yates, The Design and Analysis of Factorial Experiments, 1937). */
export const confounded: Design = {
  key: 'confounded',
  name: 'Crossed factors in small blocks',
  about:
    'Three or more factors of two levels each, in blocks of 4 or 8: a chosen interaction is given up to the differences between blocks, and all else is judged within them.',
  repeat: 'Replicates',
  dealt: 'Combinations put into blocks by the interaction that is given up; blocks and places dealt out by chance.',
  sizes: [],
  everyFactorSized: false,
  settings: [SIZE, GIVEN_UP, APART],

  problems(question) {
    const { treatments, choice } = question
    const found = commonProblems(question, treatments.list.length * choice.replicates)
    if (found.length > 0) return found
    const { factors } = treatments
    if (factors.length < 3 || factors.length > 6) return ['It needs three to six things that are varied, each at two levels.']
    const odd = factors.find((factor) => factor.levels.length !== 2)
    if (odd)
      return [`${odd.name} has ${odd.levels.length} levels: each factor needs exactly two. Take a split-plot or small blocks instead.`]
    if (!isCrossing(treatments)) return ['It needs every combination of the levels, and nothing outside them.']
    if (!SIZE.options!(question).some((each) => each.value === String(settingOf(question, SIZE))))
      return [
        `Blocks take ${SIZE.options!(question)
          .map((each) => each.value)
          .join(' or ')} units here.`,
      ]
    if (!chosen(question)) {
      const options = GIVEN_UP.options!(question)
      return [
        `Choose which interaction is given up to the blocks: ${options
          .slice(0, MOST_LISTED)
          .map((each) => each.name)
          .join('; ')}${options.length > MOST_LISTED ? '; …' : ''}.`,
      ]
    }
    return errorDf(question) < 0 ? ['Take more replicates.'] : []
  },

  figures: (question) =>
    oneError(
      question,
      question.treatments.list.map(() => question.choice.replicates),
      errorDf(question),
      null,
    ),

  deal(request) {
    const { treatments, choice, chance } = request
    const effects = chosen(request)!
    const make = new UnitMaker(request)
    const site = make.site(request.siteName)
    const marks = marksFor(treatments)
    const parts = new Map<string, Treatment[]>()
    for (const treatment of treatments.list) {
      const signs = effects.map((effect) => sign(treatment, effect, request)).join('')
      parts.set(signs, [...(parts.get(signs) ?? []), treatment])
    }
    const orders = ordersFor<Treatment>(
      request,
      [
        ['replicate', choice.replicates],
        ['block', parts.size],
      ],
      treatments.list.length / parts.size,
    )
    for (let r = 1; r <= choice.replicates; r++) {
      const replicate = make.group('replicate', String(r), [site], { in: site.id, column: r - 1, row: null })
      let position = 0
      shuffled([...parts.values()], chance).forEach((members, b) => {
        const block = make.group('block', `${r}${letter(b + 1)}`, [replicate], { in: replicate.id, column: b, row: null })
        orders
          .next(members, r === 1 && b === 0)
          .forEach((treatment, i) =>
            make.treated(
              numberIn(r, ++position, treatments.list.length),
              [block],
              { in: block.id, column: i, row: null },
              marks(treatment),
            ),
          )
      })
    }
    return {
      structure: inBlocks(request, orders.how, true),
      units: make.units,
    }
  },
}

type Effect = readonly string[]

/** Sets of interactions that go together and leave blocks of the size asked for, those that give up least first: the highest orders. */
function subgroups(question: DesignQuestion): Effect[][] {
  const { factors, list } = question.treatments
  const size = Number(settingOf(question, SIZE))
  const generators = Math.round(Math.log2(list.length / size))
  if (factors.length > 6 || generators < 1) return []
  const keys = factors.map((factor) => factor.key)
  const interactions = [...Array(2 ** keys.length).keys()].filter((bits) => ones(bits) > 1)
  const found = new Map<string, number[]>()
  const grow = (group: readonly number[], from: number, left: number): void => {
    if (left === 0) {
      const own = [...group].sort((a, b) => ones(b) - ones(a) || a - b)
      found.set([...own].sort((a, b) => a - b).join(), own)
      return
    }
    for (let i = from; i < interactions.length; i++) {
      const bits = interactions[i]!
      if (group.includes(bits)) continue
      const made = [...group, bits, ...group.map((each) => each ^ bits)]
      if (made.every((each) => ones(each) > 1)) grow(made, i + 1, left - 1)
    }
  }
  grow([], 0, generators)
  const least = (group: readonly number[]): number => Math.min(...group.map(ones))
  const sum = (group: readonly number[]): number => group.reduce((total, each) => total + ones(each), 0)
  return [...found.values()]
    .sort((a, b) => least(b) - least(a) || sum(b) - sum(a) || a[0]! - b[0]!)
    .slice(0, 40)
    .map((group) => group.map((bits) => keys.filter((_, i) => (bits >> i) & 1)))
}

function ones(bits: number): number {
  return bits.toString(2).replaceAll('0', '').length
}

/** Interactions as somebody may write them, by keys or names: in whatever order, with blanks or none. */
function inOneOrder(text: string): string {
  const sorted = (parts: readonly string[]): string[] => parts.map((each) => each.trim().toLowerCase()).sort()
  return sorted(text.split(',').map((effect) => sorted(effect.split('×')).join('×'))).join()
}

function chosen(question: DesignQuestion): Effect[] | undefined {
  const told = inOneOrder(String(settingOf(question, GIVEN_UP)))
  const found = GIVEN_UP.options!(question).findIndex(({ value, name }) => inOneOrder(value) === told || inOneOrder(name) === told)
  return subgroups(question)[found]
}

/** On which side of an interaction a combination lies. */
function sign(treatment: Treatment, effect: Effect, { treatments: { factors } }: DesignQuestion): '+' | '-' {
  const high = effect.filter((key) => factors.find((factor) => factor.key === key)!.levels[1]!.key === treatment.levels[key]).length
  return high % 2 === 0 ? '+' : '-'
}

function errorDf(question: DesignQuestion): number {
  const { treatments, choice } = question
  const blocks = choice.replicates * (treatments.list.length / Number(settingOf(question, SIZE)))
  const givenUp = chosen(question)?.length ?? 0
  return treatments.list.length * choice.replicates - blocks - (treatments.list.length - 1 - givenUp)
}

function nameOf({ treatments: { factors } }: DesignQuestion, key: string): string {
  return factors.find((factor) => factor.key === key)?.name ?? key
}
