import { given, over, times, timesRest, workedBy, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

/** One share of what the crop uses that is given back, followed through the days. */
interface Bucket {
  /** Deficit at the end of each day, mm. */
  readonly deficits: readonly number[]
  /** Ran through what was full already, mm. */
  readonly drained: number
  /** Days that ended with nothing left to take. */
  readonly dry: number
}

/**
 * The deficit of the root zone day by day: what was missing, and what the crop used of this share, less rain and
 * what was given; never below nought (the rest runs through) nor above what the soil can hold (the crop goes
 * short). After R. G. Allen and others, FAO Irrigation and Drainage Paper 56, 1998, equation 85, without runoff.
 */
function followed(uses: readonly number[], rain: readonly number[], watered: readonly number[], start: number, holds: number): Bucket {
  let [deficit, drained, dry] = [start, 0, 0]
  const deficits = uses.map((use, i) => {
    const next = deficit + use - (rain[i] ?? 0) - (watered[i] ?? 0)
    drained += Math.max(0, -next)
    deficit = Math.min(holds, Math.max(0, next))
    if (next >= holds) dry++
    return deficit
  })
  return { deficits, drained, dry }
}

export const waterBalance: Calculation = {
  key: 'water-balance',
  name: 'Deficit day by day, and water to give',
  group: 'water',
  about:
    'The deficit of the root zone day by day from evapotranspiration, a crop coefficient, rain and what was given, for each share of the crop’s use that is given back; and what to give now, with the water each share saves.',
  inputs: [
    {
      key: 'reference',
      name: 'Reference evapotranspiration of each day',
      unit: 'mm/d',
      kind: 'several',
      high: 20,
      example: '4.2 4.8 5.1 3.9 4.4 5.0 4.6',
    },
    { key: 'rain', name: 'Rain of each day', unit: 'mm', kind: 'several', example: '0 0 6.5 0 0 0 1.2' },
    { key: 'given', name: 'Given on each day', unit: 'mm', kind: 'several', optional: true, example: '0 0 0 0 0 0 0' },
    { key: 'coefficient', name: 'Crop coefficient', unit: '', high: 2, aboveNought: true, example: '0.95' },
    {
      key: 'shares',
      name: 'Shares of its use that are given back',
      unit: '%',
      kind: 'several',
      high: 200,
      aboveNought: true,
      example: '100 75 50',
    },
    { key: 'start', name: 'Deficit before the first day', unit: 'mm', usual: 0, example: '12' },
    { key: 'holds', name: 'Water the root zone holds for the crop', unit: 'mm', aboveNought: true, example: '60' },
    {
      key: 'depletion',
      name: 'Of it, what may be gone before the crop suffers',
      unit: '%',
      high: 100,
      aboveNought: true,
      usual: 50,
      example: '45',
    },
    {
      key: 'efficiency',
      name: 'Of what is given, what reaches the crop',
      unit: '%',
      high: 100,
      aboveNought: true,
      usual: 100,
      example: '90',
    },
    { key: 'area', from: 'plot area', name: 'Area that is watered', unit: 'm²', aboveNought: true, optional: true, example: '27' },
    { key: 'rate', name: 'What the lines or nozzles give', unit: 'mm/h', aboveNought: true, optional: true, example: '4.5' },
  ],
  cautions: [
    'Of the wettest treatment the deficit may be made up; a drier one stays drier by what it was not given: never fill it up by mistake.',
    'Know where lines and cables run before a probe goes in; power and water apart.',
  ],
  applies: false,
  work: (from) => {
    const [reference, rain, watered, shares] = ['reference', 'rain', 'given', 'shares'].map((key) => from.several(key)) as [number[], number[], number[], number[]] // prettier-ignore
    if (rain.length !== reference.length) throw new RangeError(`There are ${reference.length} days of evapotranspiration and ${rain.length} of rain: type a 0 for a dry day.`) // prettier-ignore
    if (watered.length > 0 && watered.length !== reference.length) throw new RangeError(`There are ${reference.length} days of evapotranspiration and ${watered.length} of what was given.`) // prettier-ignore
    if (from.number('start') > from.number('holds'))
      throw new RangeError('The deficit before the first day is more than the root zone holds.')
    const uses = reference.map((each) => each * from.number('coefficient'))
    const all = (values: readonly number[]): number => values.reduce((sum, each) => sum + each, 0)
    const rained = given('Rain', all(rain), 'mm')
    const found: Record<string, Worked> = {
      use: workedBy('Used by the crop where it has enough', all(uses), 'mm', `evapotranspiration of ${uses.length} days × coefficient`),
      rain: rained,
    }
    const most = Math.max(...shares)
    const gives = new Map<number, Worked>()
    for (const share of shares) {
      const part = uses.map((use) => (use * share) / 100)
      const bucket = followed(part, rain, watered, from.number('start'), from.number('holds'))
      const at = shares.length > 1 ? `, at ${share} %` : ''
      bucket.deficits.forEach((deficit, i) => {
        found[`deficit-${share}-${i + 1}`] = workedBy(
          `Deficit after day ${i + 1}${at}`,
          deficit,
          'mm',
          'deficit before, use, less rain and what was given',
        )
      })
      const deficit = workedBy(`Deficit now${at}`, bucket.deficits.at(-1) ?? from.number('start'), 'mm', 'after the last day')
      const give = workedProduct(`To give${at}`, 'mm', [times(deficit), over(from.of('efficiency'))])
      gives.set(share, give)
      found[`give-${share}`] = give
      if (bucket.drained > 0) found[`drained-${share}`] = given(`Ran through${at}`, bucket.drained, 'mm')
      if (bucket.dry > 0) found[`dry-${share}`] = given(`Days with nothing left to take${at}`, bucket.dry, '')
      if (from.has('area')) found[`water-${share}`] = workedProduct(`Water to give${at}`, 'L', [times(give), times(from.of('area'))])
      if (from.has('rate')) found[`time-${share}`] = workedProduct(`Run time${at}`, 'min', [times(give), over(from.of('rate'))])
    }
    for (const share of shares) {
      if (share === most) continue
      const saved = workedSum(`Saved at ${share} % against ${most} %`, 'mm', [gives.get(most)!], [gives.get(share)!])
      found[`saved-${share}`] = saved
      if (from.has('area')) found[`saved-water-${share}`] = workedProduct(`Water saved at ${share} % against ${most} %`, 'L', [times(saved), times(from.of('area'))]) // prettier-ignore
    }
    const allowed = workedProduct('May be gone before the crop suffers', 'mm', [times(from.of('holds')), times(from.of('depletion'))])
    found['allowed'] = allowed
    found['left'] = workedProduct(`Left to take at ${most} %`, 'mm', [times(from.of('holds')), timesRest(given('Gone', (100 * gives.get(most)!.value * from.number('efficiency')) / 100 / from.number('holds'), '%'))]) // prettier-ignore
    return found
  },
  doubts: (from, figures) =>
    from.several('shares').flatMap((share) => {
      const days = from
        .several('reference')
        .flatMap((_, i) => (figures[`deficit-${share}-${i + 1}`]!.value > figures['allowed']!.value + 1e-9 ? [i + 1] : []))
      const at = from.several('shares').length > 1 ? ` at ${share} %` : ''
      return days.length > 0
        ? [`The deficit${at} passes ${figures['allowed']!.value.toFixed(0)} mm on day ${days[0]}: from there the crop suffers, on ${days.length} of ${from.several('reference').length} days.`] // prettier-ignore
        : []
    }),
}
