/** Zod as the core uses it. */
import { z } from 'zod'

// the page's Content-Security-Policy forbids generated code, which Zod would try for speed
z.config({ jitless: true })

export { z }
