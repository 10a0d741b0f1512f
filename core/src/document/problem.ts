/** What is wrong with a trial, where, in words for the person who can mend it. */
export interface DocumentProblem {
  readonly path: string
  readonly message: string
}

/** An edit, an undo or an import that would leave a trial that cannot be. */
export class DocumentError extends Error {
  readonly problems: readonly DocumentProblem[]
  constructor(problems: readonly DocumentProblem[]) {
    super(problems[0]?.message ?? 'The trial cannot be so.')
    this.problems = problems
  }
}
