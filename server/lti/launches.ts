/** Somebody in a lecture that a platform opened: how far they have come is kept, and told to the platform when it answers. */

import { randomBytes } from 'node:crypto'
import { and, eq, isNull } from 'drizzle-orm'
import { USUAL_SHARE } from '#core/packages/listening.ts'
import type { LaunchProgress } from '#core/packages/lti.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { ltiLaunches } from '#server/db/lti-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Launch } from './launch.ts'

type LaunchRow = typeof ltiLaunches.$inferSelect

/** Which share of the lecture must be heard, as it was chosen when it was put into the platform. */
export function shareOf({ share }: Record<string, unknown>): number {
  const given = Number(share)
  return given > 0 && given <= 1 ? given : USUAL_SHARE
}

/**
 * Somebody comes, or comes again.
 *
 * @param subject who it is to the platform
 * @param token of the link that is opened
 * @returns what their page shows from now on
 */
export async function keepLaunch(db: Database, launch: Launch, subject: string, token: string): Promise<string> {
  const { platform, lineItem, custom } = launch
  const now = Date.now()
  const same = and(
    eq(ltiLaunches.platformId, platform.id),
    eq(ltiLaunches.token, token),
    eq(ltiLaunches.subject, subject),
    lineItem === null ? isNull(ltiLaunches.lineItem) : eq(ltiLaunches.lineItem, lineItem),
  )
  return db.write(async (tx) => {
    const [known] = await tx.select().from(ltiLaunches).where(same)
    if (known) return known.id
    const id = randomBytes(24).toString('base64url')
    const row = { id, platformId: platform.id, token, subject, lineItem, share: shareOf(custom), createdAt: now, changedAt: now }
    await tx.insert(ltiLaunches).values(row)
    return id
  })
}

/** @throws UserFacingError (404) when it is none of this link */
export async function launchRow(read: Tables, token: string, id: string): Promise<LaunchRow> {
  const [row] = await read
    .select()
    .from(ltiLaunches)
    .where(and(eq(ltiLaunches.id, id), eq(ltiLaunches.token, token)))
  if (!row)
    throw new UserFacingError(
      message('The learning platform does not know this page any more. Open the lecture there again.'),
      404,
    )
  return row
}

/** Keeps how far somebody has come: a result never falls, whatever a second tab tells. */
export async function keepProgress(db: Database, row: LaunchRow, { heard, result, isCompleted }: LaunchProgress) {
  await db.write((tx) =>
    tx
      .update(ltiLaunches)
      .set({
        heard,
        result: Math.max(row.result, result),
        isCompleted: row.isCompleted || isCompleted,
        changedAt: Date.now(),
        // what is new is told at once, also where the platform was silent before
        ...(result > row.result ? { nextTryAt: 0 } : {}),
      })
      .where(eq(ltiLaunches.id, row.id)),
  )
}
