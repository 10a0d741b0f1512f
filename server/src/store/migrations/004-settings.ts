import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '004-settings'

/** What a design asks besides its replicates: nothing was said of it before. */
export async function up({ act }: Run): Promise<void> {
  await act(`UPDATE site SET design = json_set(design, '$.settings', json('{}')) WHERE json_type(design, '$.settings') IS NULL`)
}
