import { base, codeLines, type Colouring } from './colouring.ts'

/** What was dealt out, with those ringed that got something else or to which something happened: held against how it is at a glance. */
export const planned: Colouring = {
  key: 'planned',
  name: 'As planned',
  analysed: false,
  available: ({ layout, happened }) => happened || (layout?.units.some((unit) => Object.keys(unit.changes).length > 0) ?? false),
  look: (ground) => ({
    key: { kind: 'treatments', note: 'dashed ring: it got something else, or something happened to it; cross: lost or left out' },
    of: (unit) => {
      const own = base(ground, unit)
      const [plan, got] = (['planned', 'received'] as const).map((which) => ground.open.treatmentOf(unit.id, which))
      const fates = ground.views.get(unit.id)?.happened ?? []
      if (plan?.key === got?.key) return fates.length === 0 ? own : { ...own, ringed: true }
      const colour = plan && ground.colours.get(plan.key)
      return {
        ...own,
        fill: colour?.fill ?? '#fffefb',
        ink: colour?.ink ?? '#1d201d',
        hatched: colour?.hatched ?? false,
        lines: [...codeLines(plan?.code), `got ${got?.code ?? 'nothing'}`],
        ringed: true,
        about: `${own.about}, planned ${plan?.name ?? 'nothing'}`,
      }
    },
  }),
}
