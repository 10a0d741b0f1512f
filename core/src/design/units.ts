import {
  marksOf,
  type DesignChoice,
  type Factor,
  type Level,
  type Structure,
  type Treatment,
  type Treatments,
  type Unit,
  type UnitKind,
} from '../trial/index.ts'
import type { DesignFigures, DesignQuestion, DesignRequest, DesignSetting, SettingValue } from './design.ts'

/** Most units that are treated at one site. */
const MOST = 6000

/** Makes units one after another, in the order they are numbered. */
export class UnitMaker {
  readonly units: Unit[] = []
  readonly #newId: () => string
  readonly #choice: DesignChoice
  readonly #prefix: string

  constructor({ newId, choice, prefix }: { newId: () => string; choice: DesignChoice; prefix: string }) {
    this.#newId = newId
    this.#choice = choice
    this.#prefix = prefix
  }

  site(name: string): Unit {
    return this.#add('site', name.slice(0, 20), [], null, {})
  }

  /** A unit that holds others, and what is put on it as a whole. */
  group(kind: UnitKind, code: string, within: readonly Unit[], at: Unit['at'], marks: Record<string, string> = {}): Unit {
    return this.#add(kind, this.#prefix + code, within, at, marks)
  }

  /** A unit that is treated, with the plants in it that are observed one by one. */
  treated(code: string, within: readonly Unit[], at: Unit['at'], marks: Record<string, string>): Unit {
    const unit = this.#add(this.#choice.unit, this.#prefix + code, within, at, marks)
    for (let n = 0; n < this.#choice.plants; n++)
      this.#add('plant', `${unit.code}.${n + 1}`, [unit], { in: unit.id, column: n, row: null }, {})
    return unit
  }

  #add(kind: UnitKind, code: string, within: readonly Unit[], at: Unit['at'], marks: Record<string, string>): Unit {
    const unit: Unit = {
      id: this.#newId(),
      kind,
      code,
      in: within.map((each) => each.id),
      at,
      planned: marks,
      received: { ...marks },
      changes: {},
      place: null,
      walk: null,
    }
    this.units.push(unit)
    return unit
  }
}

/** Block and position: 203 is position 3 of block 2; a third digit of position comes with 100 in a block. */
export function numberIn(block: number, position: number, of: number): string {
  return `${block}${String(position).padStart(of > 99 ? 3 : 2, '0')}`
}

/** Kinds of the treated unit, and of the plants in it. */
export function kindsWith({ unit, plants }: DesignChoice, within: readonly UnitKind[]) {
  return [{ kind: unit, in: [...within] }, ...(plants > 0 ? [{ kind: 'plant' as const, in: [unit] }] : [])]
}

export function controlsOf({ list, factors }: Treatments) {
  const control = list.find((each) => each.role === 'untreated control')
  return factors.flatMap((factor) => {
    const level = control?.levels[factor.key]
    return level === undefined ? [] : [{ factor: factor.key, level }]
  })
}

export function marksFor(treatments: Treatments): (treatment: Treatment) => Record<string, string> {
  return (treatment) => marksOf(treatment, treatments.factors)
}

/** What keeps any design from being laid out. */
export function commonProblems({ treatments, choice }: DesignQuestion, units: number): string[] {
  const problems: string[] = []
  if (treatments.list.length < 2) problems.push('Give at least two treatments: with one there is nothing to compare.')
  if (units > MOST)
    problems.push(`That makes ${units} ${choice.unit}s at one site, more than ${MOST}; take fewer treatments or replicates.`)
  const taken = new Set<UnitKind>(['site', 'replicate', 'block', 'row', 'column', 'main plot', 'plant', 'sample'])
  if (taken.has(choice.unit)) problems.push(`A ${choice.unit} cannot be the unit that is treated here; take plots, pots or beds.`)
  return problems
}

/** Combinations of the levels of some factors, the last changing fastest, as marks on a unit. */
export function combinations(factors: readonly Factor[]): Record<string, string>[] {
  const cells = factors.reduce<[string, Level][][]>(
    (found, factor) => found.flatMap((each) => factor.levels.map((level): [string, Level][] => [...each, [factor.key, level]])),
    [[]],
  )
  return cells.map((cell) => Object.fromEntries(cell.map(([factor, level]) => [factor, level.key])))
}

/** What a design was told of one of its settings, or what is usual. */
export function settingOf(question: DesignQuestion, setting: DesignSetting): SettingValue {
  return question.choice.settings[setting.key] ?? setting.usual(question)
}

/** The same of a count. */
export function countedSetting(question: DesignQuestion, setting: DesignSetting): number {
  return Number(settingOf(question, setting))
}

type How = Structure['factors'][number]['how']

/** Everything that is varied dealt out to the treated unit, which lies in `kinds`, the last of them nearest to it. */
function dealtOut(
  { treatments, choice, seed }: DesignRequest,
  kinds: Structure['kinds'],
  nearest: readonly UnitKind[],
  within: UnitKind | null,
  how: How,
): Structure {
  return {
    schema: 1,
    kinds: [...kinds, ...kindsWith(choice, nearest)],
    factors: treatments.factors.map(({ key }) => ({ factor: key, appliedTo: choice.unit, within, how })),
    controls: controlsOf(treatments),
    seed: how === 'systematic' ? null : seed,
  }
}

/** Units in blocks, which may lie in complete replicates. */
export function inBlocks(request: DesignRequest, how: How, replicates = false): Structure {
  const kinds: Structure['kinds'] = replicates
    ? [
        { kind: 'site', in: [] },
        { kind: 'replicate', in: ['site'] },
        { kind: 'block', in: ['replicate'] },
      ]
    : [
        { kind: 'site', in: [] },
        { kind: 'block', in: ['site'] },
      ]
  return dealtOut(request, kinds, ['block'], 'block', how)
}

/** Units in rows and columns that cross, in the whole site or in each block of it. */
export function inRowsAndColumns(request: DesignRequest, how: How, blocks = false): Structure {
  const holder: UnitKind = blocks ? 'block' : 'site'
  const kinds: Structure['kinds'] = [
    { kind: 'site', in: [] },
    ...(blocks ? [{ kind: 'block' as const, in: ['site' as const] }] : []),
    { kind: 'row', in: [holder] },
    { kind: 'column', in: [holder] },
  ]
  return dealtOut(request, kinds, ['row', 'column'], blocks ? 'block' : null, how)
}

/** Figures of a design in which all is judged between treated units: the degrees of freedom are what blocks and treatments leave. */
export function oneError(
  { treatments, choice }: DesignQuestion,
  times: readonly number[],
  df: number,
  efficiency: number | null,
): DesignFigures {
  return {
    units: times.reduce((sum, each) => sum + each, 0),
    times,
    errors: [{ unit: choice.unit, df, factors: treatments.factors.map((each) => each.key) }],
    efficiency,
  }
}

/** 1 → A, 27 → AA. */
export function letter(n: number): string {
  return n <= 26 ? String.fromCharCode(64 + n) : letter(Math.floor((n - 1) / 26)) + letter(((n - 1) % 26) + 1)
}
