/** What a migration may do, inside the transaction that also marks it as done. */
export interface Run {
  readonly act: (sql: string, values?: unknown[]) => Promise<void>
  readonly rows: (sql: string) => Promise<Record<string, unknown>[]>
}
