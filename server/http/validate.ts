/** Validation of what comes in, answered in the one shape that errors have. */

import type { ValidationTargets } from 'hono'
import { validator } from 'hono-openapi'
import type { ZodType } from 'zod'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** For changes of which every part is optional. */
export const notEmpty = <T extends object>(change: T): boolean =>
  Object.entries(change).some(([field, value]) => field !== 'was' && value !== undefined)
export const NOTHING_TO_CHANGE = message('Nothing was said that is to be changed.').id

/** Fields of a path, however the schema library says them. */
const pathOf = (path: readonly (PropertyKey | { key: PropertyKey })[] = []) =>
  path.map((step) => String(typeof step === 'object' ? step.key : step)).join('.')

/** Checks what comes in; the page of the API (`/api/docs`) is made of the same schemas. */
export const validate = <T extends ZodType, Target extends keyof ValidationTargets>(target: Target, schema: T) =>
  validator(target, schema, (result) => {
    if (!result.success) {
      const [issue] = result.error
      throw new UserFacingError(
        // a sentence of our own stands for itself; those of the schema library say of what they speak
        /^[A-Z“].*\.$/.test(issue?.message ?? '')
          ? { id: issue!.message }
          : message('“{field}” cannot be used: {why}.', { field: pathOf(issue?.path), why: issue?.message ?? '' }),
        422,
      )
    }
  })
