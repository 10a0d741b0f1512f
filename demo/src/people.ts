/** The crew of the invented station. */
export const CREW = { id: '00000000-0000-7000-8000-0000000000c1', name: 'Quillon Vale crew' }
