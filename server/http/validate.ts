/** Validation of what comes in, answered in the one shape that errors have. */
import { zValidator } from '@hono/zod-validator'
import type { ValidationTargets } from 'hono'
import type { ZodType } from 'zod'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** For changes of which every part is optional. */
export const notEmpty = <T extends object>(change: T): boolean =>
  Object.entries(change).some(([field, value]) => field !== 'was' && value !== undefined)
export const NOTHING_TO_CHANGE = 'Nothing was said that is to be changed.'

export const validate = <T extends ZodType, Target extends keyof ValidationTargets>(target: Target, schema: T) =>
  zValidator(target, schema, (result) => {
    if (!result.success) {
      const issue = result.error.issues[0]
      throw new UserFacingError(
        // a sentence of our own stands for itself; those of the schema library say of what they speak
        /^[A-Z“].*\.$/.test(issue?.message ?? '')
          ? issue!.message
          : `${issue?.path.join('.') || 'This'} cannot be used: ${issue?.message ?? 'it is not understood'}.`,
        422,
      )
    }
  })
