import { emptyFactor, type Factor } from './factor.ts'
import { crossFactors, treatmentsOf, type Treatment, type Treatments } from './treatment.ts'

/** A way to begin the treatments, chosen by what is asked. */
export interface TreatmentShape {
  readonly key: string
  /** The question it answers. */
  readonly asks: string
  /** What is typed for it, as an example. */
  readonly example: string
  begin(): Treatments
}

const kind = (n: number, name = ''): Factor => ({ ...emptyFactor(`factor-${n}`, 'kind'), name })
const rate = (n: number): Factor => emptyFactor(`factor-${n}`, 'rate')
const named = (factor: Factor, ...names: readonly [code: string, name: string][]): Factor => ({
  ...factor,
  levels: names.map(([code, name], i) => ({ key: `l${i + 1}`, code, name, amount: null })),
})
const check = (code: string, name: string, role: Treatment['role']): Treatment => ({
  key: code.toLowerCase(),
  code,
  name,
  colour: null,
  role,
  levels: {},
})

/** All ways to begin, by what is asked; adding one is an entry here. */
export const treatmentShapes: readonly TreatmentShape[] = [
  {
    key: 'ladder',
    asks: 'How much of one thing?',
    example: '0 0.5 1 2 × 60 kg N/ha',
    begin: () => treatmentsOf([rate(1)], []),
  },
  {
    key: 'kinds',
    asks: 'Which of several?',
    example: 'early cultivar, main cultivar, late cultivar',
    begin: () => treatmentsOf([kind(1)], []),
  },
  {
    key: 'crossed',
    asks: 'Do two things depend on each other?',
    example: 'cultivars × 0 60 120 kg N/ha; up to four things',
    begin: () => treatmentsOf([kind(1), { ...rate(2) }], []),
  },
  {
    key: 'crossed-and-checks',
    asks: 'Two things crossed, against checks that have neither?',
    example: 'inoculants × starter rates, untreated and standard beside',
    begin: () =>
      treatmentsOf([kind(1), rate(2)], [check('NIL', 'untreated', 'untreated control'), check('STD', 'usual practice', 'standard')]),
  },
  {
    key: 'alone-and-with',
    asks: 'Does a product act alone, or with rates of another?',
    example: 'nothing, product alone, product with each rate',
    begin: () => {
      const product = named(kind(1, 'Product'), ['NO', 'without'], ['YES', 'with product'])
      const partner: Factor = {
        ...rate(2),
        name: 'Partner',
        measure: 'L/ha',
        levels: [0, 1, 2].map((amount) => ({ key: `l${amount}`, code: `R${amount}`, name: `${amount} L/ha`, amount })),
      }
      const all = crossFactors([product, partner])
      return treatmentsOf(
        [product, partner],
        all
          .filter((each) => each.levels['factor-1'] === 'l2' || each.levels['factor-2'] === 'l0')
          .map((each, i) => (i === 0 ? { ...each, role: 'untreated control' as const } : each)),
      )
    },
  },
  {
    key: 'dates',
    asks: 'When?',
    example: '20 April every 14 d × 4; or stages: at heading, at flowering',
    begin: () => treatmentsOf([emptyFactor('factor-1', 'timing')], []),
  },
  {
    key: 'after',
    asks: 'How long after something?',
    example: '0 4 8 12 weeks after lifting',
    begin: () => treatmentsOf([{ ...emptyFactor('factor-1', 'timing'), measure: 'wk' }], []),
  },
  {
    key: 'practice',
    asks: 'Which way of working?',
    example: 'plough 25 cm > harrow 8 cm, direct drill',
    begin: () => treatmentsOf([emptyFactor('factor-1', 'practice')], []),
  },
  {
    key: 'place',
    asks: 'Where should it stand?',
    example: 'clay pot, plastic pot, tray cell',
    begin: () => treatmentsOf([emptyFactor('factor-1', 'place')], []),
  },
]
