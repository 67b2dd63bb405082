import type { PersonRole } from './rights.ts'

/** Somebody who signed in. */
export interface Person {
  id: string
  name: string
  email: string
  role: PersonRole
}
