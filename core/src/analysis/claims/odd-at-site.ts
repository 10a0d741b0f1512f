import { designMatrix, fitLinear, outlierTest, residualTable } from '../../statistics/index.ts'
import type { OddAtSite } from './claim.ts'
import type { Analysed } from './size.ts'

/**
 * A treatment that does otherwise at one site than site and treatment explain: the largest departure of a
 * site's mean from what adds up, held against all others (Bonferroni).
 */
export function oddAtSites({ terms, significance, scale, vocabulary }: Analysed): OddAtSite[] {
  return Object.values(terms).flatMap((term): OddAtSite[] => {
    if (term.factors.length !== 2 || term.factors[0] !== 'site' || scale) return []
    const cells = term.means.map((mean) => {
      const [site, ...level] = mean.level.split(':')
      return { site: site!, level: level.join(':'), mean: mean.mean }
    })
    const of = (key: 'site' | 'level') => {
      const levels = [...new Set(cells.map((cell) => cell[key]))]
      return { name: key, levels, codes: Int32Array.from(cells, (cell) => levels.indexOf(cell[key])) }
    }
    const [sites, levels] = [of('site'), of('level')]
    if (sites.levels.length < 3 || levels.levels.length < 3) return []
    const fit = fitLinear(
      designMatrix([sites, levels], [['site'], ['level']], cells.length),
      Float64Array.from(cells, (cell) => cell.mean),
    )
    // What adds up to rounding leaves nothing odd.
    if (fit.residualDf < 5 || !(fit.residualMs > 1e-18 * Math.max(...cells.map((cell) => cell.mean ** 2)))) return []
    const found = outlierTest(fit, residualTable(fit))
    if (!(found.p < significance)) return []
    const cell = cells[found.index]!
    const factor = term.factors[1]!
    return [
      {
        kind: 'odd at a site',
        term: factor,
        level: cell.level,
        site: cell.site,
        control: vocabulary.factors[factor]?.controls.includes(cell.level) ?? false,
        base: vocabulary.factors[factor]?.controls.includes(cell.level) || vocabulary.factors[factor]?.ladder?.[0] === cell.level,
        away: cell.mean - fit.fitted[found.index]!,
        p: found.p,
        evidence: term.evidence.kind,
        why: term.evidence.why,
      },
    ]
  })
}
