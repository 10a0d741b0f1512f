import { painted, type Colouring } from './colouring.ts'

const [ALL, SOME, NONE] = ['#9dbfa8', '#e9e0bd', '#fffefb']

export const progress: Colouring = {
  key: 'progress',
  name: 'Done',
  analysed: false,
  available: ({ layout }) => layout !== null,
  look: (ground) => ({
    key: {
      kind: 'swatches',
      swatches: [
        { fill: ALL, name: 'all measured' },
        { fill: SOME, name: 'some' },
        { fill: NONE, name: 'none yet' },
      ],
    },
    of: (unit) => {
      const view = ground.views.get(unit.id)
      const { filled, of } = view ?? { filled: 0, of: 0 }
      const fill = of > 0 && filled >= of ? ALL : filled > 0 ? SOME : NONE
      return painted(ground, unit, fill, [of > 0 ? `${filled}/${of}` : ''], {
        ringed: (view?.flagged ?? false) || (view?.leftOut ?? false),
      })
    },
  }),
}
