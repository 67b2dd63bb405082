/** What people may do on a school's server. */

/** What somebody is to the server: a reviewer watches and comments on what is shared, a teacher makes lectures, an administrator looks after people. */
export const PERSON_ROLES = ['reviewer', 'teacher', 'administrator'] as const
export type PersonRole = (typeof PERSON_ROLES)[number]

/** What somebody may do to a lecture; each holds those before it. */
export const RIGHTS = ['see', 'comment', 'edit', 'own'] as const
export type Right = (typeof RIGHTS)[number]

/** What somebody may do to all lectures of a space; who manages it also says who belongs to it. */
export const SPACE_RIGHTS = ['see', 'comment', 'edit', 'manage'] as const
export type SpaceRight = (typeof SPACE_RIGHTS)[number]

const rank = (right: Right | null) => (right === null ? -1 : RIGHTS.indexOf(right))

/** Whether a right holds what is needed. */
export const holds = (has: Right | null, needed: Right) => rank(has) >= rank(needed)

/** @returns the right to each of its lectures that a place in a space gives */
export const rightBySpace = (right: SpaceRight): Right => (right === 'manage' ? 'edit' : right)

/**
 * What somebody may do to a lecture.
 *
 * @param role of the person: a reviewer never changes anything, whatever was given
 * @param given by the lecture itself, and by its space
 * @returns the most of what was given that the role allows; null for nothing
 */
export function rightOf(role: PersonRole, given: readonly Right[]): Right | null {
  const most = given.reduce<Right | null>((best, right) => (holds(best, right) ? best : right), null)
  return role === 'reviewer' && holds(most, 'comment') ? 'comment' : most
}
