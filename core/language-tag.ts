/** Names of languages. */

import { message } from '#core/words/say.ts'
import { z } from './zod.ts'

/** Whether every part of a tag is where it may be: "en-a" promises an extension and brings none. @see BCP 47 (RFC 5646), §2.2.9 */
function isWellFormed(tag: string): boolean {
  try {
    return Intl.getCanonicalLocales(tag).length === 1
  } catch {
    return false
  }
}

const WRITTEN = message('A language is written like en or pt-BR (BCP 47).').id
export const Language = z
  .string()
  .max(100, WRITTEN)
  .regex(/^[A-Za-z]{2,3}(-[A-Za-z0-9]{1,8})*$/, WRITTEN)
  .refine(isWellFormed, WRITTEN)
