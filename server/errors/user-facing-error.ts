/** An error whose message is meant for the person at the screen: what happened and what to do. */

import { HTTPException } from 'hono/http-exception'
import { SaidError } from '#core/words/said-error.ts'
import { type Message, message } from '#core/words/say.ts'

export class UserFacingError extends SaidError {
  readonly status: 400 | 401 | 403 | 404 | 409 | 413 | 415 | 422 | 429 | 500 | 503 | 507
  /** Data for the program that asked, such as the chunk expected next. */
  readonly data: Record<string, unknown>

  constructor(said: Message, status: UserFacingError['status'] = 400, data: UserFacingError['data'] = {}) {
    super(said)
    this.status = status
    this.data = data
  }
}

/** @returns a sentence for the person; what we did not foresee is named as such, without inner details */
export function asUserFacing(error: unknown): UserFacingError {
  if (error instanceof UserFacingError) return error
  // what the web framework refuses before a route is asked
  if (error instanceof HTTPException && error.status < 500)
    return error.status === 413
      ? new UserFacingError(message('This is more than can be taken at once.'), 413)
      : new UserFacingError(message('This request cannot be read. Load the page again.'), error.status === 415 ? 415 : 400)
  // a row that something points to was taken away meanwhile
  if (/SQLITE_CONSTRAINT/.test(`${error} ${(error as Error | null)?.cause ?? ''}`))
    return new UserFacingError(
      message('What this belongs to was changed in another window meanwhile. Look at it again, then repeat it.'),
      409,
    )
  if (isDiskFull(error))
    return new UserFacingError(message('The disk is full. Free some space; what was saved before is untouched.'), 507)
  return new UserFacingError(
    message('Something went wrong inside Tidy Lectern. What was saved before is untouched; try again.'),
    500,
  )
}

export function isDiskFull(error: unknown): boolean {
  const code = (error as { code?: unknown } | null)?.code
  // an error that comes from another thread has lost its code
  const told = /\b(ENOSPC|EDQUOT|EFBIG|SQLITE_FULL)\b|database or disk is full/
  // the database layer wraps what the database said
  const { cause } = (error ?? {}) as { cause?: unknown }
  return code === 'ENOSPC' || code === 'EDQUOT' || code === 'EFBIG' || told.test(`${error} ${cause ?? ''}`)
}
