import { Problem } from '@canter/core/trial'

/** A problem reply of the server, kept whole so that a form can say where it is. */
export class ApiProblem extends Error {
  readonly problem: Problem
  constructor(problem: Problem) {
    super(problem.detail)
    this.problem = problem
  }
}

/** The server did not answer: no signal, or it is not running. */
export class NoAnswer extends Error {
  constructor() {
    super('The server does not answer. What you enter is kept on this device and sent when it does.')
  }
}

export async function request<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response
  try {
    const init: RequestInit = { method }
    if (body instanceof Blob) init.body = body
    else if (body !== undefined) {
      init.body = JSON.stringify(body)
      init.headers = { 'Content-Type': 'application/json' }
    }
    response = await fetch(path, init)
  } catch {
    throw new NoAnswer()
  }
  if (response.ok) return (await response.json()) as T
  throw await problemOf(response)
}

async function problemOf(response: Response): Promise<Error> {
  const parsed = Problem.safeParse(await response.json().catch(() => null))
  if (parsed.success) return new ApiProblem(parsed.data)
  // A proxy or a stopped server answers without a problem document.
  return response.status >= 500 ? new NoAnswer() : new Error(`The server answered ${response.status}.`)
}
