/** Names of languages. */
import { z } from 'zod'

// the page's Content-Security-Policy forbids generated code, which Zod would try for speed
z.config({ jitless: true })

export const Language = z.string().regex(/^[A-Za-z]{2,3}(-[A-Za-z0-9]{1,8})*$/, 'a language is written like en or pt-BR (BCP 47)')
