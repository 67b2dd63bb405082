import type { PersonRole } from './rights.ts'

/** Somebody who signed in. */
export interface Person {
  id: string
  name: string
  email: string
  role: PersonRole
}

/** Somebody who looks at a lecture now. */
export interface Here {
  personId: string
  name: string
  /** Of the slide they have open; null where they look at all of it. */
  slideId: string | null
}
