/** Nutrients of a bag, as they are declared: some as oxides. */
export const DECLARED = [
  'N',
  'P2O5',
  'P',
  'K2O',
  'K',
  'S',
  'SO3',
  'Ca',
  'CaO',
  'Mg',
  'MgO',
  'Zn',
  'B',
  'Fe',
  'Mn',
  'Cu',
  'Na',
  'Cl',
] as const
export type Declared = (typeof DECLARED)[number]
