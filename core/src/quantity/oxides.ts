/** Atomic masses, g/mol (IUPAC 2021, abridged). */
const MASS = { O: 15.999, P: 30.973762, S: 32.06, K: 39.0983, Ca: 40.078, Mg: 24.305 } as const

/** Oxides that bags and tests are told in: the element of each, and its share of the oxide by weight. */
export const OXIDES: Readonly<Record<string, { readonly element: string; readonly share: number }>> = {
  P2O5: { element: 'P', share: (2 * MASS.P) / (2 * MASS.P + 5 * MASS.O) },
  K2O: { element: 'K', share: (2 * MASS.K) / (2 * MASS.K + MASS.O) },
  SO3: { element: 'S', share: MASS.S / (MASS.S + 3 * MASS.O) },
  CaO: { element: 'Ca', share: MASS.Ca / (MASS.Ca + MASS.O) },
  MgO: { element: 'Mg', share: MASS.Mg / (MASS.Mg + MASS.O) },
}

/** The oxide that an element is declared as, if any. */
export function oxideOf(element: string): { readonly oxide: string; readonly share: number } | null {
  const found = Object.entries(OXIDES).find(([, each]) => each.element === element)
  return found ? { oxide: found[0], share: found[1].share } : null
}
