import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '006-again'

/** Sites that are the plots of another in a later season: there were none. */
export async function up({ act }: Run): Promise<void> {
  await act(`ALTER TABLE site ADD COLUMN again TEXT`)
}
