/** What is written down, a word each. */
export const AUDITED = [
  'set-up',
  'signed-in',
  'signed-out',
  'invited',
  'joined',
  'role',
  'left',
  'returned',
  'erased',
  'password',
  'password-asked',
  'space',
  'space-member',
  'shared',
  'handed-over',
  'quota',
] as const
export type Audited = (typeof AUDITED)[number]
