import type { AnalysisRequest } from '../../src/analysis/index.ts'
import { analyse } from '../../src/analysis/index.ts'
import { sown, type Plot, type Sown } from './sown.ts'

/** A trial aimed at one way in which a claim can be false: what must, and what must not be said of it. */
export interface Case {
  readonly name: string
  readonly request: AnalysisRequest
  readonly must: readonly RegExp[]
  readonly not: readonly RegExp[]
  /** Sentences in this order. */
  readonly first?: RegExp
}

function each<T>(values: readonly T[], make: (value: T) => Case | Case[]): Case[] {
  return values.flatMap(make)
}

const made = (name: string, of: Sown, must: readonly RegExp[], not: readonly RegExp[] = [], first?: RegExp): Case => ({
  name,
  request: sown(of),
  must,
  not,
  ...(first ? { first } : {}),
})

const LINES = (n: number): string[] => Array.from({ length: n }, (_, i) => `line${String(i + 1).padStart(2, '0')}`)
const of =
  (key: string, values: Readonly<Record<string, number>>, base = 6) =>
  ({ levels }: Plot): number =>
    base + (values[levels[key]!] ?? 0)

// ————— averages after an interaction

const spray = { fungicide: ['unsprayed', 'sprayed'], variety: ['var1', 'var2'] }
const interactions: Case[] = [
  ...each(
    [{}, { control: { fungicide: 'unsprayed' } }, { blocks: 6 }, { noise: 0.4 }, { seed: 5 }, { trait: { better: 'more' as const } }],
    (more) =>
      made(
        `acts on one variety only ${JSON.stringify(more)}`,
        { factors: spray, value: ({ levels }) => 6 + (levels['fungicide'] === 'sprayed' && levels['variety'] === 'var1' ? 3 : 0), ...more },
        [
          /What fungicide does depends on variety/,
          /With var1, sprayed gave 3\.0\d? t\/ha more yield than unsprayed \(95 % interval/,
          /With var2, (sprayed and unsprayed|unsprayed and sprayed) were not told apart/,
        ],
        [/gave 1\.5\d? t\/ha/, /^sprayed gave/i, /averaged over/i],
        /depends on/,
      ),
  ),
  ...each([0.2, 0.4, 0.6], (noise) =>
    made(
      `a pure crossing, noise ${noise}`,
      {
        factors: spray,
        noise,
        value: ({ levels }) => 6 + ((levels['fungicide'] === 'sprayed') === (levels['variety'] === 'var1') ? 2 : 0),
      },
      [/depends on/, /The effect turns/, /2\.0\d? t\/ha (more|less)/],
      [/^The 2 levels|did not separate|levels of \w+ were not told apart/m],
      /depends on/,
    ),
  ),
  ...each(
    [
      [3, 2],
      [4, 2.5],
      [5, 3],
    ] as const,
    ([a, b]) =>
      made(
        `more on one than on the other, ${a} and ${b}`,
        {
          factors: spray,
          control: { fungicide: 'unsprayed' },
          value: ({ levels }) => 6 + (levels['fungicide'] === 'sprayed' ? (levels['variety'] === 'var1' ? a : b) : 0),
        },
        [/depends on variety/, /Averaged over varieties that differ in it, sprayed gave/],
        [],
        /depends on/,
      ),
  ),
  made(
    'no interaction: the averages lead',
    { factors: spray, value: of('fungicide', { sprayed: 2 }) },
    [/Sprayed gave 2\.0\d? t\/ha more yield than unsprayed/, /No sign that the effects of fungicide and variety depend/],
    [],
    /^Sprayed gave/,
  ),
  ...each(
    [
      ['low', 'high'],
      ['N0', 'N60', 'N120'],
    ],
    (rates) =>
      made(
        `depends on a third factor, ${rates.length} rates`,
        {
          factors: { ...spray, rate: rates },
          noise: 0.15,
          value: ({ levels }) =>
            6 + (levels['fungicide'] === 'sprayed' && levels['variety'] === 'var1' && levels['rate'] === rates.at(-1) ? 3 : 0),
        },
        [/depends on/, /3\.0\d? t\/ha more yield/],
        [/gave 0\.7|gave 1\.5|gave 0\.5\d t|gave 1\.0\d? t\/ha more yield than unsprayed/],
        /depends on/,
      ),
  ),
  ...each([3, 4], (n) => {
    const sites = ['Hill', 'Lake', 'Mill', 'Moor'].slice(0, n)
    return [
      made(
        `one site of ${n} turns`,
        {
          factors: { feed: ['plain', 'rich'] },
          sites,
          value: ({ levels, site }) => 6 + (levels['feed'] === 'rich' ? (site === 'Lake' ? -2 : 2) : 0),
        },
        [/What feed does depends on site/, /At Hill, rich gave|At Hill, feed “rich” gave/, /turns from one to the other/],
        [/Averaged over sites/, /^Feed “rich” gave/m],
        /depends on site/,
      ),
      made(
        `the control is odd at one site of ${n + 2}`,
        {
          factors: { feed: ['none', 'F1', 'F2', 'F3', 'F4'] },
          sites: [...sites, 'Pond', 'Ridge'],
          control: { feed: 'none' },
          noise: 0.3,
          value: ({ levels, site }) =>
            6 + Number(levels['feed']!.slice(1).replace(/\D/g, '')) * 0.4 + (levels['feed'] === 'none' && site === 'Lake' ? 4 : 0),
          options: { fixed: ['site'] },
        },
        [
          /The control \(feed “none”\) is odd at Lake: its mean there lies \d+(\.\d+)? t\/ha above/,
          /and every difference from it there with it/,
        ],
        [],
      ),
    ]
  }),
  ...each([0.15, 0.2], (small) =>
    made(
      `sites differ in their error, ${small}`,
      {
        factors: { feed: ['F1', 'F2', 'F3'] },
        sites: ['Hill', 'Lake', 'Mill'],
        blocks: 6,
        noise: 1,
        value: ({ levels, site, block }) =>
          6 + (levels['feed'] === 'F2' ? 2 : 0) + (site === 'Lake' ? ((block * 7 + levels['feed']!.charCodeAt(1) * 5) % 11) * 0.9 : 0),
        seed: Math.round(small * 100),
      },
      [/sites differ in their error/i],
      [],
    ),
  ),
  ...each([5, 6], (n) =>
    made(
      `a region of ${n} sites: the sites are the replicates`,
      {
        factors: { feed: ['F1', 'F2'] },
        sites: LINES(n).map((line) => line.replace('line', 'S')),
        value: ({ levels, site }) => 6 + (levels['feed'] === 'F2' ? 2 + (site.charCodeAt(2) % 3) * 0.1 : 0),
      },
      [/F2 gave 2\.\d+ t\/ha more yield than F1/],
      [],
    ),
  ),
]

interactions.push(
  ...each([1.5, 3], (size) =>
    made(
      `a planned comparison over varieties that differ in it, ${size}`,
      {
        factors: spray,
        value: ({ levels }) => 6 + (levels['fungicide'] === 'sprayed' ? (levels['variety'] === 'var1' ? size : 0) : 0),
        options: { contrasts: [{ name: 'spray or not', term: ['fungicide'], coefficients: { sprayed: 1, unsprayed: -1 } }] },
      },
      [
        /As planned, “spray or not”: averaged over varieties that differ in it, sprayed gave/,
        /With var2, (sprayed and unsprayed|unsprayed and sprayed) were not told apart/,
      ],
      [/“spray or not”: sprayed gave/],
    ),
  ),
  made(
    'a planned trend over sites that differ in it; sites that are numbers',
    {
      factors: { n: ['N0', 'N1', 'N2'] },
      amounts: { n: { N0: 0, N1: 50, N2: 100 } },
      sites: ['1', '2', '3'],
      value: ({ levels, site }) => 6 + Number(levels['n']![1]) * Number(site),
      options: { polynomials: ['n'] },
    },
    [/As planned, “n, linear”: averaged over sites that differ in it, yield rises with n/, /At site 3, N2 gave/],
    [/At 3,/],
  ),
  made(
    'of six sites one turns: it is the one that is named',
    {
      factors: { feed: ['F1', 'F2'] },
      sites: LINES(6),
      value: ({ levels, site }) => 6 + (levels['feed'] === 'F2' ? (site === 'line03' ? -2 : 2) : 0),
    },
    [
      /At line03, F1 gave 2\.0\d? t\/ha more yield than F2/,
      /A difference was told apart at each of the 6 sites, and not always the same way/,
    ],
    [/^F2 gave/m],
    /depends on site/,
  ),
  made(
    'on a root scale, at each level by both means',
    {
      factors: spray,
      noise: 0.4,
      value: ({ levels }) => 9 + (levels['fungicide'] === 'sprayed' && levels['variety'] === 'var1' ? 12 : 0),
      options: { scale: 'square root' },
    },
    [/With var1, sprayed gave more yield than unsprayed: 21\.0 against 9\.0 t\/ha/, /9\.\d+ against 9\.\d+ t\/ha was seen/],
  ),
)

// ————— per cent

const percent: Case[] = [
  ...each(
    [
      [60, 72],
      [20, 50],
      [5, 9],
      [88, 97],
    ] as const,
    ([a, b]) =>
      each(
        [
          ['emergence', 'more'],
          ['rot', 'less'],
          ['cover', 'neither'],
        ] as const,
        ([name, better]) =>
          made(
            `${name} from ${a} to ${b} %`,
            {
              factors: { seed: ['raw', 'coated'] },
              noise: 1,
              value: of('seed', { coated: b - a }, a),
              trait: { name, unit: '%', better, kind: 'continuous' },
            },
            [new RegExp(`${b - a}(\\.\\d+)? percentage points (more|less) ${name}`)],
            [/\d % (more|less|higher|lower)/, /percent of|reduced to/i],
          ),
      ),
  ),
  ...each([0, -2], (base) =>
    made(
      `a control at ${base}`,
      {
        factors: { feed: ['bare', 'F1', 'F2'] },
        control: { feed: 'bare' },
        value: of('feed', { F1: 1, F2: 3 }, base),
        trait: { name: 'balance', unit: 'kg/ha' },
      },
      [/F2 gave 3\.0\d? kg\/ha more balance than bare/],
      [/% of|percent/i],
    ),
  ),
]

// ————— reasons that are true

const reasons: Case[] = [
  made(
    'three repeats, one lost',
    {
      factors: { feed: ['F1', 'F2'] },
      blocks: 3,
      value: of('feed', { F2: 2 }),
      lost: ({ levels, block }) => levels['feed'] === 'F1' && block === 2,
    },
    [/1 of 6 plots is missing/],
    [/without replication/i],
  ),
  made(
    'three repeats without any spread',
    { factors: { feed: ['F1', 'F2'] }, blocks: 3, noise: 0, value: of('feed', { F2: 2 }) },
    [/treated alike do not differ at all/],
    [/without replication|not repeated/i],
  ),
  made(
    'all values alike',
    { factors: { feed: ['F1', 'F2'] }, blocks: 3, noise: 0, value: () => 5 },
    [/all values are alike/i],
    [/without replication/i],
  ),
  ...each([2, 3, 5], (n) =>
    made(
      `one of each of ${n}`,
      { factors: { feed: LINES(n) }, blocks: 1, value: of('feed', { line02: 2 }) },
      [/without replication/],
      [/gave|told apart|interval|\bp [<\d]/],
    ),
  ),
  made(
    'two factors, one of each',
    { factors: { feed: ['F1', 'F2'], pot: ['P1', 'P2'] }, blocks: 1, value: of('feed', { F2: 2 }) },
    [/without replication/i],
    [/gave|interval/],
  ),
  made(
    'two blocks, so much lost that nothing is left',
    {
      factors: { feed: ['F1', 'F2', 'F3'] },
      blocks: 2,
      value: of('feed', { F2: 2 }),
      lost: ({ levels, block }) => block === 2 && levels['feed'] !== 'F1',
    },
    [/nothing is left to judge chance|used up/],
    [/without replication/i],
  ),
  ...each([1, 2], (seed) =>
    made(
      `main plots once each ${seed}`,
      {
        factors: { water: ['W1', 'W2'], line: ['L1', 'L2', 'L3'] },
        main: 'water',
        mainOnce: true,
        blocks: 4,
        seed,
        value: of('line', { L2: 2 }),
      },
      [/yield was .* with W/i],
      [/W[12] gave/],
    ),
  ),
  ...each([3, 4], (n) =>
    made(
      `one plot of each at ${n} sites that stand for others`,
      {
        factors: { feed: ['F1', 'F2'] },
        sites: LINES(n),
        blocks: 3,
        value: ({ levels, block, site }) => 6 + (levels['feed'] === 'F2' ? 2 : 0) + block * 0.01 + site.length * 0,
        options: { random: ['site'] },
      },
      [/F2 gave/],
      [],
    ),
  ),
  made(
    'a gain far below what is worth knowing',
    { factors: { feed: ['F1', 'F2'] }, blocks: 8, noise: 0.05, value: of('feed', { F2: 0.3 }), trait: { better: 'more', smallest: 2 } },
    [/set at 2 t\/ha: what was found is real but smaller than that/],
    [/sharp enough/],
  ),
  made(
    'a gain beyond what is worth knowing',
    { factors: { feed: ['F1', 'F2'] }, blocks: 6, value: of('feed', { F2: 4 }), trait: { better: 'more', smallest: 1 } },
    [/the whole interval of what was found lies beyond it/],
    [/sharp enough/],
  ),
  made(
    'a gain about what is worth knowing',
    { factors: { feed: ['F1', 'F2'] }, blocks: 6, noise: 0.5, value: of('feed', { F2: 1.2 }), trait: { better: 'more', smallest: 1.1 } },
    [/may be smaller or larger than that/],
  ),
  made(
    'nothing, and a large one not ruled out',
    { factors: { feed: ['F1', 'F2'] }, blocks: 3, noise: 2, value: of('feed', { F2: 0.2 }), trait: { better: 'more', smallest: 1 } },
    [/a difference of that size, not told apart here, is not ruled out/],
    [/all but ruled out/],
  ),
  made(
    'nothing, and a large one ruled out',
    { factors: { feed: ['F1', 'F2'] }, blocks: 8, noise: 0.2, value: of('feed', { F2: 0.01 }), trait: { better: 'more', smallest: 2 } },
    [/all but ruled out/],
  ),
  made(
    'a loss is no gain worth knowing',
    {
      factors: { feed: ['F1', 'F2'] },
      control: { feed: 'F1' },
      blocks: 6,
      value: of('feed', { F2: -4 }),
      trait: { better: 'more', smallest: 1 },
    },
    [/F2 gave 4\.0\d? t\/ha less yield than F1/],
    [/lies beyond it/],
  ),
]

// ————— planned comparisons and trends

const rates = { nitrogen: ['0', '40', '80', '120'] }
const rising = (values: readonly number[], more: Partial<Sown> = {}): Sown => ({
  factors: rates,
  noise: 0.15,
  value: ({ levels }) => 5 + values[rates.nitrogen.indexOf(levels['nitrogen']!)]!,
  said: {
    nitrogen: Object.fromEntries(
      rates.nitrogen.map((level) => [level, { name: level, amount: { value: Number(level), unit: 'kg/ha', of: 'N' } }]),
    ),
  },
  ...more,
})
const planned: Case[] = [
  ...each(
    [
      [0.35, 6],
      [0.4, 8],
      [0.3, 5],
    ] as const,
    ([size, blocks]) =>
      made(
        `a planned comparison of half the lines, ${size}`,
        {
          factors: { line: LINES(8) },
          blocks,
          noise: 0.4,
          seed: blocks,
          value: ({ levels }) => 6 + (Number(levels['line']!.slice(4)) <= 4 ? size : 0),
          options: {
            contrasts: [
              {
                name: 'new against old',
                term: ['line'],
                coefficients: Object.fromEntries(LINES(8).map((line, i) => [line, i < 4 ? 1 : -1])),
              },
            ],
          },
        },
        [
          /As planned, “new against old”: the mean of line01, line02, line03 and line04 gave 0\.\d+ t\/ha more yield than the mean of line05/,
        ],
        [],
        /As planned/,
      ),
  ),
  made(
    'a planned comparison with coefficients of three to one is told as a difference of means',
    {
      factors: { feed: ['bare', 'F1', 'F2', 'F3'] },
      value: of('feed', { F1: 2, F2: 2, F3: 2 }),
      options: { contrasts: [{ name: 'bare against fed', term: ['feed'], coefficients: { bare: 3, F1: -1, F2: -1, F3: -1 } }] },
    },
    [/bare gave 2\.0\d? t\/ha less yield than the mean of F1, F2 and F3/],
    [/6\.0/],
  ),
  ...each([true, false], (late) =>
    made(
      `a comparison ${late ? 'added late' : 'planned'}`,
      {
        factors: { feed: ['F1', 'F2', 'F3'] },
        value: of('feed', { F2: 2 }),
        options: { contrasts: [{ name: 'F2 or F1', term: ['feed'], coefficients: { F2: 1, F1: -1 }, late }] },
      },
      [late ? /added when there were readings already and so a lead to follow/ : /As planned, “F2 or F1”: F2 gave/],
      late ? [/As planned/] : [/lead to follow/],
    ),
  ),
  made(
    'a planned comparison that found nothing',
    {
      factors: { feed: ['F1', 'F2', 'F3'] },
      noise: 1,
      value: of('feed', { F2: 0.1 }),
      options: { contrasts: [{ name: 'F2 or F1', term: ['feed'], coefficients: { F2: 1, F1: -1 } }] },
    },
    [/As planned, “F2 or F1”: F2 and F1 were not told apart/, /could have gone unseen/],
  ),
  ...each([{}, { trait: { better: 'more' as const } }, { control: { nitrogen: '0' } }], (more) => [
    made(
      `still rising at the last ${JSON.stringify(more)}`,
      rising([0, 1, 2, 3], more),
      [/still rising at the highest level grown, 120 kg N\/ha/, /More than 120 kg N\/ha is untested/],
      [/no further gain|fell by/],
    ),
    made(
      `levels off ${JSON.stringify(more)}`,
      rising([0, 2, 3, 3.02], more),
      [/[Bb]eyond 80 kg N\/ha the trial told no further (gain|change) apart; it could have missed one of up to 0\.\d+ t\/ha/],
      [/fell|still rising/],
    ),
    made(
      `past its best ${JSON.stringify(more)}`,
      rising([0, 2, 3, 1.5], more),
      [/yield was (best|highest) at 80 kg N\/ha, and 1\.5\d? t\/ha lower at 120 kg N\/ha/i],
      [/no further gain|still rising/],
    ),
  ]),
  made(
    'falling from the first, better more',
    rising([3, 2, 1, 0], { trait: { better: 'more' } }),
    [/fell from the lowest level on: 3\.0\d? t\/ha lower at 120 kg N\/ha than at no nitrogen/],
    [/no further gain/],
  ),
  made(
    'less is better, and it falls to the last',
    rising([3, 2, 1, 0], { trait: { better: 'less', name: 'rot' } }),
    [/still falling at the highest level grown/],
    [/reduced to/],
  ),
  ...each(
    [
      {
        shape: [0, 1, 2, 3],
        line: /rises with nitrogen, on average 1\.0+ t\/ha more for each further 40 kg N\/ha/,
        bend: /no sign that yield goes anything but straight/,
      },
      { shape: [0, 2, 3, 3.1], line: /rises with nitrogen/, bend: /bends downward with nitrogen, each further step bringing less/ },
    ],
    ({ shape, line, bend }) =>
      made(
        `a trend asked for ${shape.join()}`,
        rising(shape, { options: { polynomials: ['nitrogen'] } }),
        [line, bend],
        [],
        /As planned, “nitrogen, linear”/,
      ),
  ),
  made(
    'a trend over nothing',
    rising([0, 0.02, 0.01, 0.02], { noise: 0.5, options: { polynomials: ['nitrogen'] } }),
    [/no steady rise or fall was told/],
    [/rises with|still rising/],
  ),
  ...each([0, 1], (k) =>
    made(
      `a bare ladder of numbers ${k}`,
      { factors: { depth: ['5', '10', '20'] }, noise: 0.1, seed: k, value: ({ levels }) => 5 + Number(levels['depth']) / 10 },
      [/depth “20”/],
      [/\b20 gave|\b5 gave/],
    ),
  ),
]

// ————— best of many

const many: Case[] = [
  ...each([8, 12, 20], (n) =>
    each([undefined, 'lsd', 'bonferroni', 'holm', 'student-newman-keuls'] as const, (method) =>
      made(
        `${n} alike lines, ${method ?? 'by itself'}`,
        {
          factors: { line: LINES(n) },
          noise: 1,
          seed: n,
          value: ({ levels }) => 6 + (Number(levels['line']!.slice(4)) % 5) * 0.05,
          options: method ? { method } : {},
        },
        [new RegExp(`the ${n} lines (were not told apart|differ)`, 'i'), /widest of/],
        [/^line\d\d gave/m],
      ),
    ),
  ),
  ...each([6, 10], (n) =>
    made(
      `one pair stands out of ${n} by LSD, the whole does not`,
      {
        factors: { line: LINES(n) },
        noise: 1,
        blocks: 4,
        seed: 3 + n,
        value: ({ levels }) => 6 + (levels['line'] === 'line01' ? 0.75 : levels['line'] === 'line02' ? -0.75 : 0),
        options: { method: 'lsd' },
      },
      [/Taken together, the \d+ lines were not told apart|were not told apart/i],
      [/^line01 gave/m],
    ),
  ),
  ...each([0.9, 1, 1.1], (step) =>
    made(
      `many small steps: together, and no pair, or the widest named as such ${step}`,
      {
        factors: { line: LINES(10) },
        noise: 1,
        blocks: 4,
        seed: 7,
        value: ({ levels }) => 6 + (Number(levels['line']!.slice(4)) % 2) * step,
      },
      [/widest of 45|no single pair of 45/],
    ),
  ),
  ...each([4, 6], (n) =>
    made(
      `one far line of ${n}`,
      { factors: { line: LINES(n) }, value: of('line', { line01: 4 }) },
      [
        /^line01 gave 4\.\d+ t\/ha more yield than/m,
        /widest of/,
        ...(n > 4 ? [/Of 15 pairs 5 were told apart; line01 was told apart from all others/] : []),
      ],
      [/lines were not told apart/],
    ),
  ),
  made(
    'protected, F not significant',
    { factors: { line: LINES(5) }, noise: 1, value: () => 6, options: { protect: true } },
    [/pairs were not compared, as asked/],
    [/gave/],
  ),
  made(
    'two lines: no widest of one',
    { factors: { line: LINES(2) }, value: of('line', { line01: 2 }) },
    [/line01 gave 2\.0\d? t\/ha more/],
    [/widest/],
  ),
  made(
    'two alike lines: no widest of one',
    { factors: { line: LINES(2) }, noise: 1, value: () => 6 },
    [/were not told apart in yield/, /could have gone unseen/],
    [/widest/],
  ),
]

// ————— one-sided

many.push(
  made(
    'two lines stand out of eight: the second is not told from the first',
    { factors: { line: LINES(8) }, noise: 0.4, value: of('line', { line02: 3, line05: 2.8 }) },
    [/Of 28 pairs \d+ were told apart; not told apart from line02, which stood highest: line05\./],
  ),
)

const oneSided: Case[] = each(['more', 'less', 'neither'] as const, (better) =>
  each(['greater', 'less'] as const, (side) => [
    made(
      `asked ${side}, a movement the other way, better ${better}`,
      {
        factors: { feed: ['bare', 'F1', 'F2'] },
        control: { feed: 'bare' },
        value: of('feed', { F1: side === 'greater' ? -2.5 : 2.5 }),
        options: { side },
        trait: { better },
      },
      [
        /2\.5\d? t\/ha (lower|higher) than with bare/,
        /asked was only whether treatments give (more|less), and the one-sided test does not judge that/,
      ],
      [/none of 2 others was told apart[^.]*\.$/],
    ),
    made(
      `asked ${side}, found so, better ${better}`,
      {
        factors: { feed: ['bare', 'F1', 'F2'] },
        control: { feed: 'bare' },
        value: of('feed', { F1: side === 'greater' ? 2.5 : -2.5 }),
        options: { side },
        trait: { better },
      },
      [/F1 gave 2\.5\d? t\/ha (more|less) yield than bare \(95 % interval at least \d/, /asked was only whether treatments give/],
      [/–|Infinity/],
    ),
  ]),
)

// ————— the strength of the verb

const verbs: Case[] = [
  ...each(['systematic', 'not randomised'] as const, (how) =>
    each([2, 3], (n) =>
      made(
        `${how}, ${n} feeds`,
        { factors: { feed: LINES(n) }, how, value: of('feed', { line01: 2 }) },
        [/With line01, yield was 2\.0\d? t\/ha higher than with line0\d/, /not dealt out by chance/],
        [/gave/],
      ),
    ),
  ),
  ...each(['systematic', 'not randomised'] as const, (how) =>
    made(
      `${how}, counts`,
      {
        factors: { feed: ['F1', 'F2'] },
        how,
        value: of('feed', { F1: 20 }, 30),
        noise: 2,
        trait: { name: 'weeds', unit: '/m²', kind: 'count' },
      },
      [/With F1 there were 20(\.\d)? more weeds per m² than with F2/],
      [/gave/],
    ),
  ),
  ...each([3, 6], (n) =>
    made(
      `${n} new lines on single plots beside two that are repeated`,
      {
        factors: { line: ['check A', 'check B', ...LINES(n)] },
        blocks: 4,
        noise: 0.3,
        value: of('line', { 'check A': 2 }),
        lost: ({ levels, block }) => levels['line']!.startsWith('line') && block !== 1 + (Number(levels['line']!.slice(4)) % 4),
      },
      [/Check A gave 2\.0\d? t\/ha more yield than check B/, /On single plots, yield was/, /tells nothing of chance/],
      [/line\d\d gave/],
    ),
  ),
  ...each(['more', 'less'] as const, (better) =>
    made(
      `two controls, better ${better}`,
      {
        factors: { feed: ['bare', 'old feed', 'F1'] },
        control: { feed: 'bare' },
        controls: [{ factor: 'feed', level: 'old feed' }],
        value: of('feed', { 'old feed': 1, F1: 2 }),
        trait: { better },
      },
      [/old feed \([^)]*a further control\)/],
    ),
  ),
  made(
    'both gains and losses against the control are told',
    {
      factors: { feed: ['bare', 'F1', 'F2', 'F3'] },
      control: { feed: 'bare' },
      value: of('feed', { F1: 2, F2: -2 }),
      trait: { better: 'more' },
    },
    [/F1 gave 2\.0\d? t\/ha more yield than bare/, /F2 \(2\.0\d? t\/ha less\)/, /not told apart: F3/],
  ),
]

// ————— scales

const grow = (ratio: number) => ({
  factors: { feed: ['F1', 'F2'] },
  blocks: 6,
  noise: 0,
  seed: 3,
  value: ({ levels, block }: Plot) =>
    Math.exp(
      2 +
        (levels['feed'] === 'F2' ? Math.log(ratio) : 0) +
        ((block * 5) % 7) * 0.05 +
        (levels['feed'] === 'F2' ? (block % 3) * 0.08 - 0.08 : 0),
    ),
})
const scales: Case[] = [
  ...each([2, 3, 0.5], (ratio) =>
    each(['log', 'log10'] as const, (scale) =>
      made(
        `${scale}, ${ratio} times`,
        { ...grow(ratio), options: { scale }, trait: { name: 'weed mass', unit: 'g' } },
        [
          ratio > 1 ? new RegExp(`F2 gave ${ratio}\\.\\d\\d times the weed mass of F1`) : /F1 gave 2\.\d\d times the weed mass of F2/,
          /95 % interval \d+\.\d\d to \d+\.\d\d times/,
          /ratio of geometric means/,
        ],
        [/ g more| g less/],
      ),
    ),
  ),
  ...each(['square root', 'log(y + 1)', 'square root of (y + 1/2)'] as const, (scale) =>
    made(
      `${scale}, counts`,
      { ...grow(3), options: { scale }, trait: { name: 'weeds', unit: 'per m2', kind: 'count' } },
      [/F2 gave more weeds than F1: \d+(\.\d+)? against \d+(\.\d+)? per m2/, /judged on the .* scale/],
      [/per m2 (more|less)|in weeds than|interval/],
    ),
  ),
  ...each(['arcsine', 'logit'] as const, (scale) =>
    made(
      `${scale}, shares`,
      {
        factors: { feed: ['F1', 'F2'] },
        blocks: 5,
        noise: 2,
        value: of('feed', { F2: 30 }, 40),
        options: { scale },
        trait: { name: 'rot', unit: '%', kind: 'share' },
      },
      [/F2 gave more rot than F1: 70(\.\d)? against 40(\.\d)? %/],
      [/\d % more/],
    ),
  ),
  ...each([0.2, 0.3], (equivalence) => [
    made(
      `a margin on a log scale, ${equivalence}`,
      { ...grow(1.001), options: { scale: 'log', equivalence } },
      [new RegExp(`by a factor below ${Math.exp(equivalence).toPrecision(3).replace(/0+$/, '')}`)],
      [new RegExp(`less than ${equivalence} t/ha`)],
    ),
    made(`a margin on a root scale, ${equivalence}`, { ...grow(1.001), options: { scale: 'square root', equivalence } }, [
      new RegExp(`less than ${equivalence} on the square root scale, about \\d+(\\.\\d+)? t/ha around a mean of`),
    ]),
    made(
      `a margin as typed, ${equivalence}`,
      { factors: { feed: ['F1', 'F2', 'F3'] }, blocks: 8, noise: 0.05, value: () => 6, options: { equivalence } },
      [new RegExp(`Shown to differ in yield by less than ${equivalence} t/ha`)],
      [/0\.200|0\.300/],
    ),
  ]),
  made(
    'a margin of two that was not shown',
    { factors: { feed: ['F1', 'F2'] }, noise: 1, value: () => 6, options: { equivalence: 0.1 } },
    [/The two were not shown to differ in yield by less than 0\.1 t\/ha/],
    [/pair of 1|of 1 pair/],
  ),
]

// ————— confounded, lacking, left out, adjusted

const lacking: Case[] = [
  ...each(
    [
      ['rich', 'plain', 'large', 'small'],
      ['A', 'B', 'X', 'Y'],
      ['peat', 'sand', 'deep pot', 'flat pot'],
    ] as const,
    ([a, b, c, d]) =>
      made(
        `${a} and ${c} against ${b} and ${d}`,
        { factors: { soil: [a, b], pot: [c, d] }, grown: ({ soil, pot }) => (soil === a) === (pot === c), value: of('soil', { [a]: 2 }) },
        [
          /Since soil and pot always changed together, which of them did it cannot be said/,
          new RegExp(`${c}`),
          /soil and pot always changed together: their effects cannot be told apart/,
        ],
      ),
  ),
  ...each(['F1', 'F3'], (gone) =>
    made(
      `a level without values, ${gone}`,
      { factors: { feed: ['F1', 'F2', 'F3'] }, value: of('feed', { F2: 2 }), lost: ({ levels }) => levels['feed'] === gone },
      [new RegExp(`Level of feed without a value, and so not compared: ${gone}`)],
    ),
  ),
  ...each([2, 3], (gone) =>
    made(
      `a block without values, ${gone}`,
      { factors: { feed: ['F1', 'F2', 'F3'] }, value: of('feed', { F2: 2 }), lost: ({ block }) => block === gone },
      [new RegExp(`Block without any value: b${gone}`)],
    ),
  ),
  ...each(['Hill', 'Mill'], (gone) =>
    made(
      `a site without values, ${gone}`,
      {
        factors: { feed: ['F1', 'F2', 'F3'] },
        sites: ['Hill', 'Lake', 'Mill'],
        value: of('feed', { F2: 2 }),
        lost: ({ site }) => site === gone,
      },
      [new RegExp(`Site without any value: ${gone}`)],
    ),
  ),
  ...each([2, 3], (n) =>
    made(
      `${n} losses in one arm`,
      {
        factors: { feed: ['F1', 'F2', 'F3'] },
        blocks: 6,
        value: of('feed', { F2: 2 }),
        lost: ({ levels, block }) => levels['feed'] === 'F1' && block <= n,
      },
      [/missing plots had F1: the loss may come from the treatment/],
    ),
  ),
  made(
    'losses here and there',
    {
      factors: { feed: ['F1', 'F2', 'F3'] },
      blocks: 6,
      value: of('feed', { F2: 2 }),
      lost: ({ levels, block }) =>
        (levels['feed'] === 'F1' && block === 1) || (levels['feed'] === 'F2' && block === 2) || (levels['feed'] === 'F3' && block === 3),
    },
    [/3 of 18 plots are missing/],
    [/the loss may come from the treatment/],
  ),
  ...each([1, 2], (seed) =>
    made(
      `interactions left out as asked ${seed}`,
      { factors: spray, seed, value: of('fungicide', { sprayed: 2 }), options: { terms: [['fungicide'], ['variety']] } },
      [/Whether what fungicide does depends on variety was not looked at, as asked/],
    ),
  ),
  ...each([20, 25], (at) =>
    made(
      `adjusted means at ${at}`,
      {
        factors: { feed: ['F1', 'F2'] },
        blocks: 6,
        value: ({ levels, block }) => 6 + (levels['feed'] === 'F2' ? 2 : 0) + block * 0.3,
        covariate: ({ block, levels }) => 15 + block * 3 + (levels['feed'] === 'F2' ? ((block * 5) % 7) * 0.4 : 0.7),
        options: { at: { stand: at } },
      },
      [new RegExp(`means adjusted to stand ${at}`)],
    ),
  ),
  ...each([2, 3], (n) =>
    made(
      `each block one feed only, ${n}`,
      { factors: { feed: LINES(n) }, main: 'feed', mainOnce: true, blocks: 4, value: of('feed', { line01: 2 }) },
      [/yield was/i],
      [/gave|no level two/],
    ),
  ),
]

lacking.push(
  made(
    'a covariate that goes along with the treatment',
    {
      factors: { feed: ['F1', 'F2'] },
      blocks: 6,
      value: ({ levels, block }) => 6 + (levels['feed'] === 'F2' ? 2 : 0) + block * 0.1,
      covariate: ({ block, levels }) => 15 + ((block * 5) % 7) + (levels['feed'] === 'F2' ? 9 : 0),
    },
    [/What feed does cannot be told from what is taken out with it/],
    [/gave|there are not yet/],
  ),
  made(
    'a combination that was not grown: the combinations are told, and what both changed is said',
    {
      factors: { soil: ['peat', 'sand'], pot: ['P1', 'P2'] },
      grown: ({ soil, pot }) => !(soil === 'sand' && pot === 'P1'),
      value: of('soil', { peat: 2 }),
    },
    [
      /Peat with P1 gave 2\.0\d? t\/ha more yield than sand with P2/,
      /They differ in soil and pot, so which of these did it cannot be said/,
    ],
    [/with one treatment only/],
  ),
  made(
    'products of two types: the type is told with its product, and beyond it nothing is claimed',
    {
      factors: { type: ['organic', 'mineral'], product: ['manure', 'compost', 'urea', 'nitrate'] },
      grown: ({ type, product }) => (type === 'organic') === ['manure', 'compost'].includes(product!),
      value: of('product', { urea: 2 }),
    },
    [/Urea \(mineral\) gave 2\.0\d? t\/ha more yield than \w+ \((organic|mineral)\)/, /Type followed from product on every unit/],
    [/^Mineral gave/m],
  ),
  made(
    'slopes of their own: the difference is read somewhere',
    {
      factors: { feed: ['F1', 'F2'] },
      blocks: 8,
      value: ({ levels, block }) => 6 + (levels['feed'] === 'F2' ? 2 + block * 0.4 : 0),
      covariate: ({ block, levels }) => 15 + block * 3 + ((block * (levels['feed'] === 'F2' ? 3 : 5)) % 7) * 0.5,
      options: { slopes: 'separate' },
    },
    [/means read at stand \d+(\.\d+)?, and elsewhere the difference is another/],
  ),
)

// ————— one plot

const onePlot: Case[] = [
  ...each([3, 7, 11], (seed) =>
    made(
      `one plot carries the claim ${seed}`,
      {
        factors: { feed: ['F1', 'F2', 'F3'] },
        blocks: 6,
        noise: 0.3,
        seed,
        value: ({ levels, block }) => 6 + (levels['feed'] === 'F2' ? 0.02 : 0) + (levels['feed'] === 'F2' && block === 3 ? 9 : 0),
      },
      [/Plot \d+ \(\d+(\.\d+)? t\/ha\) alone|were not told apart/],
    ),
  ),
  ...each([3, 7, 11, 13], (seed) =>
    made(
      `one plot hides a difference ${seed}`,
      {
        factors: { feed: ['F1', 'F2'] },
        blocks: 8,
        noise: 0.2,
        seed,
        value: ({ levels, block }) => 6 + (levels['feed'] === 'F2' ? 0.9 : 0) - (levels['feed'] === 'F2' && block === 3 ? 6 : 0),
      },
      [/Plot \d+ \(\d*\.?\d+ t\/ha\) alone keeps a difference from being told\. Without it: F2 gave/, /Look for a cause/],
    ),
  ),
  made('no plot stands out', { factors: { feed: ['F1', 'F2'] }, blocks: 8, value: of('feed', { F2: 2 }) }, [/F2 gave/], [/alone/]),
]

// ————— levels and p

/** Two feeds whose difference has this p. */
function tuned(p: number, significance = 0.05): AnalysisRequest {
  const at = (difference: number): AnalysisRequest =>
    sown({
      factors: { feed: ['F1', 'F2'] },
      blocks: 6,
      noise: 1,
      seed: 21,
      value: of('feed', { F2: difference }),
      options: { significance },
    })
  let [low, high] = [0, 20]
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2
    if (analyse(at(middle)).tests.find((test) => test.term === 'feed')!.p > p) low = middle
    else high = middle
  }
  return at((low + high) / 2)
}
const levels: Case[] = [
  ...each(
    [
      [0.001, '99.9'],
      [0.01, '99'],
      [0.025, '97.5'],
      [0.05, '95'],
      [0.1, '90'],
      [0.2, '80'],
    ] as const,
    ([significance, said]) =>
      each([0, 3], (size) =>
        made(
          `level ${significance}, ${size}`,
          { factors: { feed: ['F1', 'F2'] }, blocks: 8, noise: 0.5, value: of('feed', { F2: size }), options: { significance } },
          [new RegExp(`\\(${said} % interval`)],
          [/100 %/],
        ),
      ),
  ),
  ...each([0.0499, 0.0501, 0.04999, 0.05001], (p) => ({
    name: `p ${p}`,
    request: tuned(p),
    must: [/borderline/, new RegExp(`p ${p}, where 0\\.05 was the level set`)],
    not: [/gave|were not told apart/],
  })),
  ...each(
    [
      [0.0099, 0.01],
      [0.0101, 0.01],
      [0.0999, 0.1],
      [0.1001, 0.1],
    ] as const,
    ([p, significance]) => ({
      name: `p ${p} at ${significance}`,
      request: tuned(p, significance),
      must: [/borderline/, new RegExp(`p ${p}, where ${significance} was the level set`)],
      not: [/gave|were not told apart/],
    }),
  ),
  ...each([0.02, 0.001, 0.00001], (p) => ({ name: `p ${p}`, request: tuned(p), must: [/F2 gave/], not: [/borderline/, /p 0\.000/] })),
  ...each([0.2, 0.6, 0.9999], (p) => ({
    name: `p ${p}`,
    request: tuned(p),
    must: [/were not told apart/],
    not: [/borderline|gave/, /p 1\.000/],
  })),
]

