import { plural } from '../../quantity/index.ts'
import { dealt, groupsOf, inOrder, type Plot } from './plots.ts'
import type { Asked, ImportSaid } from './said.ts'
import type { Varied } from './varied.ts'

/** What the plots suggest of how they were treated, and cannot tell. */
export function questionsOf(bySite: ReadonlyMap<string, readonly Plot[]>, { treatments }: Varied, { kind }: ImportSaid): Asked[] {
  const all = [...bySite.values()]
  const asked: Asked[] = []
  const grouped = all.every((plots) =>
    plots.every((plot) => plot.main !== '' || plot.liesIn.split(';').length > 1 || /main plot|strip|row|column/.test(plot.liesIn)),
  )
  const blocks = all.flatMap((plots) => groupsOf(plots, (plot) => plot.block))
  const blocked = all.every((plots) => plots.every((plot) => plot.block !== '')) && blocks.length > 1
  if (treatments.factors.length > 1 && blocked && !grouped) {
    const inRuns = treatments.factors.filter((factor) =>
      blocks.every((block) => {
        const levels = inOrder(block).map((plot) => dealt(plot)[factor.key])
        const runs = levels.filter((level, i) => i === 0 || level !== levels[i - 1])
        return runs.length === new Set(levels).size && runs.length > 1 && runs.length < levels.length
      }),
    )
    if (inRuns.length === 1)
      asked.push({
        key: 'runs',
        names: [inRuns[0]!.key],
        proposed: 'yes',
        text: `In each block all ${plural(kind)} of one ${inRuns[0]!.name} stand side by side: was it put on such runs as a whole (main plots)?`,
      })
  }
  const rows = all.flat()
  if (!blocked && !grouped && rows.every((plot) => plot.row !== null && plot.column !== null)) {
    const once = (by: (plot: Plot) => string): boolean =>
      all.every((plots) =>
        groupsOf(plots, by).every(
          (group) => group.length > 1 && new Set(group.map((plot) => JSON.stringify(dealt(plot)))).size === group.length,
        ),
      )
    const latin = once((plot) => String(plot.row)) && once((plot) => String(plot.column))
    asked.push({
      key: 'both',
      names: [],
      proposed: latin ? 'yes' : 'no',
      text: latin
        ? 'No treatment stands twice in a row or in a column: are rows and columns blocks both ways, and not only places?'
        : 'Are rows and columns blocks both ways, and not only places?',
    })
  }
  const sequences = new Set(blocks.map((block) => JSON.stringify(inOrder(block).map(dealt))))
  // The same order in each block is seen; that chance dealt it out nobody can see.
  const fixed = blocked && blocks.length > 1 && sequences.size === 1
  asked.push({
    key: 'how',
    names: [],
    proposed: fixed ? 'systematic' : '',
    text: fixed
      ? 'Every block has the same order. How were the treatments dealt out?'
      : 'The table cannot tell: how were the treatments dealt out?',
  })
  return asked
}
