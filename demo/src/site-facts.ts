import { bareSite, type SiteFacts } from '@canter/core/trial'

/** What the stations know of their ground. */
const KNOWN: Readonly<Record<string, SiteFacts>> = {
  'Hazel Bank': {
    place: 'Quillon Vale station, block 4, gate at the north end',
    history: 'Ploughed every autumn; limed in 2021.',
    troubles: 'Wet corner at the back left; the track along the east side packs the headland.',
    crops: [
      { season: 2023, crop: 'Winter wheat' },
      { season: 2024, crop: 'Oats' },
      { season: 2025, crop: 'Winter wheat' },
    ],
    soilTests: [
      { on: '2024-10-21', depth: '0–30 cm', found: 'pH 7.4, P 21 mg/kg, K 148 mg/kg, Mg 92 mg/kg' },
      { on: '2026-03-04', depth: '0–90 cm', found: '38 kg mineral N/ha' },
    ],
  },
  'Lower Quillon': {
    place: 'Quillon Vale, river terrace below the weir',
    history: 'Shallow tillage since 2019.',
    troubles: 'Dries out in June; sand lens across the middle.',
    crops: [
      { season: 2024, crop: 'Carrots' },
      { season: 2025, crop: 'Winter barley' },
    ],
    soilTests: [{ on: '2025-11-12', depth: '0–30 cm', found: 'pH 6.6, P 34 mg/kg, K 96 mg/kg' }],
  },
  'Tern Lane': {
    place: 'Tern Lane nursery, behind the potting shed',
    history: 'Nursery beds since 2015, green manure every third year.',
    troubles: 'Water runs on from the yard in heavy rain.',
    crops: [{ season: 2024, crop: 'Phacelia, turned in' }],
    soilTests: [{ on: '2024-09-30', depth: '0–20 cm', found: 'pH 6.1, organic matter 4.2 %' }],
  },
}

/** By the name of the place; nothing is known of others. */
export function factsOf(name: string): SiteFacts {
  return KNOWN[name] ?? bareSite.facts
}
