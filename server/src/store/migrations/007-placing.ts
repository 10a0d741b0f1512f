import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '007-placing'

/** What is said of a site and its ground besides the measures, which was nothing, and what the design calls a unit whose stake bears another number. */
export async function up({ act }: Run): Promise<void> {
  await act(`ALTER TABLE unit ADD COLUMN counted TEXT`)
  await act(`ALTER TABLE site ADD COLUMN facts JSON NOT NULL DEFAULT '{"place":"","history":"","troubles":"","crops":[],"soilTests":[]}'`)
  await act(`ALTER TABLE site ADD COLUMN shelf TEXT`)
  const walk = '{"along":"rows","toAndFro":true,"from":"nearest","by":"block","first":"as they lie"}'
  const treat = walk.replace('as they lie', 'untreated first')
  const said = `{"rows":null,"stretches":null,"pathEvery":0,"pathWidth":0,"guardPlots":0,"guardRows":0,"fillers":false,"round":false,"offset":false,
"anchor":null,"bearing":null,"gradient":null,"outline":null,"avoid":[],"moved":{},"parts":[],
"numbering":{"scheme":"as designed","from":"front left","toAndFro":false,"siteThousands":false,"own":{}},
"orders":{"walk":${walk},"plant":${walk},"treat":${treat},"harvest":${walk}}}`
  // json_patch drops what is null: each field is set by itself.
  const fields = Object.entries(JSON.parse(said) as Record<string, unknown>)
  const pairs = fields.map(([field, value]) => `'$.${field}', json('${JSON.stringify(value)}')`).join(', ')
  await act(`UPDATE site SET ground = json_insert(ground, ${pairs})`)
}
