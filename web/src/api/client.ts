import createClient from 'openapi-fetch'

import type { components, paths } from './schema.gen'

type Schemas = components['schemas']
export type Problem = Schemas['Problem']

/** A request that was refused or did not arrive; `problem.message` is one sentence for the user. */
export class RequestFailed extends Error {
  readonly problem: Problem

  constructor(problem: Problem) {
    super(problem.message)
    this.problem = problem
  }
}

export const api = createClient<paths>({ baseUrl: '/' })

const unreachable: Problem = {
  code: 'unreachable',
  message: 'The server does not answer. Nothing is lost: try again in a moment.',
  field: '',
  details: {},
}

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** The one place that tests for failure: returns what came, or throws RequestFailed. */
export async function answered<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new RequestFailed(unreachable)
  }
  if (answer.response.ok && answer.data !== undefined) return answer.data
  const error = answer.error
  const told = typeof error === 'object' && error !== null && 'message' in error && 'code' in error
  throw new RequestFailed(told ? (error as Problem) : unreachable)
}
