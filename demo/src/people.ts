/** The crew of the invented station, and somebody who judges beside them. */
export const CREW = { id: '00000000-0000-7000-8000-0000000000c1', name: 'Quillon Vale crew' }
export const GRADER = { id: '00000000-0000-7000-8000-0000000000c2', name: 'Tern Lane grader' }
