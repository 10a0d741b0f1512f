/** A table of text as somebody made it: any columns, each row with its line in the file. */
export interface Source {
  /** What it is called, for the history. */
  readonly name: string
  readonly columns: readonly string[]
  readonly rows: readonly { readonly line: number; readonly cells: readonly string[] }[]
}
