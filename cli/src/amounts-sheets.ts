import { calculationCautions, type Calculation, type Reckoned } from '@canter/core/amounts'
import { figure, workingChain, type UnitSystem, type Worked } from '@canter/core/quantity'
import { columns } from './columns.ts'

export const AMOUNTS_VERSION = 1

/** One thing worked out, with what it is called where it comes from. */
export interface WorkedSheet {
  readonly title: string
  readonly calculation: Calculation
  readonly reckoned: Reckoned
}

/** One thing worked out as lines: its figures, how they come about, what to mind. */
export function sheetLines({ title, calculation, reckoned }: WorkedSheet, system: UnitSystem): string[] {
  if (!reckoned.ok) return [title, ...reckoned.problems.map((each) => `  Not worked out: ${each.problem}`), '']
  const figures = Object.values(reckoned.figures)
  return [
    title,
    ...columns(
      ['', ''],
      figures.map((each) => [each.label, figure(each, system, 4)]),
    )
      .slice(1)
      .map((line) => `  ${line}`),
    '  Working:',
    ...[...new Set(figures.flatMap((each) => workingChain(each, system)))]
      .filter((line) => line.includes(' = '))
      .map((line) => `    ${line}`),
    ...[...reckoned.doubts, ...calculationCautions(calculation)].map((each) => `  Caution: ${each}`),
    '',
  ]
}

export function plain({ label, value, unit }: Worked) {
  return { label, value, unit }
}

/** The same as fields: `figures` by key, doubts, cautions; or what is wrong with it. */
export function sheetFields({ title, calculation, reckoned }: WorkedSheet) {
  return {
    title,
    calculation: calculation.key,
    ...(reckoned.ok
      ? {
          figures: Object.fromEntries(Object.entries(reckoned.figures).map(([key, each]) => [key, plain(each)])),
          doubts: reckoned.doubts,
          cautions: calculationCautions(calculation),
        }
      : { problems: reckoned.problems }),
  }
}
