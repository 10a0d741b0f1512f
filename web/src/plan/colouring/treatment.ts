import { base, type Colouring } from './colouring.ts'

export const treatment: Colouring = {
  key: 'treatment',
  name: 'Treatment',
  analysed: false,
  available: () => true,
  look: (ground) => ({ of: (unit) => base(ground, unit), key: { kind: 'treatments' } }),
}
