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

/** Atomic masses, g/mol (IUPAC 2021, abridged). */
const MASS = { O: 15.999, P: 30.973762, S: 32.06, K: 39.0983, Ca: 40.078, Mg: 24.305 } as const

/** The element in each oxide, and its share of the oxide by weight. */
export const OXIDES: Readonly<Record<string, { readonly element: Declared; readonly share: number }>> = {
  P2O5: { element: 'P', share: (2 * MASS.P) / (2 * MASS.P + 5 * MASS.O) },
  K2O: { element: 'K', share: (2 * MASS.K) / (2 * MASS.K + MASS.O) },
  SO3: { element: 'S', share: MASS.S / (MASS.S + 3 * MASS.O) },
  CaO: { element: 'Ca', share: MASS.Ca / (MASS.Ca + MASS.O) },
  MgO: { element: 'Mg', share: MASS.Mg / (MASS.Mg + MASS.O) },
}
