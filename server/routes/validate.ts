/** Validation of what comes in, answered in the one shape that errors have. */
import { zValidator } from '@hono/zod-validator'
import type { ValidationTargets } from 'hono'
import type { ZodType } from 'zod'
import { Sentence } from '#server/sentence.ts'

export const validate = <T extends ZodType, Target extends keyof ValidationTargets>(target: Target, schema: T) =>
  zValidator(target, schema, (result) => {
    if (!result.success) {
      const issue = result.error.issues[0]
      throw new Sentence(
        `${issue?.path.join('.') ? `${issue.path.join('.')}: ` : ''}${issue?.message ?? 'This cannot be understood.'}`,
        422,
      )
    }
  })
