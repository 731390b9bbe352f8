import createClient from 'openapi-fetch'

import { whenReleased } from './pressed'
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

/** The server takes changes only with the token that it gave this very page. */
api.use({
  onRequest: ({ request }) => {
    const token = /(?:^|; )(?:__Host-)?zesty-csrf=([^;]+)/.exec(document.cookie)?.[1]
    if (token) request.headers.set('x-zesty-csrf', token)
    return request
  },
})

/** Whether it was refused because nobody is signed in any more. */
export const isSignedOut = (error: unknown) => error instanceof RequestFailed && error.problem.code === 'signed_out'

/** Whether it did not arrive. */
export const isUnreachable = (error: unknown) => error instanceof RequestFailed && error.problem.code === 'unreachable'

/** What passes by itself: asked again in a moment, the same may be taken. */
const MOMENTARY = ['unreachable', 'busy', 'no_database', 'gone']
export const isMomentary = (error: unknown) => error instanceof RequestFailed && MOMENTARY.includes(error.problem.code)

/** What to say of a request that failed. */
export const messageOf = (error: unknown, otherwise: string) => (error instanceof RequestFailed ? error.problem.message : otherwise)

/** Whether what is stored can no longer be read. */
export const isUnreadable = (error: unknown) => error instanceof RequestFailed && error.problem.code === 'unreadable'

/** Whether somebody else changed the same thing meanwhile. */
export const isClash = (error: unknown) => error instanceof RequestFailed && error.problem.code === 'conflict'

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
    await whenReleased()
    throw new RequestFailed(unreachable)
  }
  // What follows from it may move the page.
  await whenReleased()
  if (answer.response.ok && answer.data !== undefined) return answer.data
  const error = answer.error
  const told = typeof error === 'object' && error !== null && 'message' in error && 'code' in error
  throw new RequestFailed(told ? (error as Problem) : unreachable)
}
