import type { Unit } from '../trial/index.ts'

export type NamedUnits = { readonly ok: true; readonly units: readonly Unit[] } | { readonly ok: false; readonly problem: string }

/**
 * Units by the numbers on their stakes: “101-106, 203”. From one to another means by number, or as they follow
 * on the walk where stakes bear no numbers.
 */
export function unitsNamed(text: string, units: readonly Unit[]): NamedUnits {
  const walked = units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  const byNumber = new Map(walked.map((unit) => [unit.code.toLowerCase(), unit]))
  const found = new Set<Unit>()
  for (const part of text.split(/[,;\n]/).map((each) => each.trim())) {
    if (part === '') continue
    const one = byNumber.get(part.toLowerCase())
    const ends = /^(\S+?)\s*(?:–|—|-|\bto\b)\s*(\S+)$/i.exec(part)
    if (one) found.add(one)
    else if (ends) {
      const [a, b] = [byNumber.get(ends[1]!.toLowerCase()), byNumber.get(ends[2]!.toLowerCase())]
      if (!a || !b) return { ok: false, problem: `“${(a ? ends[2] : ends[1])!}” is no number here.` }
      const numbers = [Number(a.code), Number(b.code)]
      const counted = numbers.every(Number.isFinite)
      const [low, high] = counted ? [Math.min(...numbers), Math.max(...numbers)] : [Math.min(a.walk!, b.walk!), Math.max(a.walk!, b.walk!)]
      for (const unit of walked) {
        const at = counted ? Number(unit.code) : unit.walk!
        if (at >= low && at <= high) found.add(unit)
      }
    } else return { ok: false, problem: `“${part}” is no number here.` }
  }
  return found.size === 0 ? { ok: false, problem: 'Name some: 101-106, 203.' } : { ok: true, units: [...found] }
}