// ————— digits

const digits: Case[] = each([-12, -10, -8, -6, -4, -3, -2, -1, 0, 1, 2, 3, 4, 6, 8, 10, 12], (power) => {
  const unit = 10 ** power
  return [
    made(
      `10^${power}`,
      {
        factors: { feed: ['F1', 'F2'] },
        blocks: 5,
        noise: 0.31 * unit,
        value: of('feed', { F2: 2.345 * unit }, 7 * unit),
        trait: { unit: 'kg' },
      },
      [
        power < -5 || power > 8
          ? /F2 gave 2\.\d+ × 10\S+ kg more yield than F1 \(95 % interval \d\.\d+ × 10\S+ to \d\.\d+ × 10\S+ kg/
          : /F2 gave [\d.\u202f]+ kg more yield than F1/,
      ],
      [/e[+-]\d/, /gave 0(\.0+)? kg/],
    ),
    made(
      `10^${power}, not told apart`,
      {
        factors: { feed: ['F1', 'F2'] },
        blocks: 5,
        noise: 3.1 * unit,
        value: of('feed', { F2: 0.2 * unit }, 70 * unit),
        trait: { unit: 'kg' },
      },
      [/F2 and F1 were not told apart/],
      [/e[+-]\d/, /NaN/],
    ),
  ]
})

// ————— language

const UNTOUCHED = ['NDVI', 'nDVI', 'Zn', 'zn', 'pH', 'Ca', 'Brix', 'yield_t_ha', 'Kjeldahl N']
const language: Case[] = [
  ...each(UNTOUCHED, (name) =>
    made(
      `a trait called ${name}`,
      { factors: { feed: ['F1', 'F2'] }, noise: 0.02, value: of('feed', { F2: 0.5 }, 1), trait: { name, unit: '' } },
      [new RegExp(`${name.replace('_', '_')} was 0\\.50* higher than with F1`)],
      [/nDVI(?<!nDVI)/],
    ),
  ),
  ...each(['weeds', 'shoots per pot', 'open flowers', 'berries'], (name) =>
    each(['/m²', 'per m2', ''], (unit) =>
      each([20, -20], (size) =>
        made(
          `${name}, ${unit}, ${size}`,
          {
            factors: { feed: ['F1', 'F2'] },
            control: { feed: 'F1' },
            noise: 2,
            value: of('feed', { F2: size }, 60),
            trait: { name, unit, kind: 'count' },
          },
          [new RegExp(`F2 gave 20(\\.\\d)? ${size > 0 ? 'more' : 'fewer'} ${name}`)],
          [/less (weeds|shoots|flowers|berries)/, /m2 less|m² less/, /in weeds than/],
        ),
      ),
    ),
  ),
  ...each(
    [
      ['bark', 'g'],
      ['biomass', 'kg'],
      ['dry matter', 't/ha'],
      ['milk', 'L'],
    ] as const,
    ([name, unit]) =>
      made(
        `${name} in ${unit}`,
        { factors: { mulch: ['straw', 'wool'] }, noise: 0.3, value: of('mulch', { wool: 3 }, 20), trait: { name, unit } },
        [new RegExp(`Wool gave 3\\.0\\d? ${unit} more ${name} than straw`)],
        [/fewer|straw less bark/],
      ),
  ),
  ...each(
    [
      ['plant height', 'cm'],
      ['days to flower', 'd'],
      ['soil temperature', '°C'],
      ['vigour', 'score'],
    ] as const,
    ([name, unit]) =>
      made(
        `${name} in ${unit}`,
        {
          factors: { mulch: ['straw', 'wool'] },
          noise: 0.3,
          value: of('mulch', { wool: 3 }, 20),
          trait: { name, unit, ...(unit === 'score' ? { kind: 'score' as const } : {}) },
        },
        [
          unit === 'd'
            ? /Wool gave 3\.0\d? more days to flower than straw/
            : unit === 'score'
              ? /vigour was 3\.0\d? steps higher than with straw/
              : new RegExp(`${name} was 3\\.0\\d? ${unit} higher than with straw`),
        ],
        [/gave 3\.0\d? (cm|°C) more/],
      ),
  ),
  ...each(
    [
      ['no', 'yes'],
      ['more', 'less'],
      ['5', '10'],
      ['significant', 'none'],
      ['not', 'and'],
      ['than', 'gave'],
      ['high', 'low'],
      ['once', 'twice'],
      ['1', '2'],
      ['true', 'false'],
      ['old', 'new'],
    ] as const,
    ([a, b]) =>
      made(
        `levels called ${a} and ${b}`,
        { factors: { cover: [a, b] }, value: of('cover', { [a]: 2 }) },
        [new RegExp(`[Cc]over “${a}” gave 2\\.0\\d? t/ha more yield than cover “${b}”`)],
        [new RegExp(`than ${b} |^${a} gave`, 'i')],
      ),
  ),
  ...each(['A: new', 'B; old', 'C, wide', 'D (late)', 'E and F', 'G “best”'], (name) =>
    made(`a level called ${name}`, { factors: { cover: [name, 'bare'] }, value: of('cover', { [name]: 2 }) }, [
      /[Cc]over “.*” gave 2\.0\d? t\/ha more yield than bare/,
    ]),
  ),
  made('levels that two factors share', { factors: { nitrogen: ['N', 'M'], water: ['N', 'W'] }, value: of('nitrogen', { N: 2 }) }, [
    /[Nn]itrogen N gave 2\.0\d? t\/ha more yield than M/,
  ]),
  made('names of differing case', { factors: { cover: ['Straw', 'straw'] }, value: of('cover', { Straw: 2 }) }, [
    /[Cc]over Straw gave 2\.0\d? t\/ha more yield than cover straw/,
  ]),
  made('a symbol at the start keeps its case', { factors: { feed: ['zn', 'fe'] }, value: of('feed', { zn: 2 }) }, [/^zn gave/m]),
  ...each(
    [
      ['cultivar', 'no'],
      ['mulch depth', 'none'],
    ] as const,
    ([factor, level]) =>
      made(
        `${factor} with two factors, ${level}`,
        { factors: { [factor]: [level, 'some kind'], water: ['W1', 'W2'] }, value: of(factor, { 'some kind': 2 }) },
        [new RegExp(`[Ss]ome kind”? gave 2\\.0\\d? t/ha more yield than ${factor} “${level}”`)],
      ),
  ),
  ...each(['one', 'two', 'three'], (word) =>
    made(`one-level ${word}`, { factors: { feed: [word] }, value: () => 6 }, [
      /with values for one level of feed only there is nothing to compare|one level only/,
    ]),
  ),
]

language.push(
  ...each(
    [
      ['Weeds', 'no./m2', 'per m²'],
      ['plants', 'plants/m2', 'per m2'],
      ['shoots', 'm-2', 'per m²'],
    ] as const,
    ([name, unit, said]) =>
      made(
        `${name} in ${unit}`,
        { factors: { cover: ['bare', 'rye'] }, noise: 3, value: of('cover', { rye: -30 }, 60), trait: { name, unit, kind: 'count' } },
        [new RegExp(`Bare gave 30\\.0 more ${name} ${said} than rye`)],
        [/\(no\.|\(plants/],
      ),
  ),
  made(
    'whips alive are counted',
    { factors: { store: ['cold', 'cool'] }, noise: 0.5, value: of('store', { cool: -4 }, 20), trait: { name: 'whips alive', unit: '' } },
    [/gave 4\.0\d? more whips alive than/],
  ),
)

// ————— cautions

const cautions: Case[] = [
  ...each([2, 3], (blocks) =>
    made(
      `few degrees of freedom and a narrow interval, ${blocks}`,
      { factors: { feed: ['F1', 'F2', 'F3'] }, blocks, noise: 0.02, value: of('feed', { F2: 3 }) },
      [/How far chance goes is known only roughly/],
      [/intervals are wide|easily missed/],
    ),
  ),
  made(
    'uneven spread',
    {
      factors: { feed: ['F1', 'F2', 'F3'] },
      blocks: 8,
      noise: 0.05,
      value: ({ levels, block }) => 6 + (levels['feed'] === 'F3' ? (block % 2 === 0 ? 3 : -3) : 0),
    },
    [/scatter more than others/],
  ),
  ...each(['systematic', 'not randomised'] as const, (how) =>
    made(
      `${how} is said before losses`,
      {
        factors: { feed: ['F1', 'F2', 'F3'] },
        how,
        blocks: 5,
        value: of('feed', { F2: 3 }),
        lost: ({ levels, block }) => levels['feed'] === 'F1' && block === 1,
      },
      [/was not randomised[\s\S]*is missing/],
    ),
  ),
]

export const corpus: readonly (readonly [string, readonly Case[]])[] = [
  ['averages after an interaction', interactions],
  ['per cent', percent],
  ['reasons', reasons],
  ['planned comparisons and trends', planned],
  ['best of many', many],
  ['one-sided questions', oneSided],
  ['strength of the verb', verbs],
  ['scales', scales],
  ['what is lacking or cannot be told apart', lacking],
  ['one plot', onePlot],
  ['levels and p', levels],
  ['digits', digits],
  ['language', language],
  ['cautions', cautions],
]
