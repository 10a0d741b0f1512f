import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '005-comparisons'

/** Planned comparisons, blinding, treatments a site does not have and the season it is of: nothing was said of them before. */
export async function up({ act }: Run): Promise<void> {
  await act(`ALTER TABLE site ADD COLUMN without JSON NOT NULL DEFAULT '[]'`)
  await act(`ALTER TABLE site ADD COLUMN season INTEGER`)
  await act(
    `UPDATE trial SET treatments = json_set(treatments, '$.comparisons', json('[]'), '$.blinded', json('false'))
     WHERE json_type(treatments, '$.comparisons') IS NULL`,
  )
}
