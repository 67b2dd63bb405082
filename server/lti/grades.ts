/**
 * Results on their way to platforms: tried again and again until they are taken, ever more seldom.
 *
 * @see 1EdTech LTI Assignment and Grade Services 2.0, §3.4 "Score publish service"; Security Framework 1.0, §4.1 "OAuth 2 client credentials"
 */

import { randomUUID } from 'node:crypto'
import { and, eq, gt, isNotNull, isNull, lte, or } from 'drizzle-orm'
import { SignJWT } from 'jose'
import type { AppContext } from '#server/context/context.ts'
import type { Database } from '#server/db/database.ts'
import { ltiLaunches } from '#server/db/lti-schema.ts'
import { PATIENCE_MS, SCORE_SCOPE } from './launch.ts'
import { ALGORITHM, ownKey, type Platform, platformById } from './platforms.ts'

const MOST = 100
const [FIRST_WAIT_MS, LONGEST_WAIT_MS] = [30_000, 6 * 3600_000]
/** Told at once. */
const AT_ONCE = 50

/** How long a platform is left alone after it has not answered so often in a row. */
export const waitAfter = (failures: number) => Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (failures - 1))

/** Tokens that platforms gave, until they run out. */
const tokens = new Map<string, { token: string; until: number }>()

async function accessToken(db: Database, platform: Platform): Promise<string> {
  const known = tokens.get(platform.id)
  if (known && known.until > Date.now()) return known.token
  const { id, privateKey } = await ownKey(db)
  const assertion = await new SignJWT()
    .setProtectedHeader({ alg: ALGORITHM, kid: id })
    .setIssuer(platform.clientId)
    .setSubject(platform.clientId)
    .setAudience(platform.tokenUrl)
    .setIssuedAt()
    .setExpirationTime('5m')
    .setJti(randomUUID())
    .sign(privateKey)
  const answer = await fetch(platform.tokenUrl, {
    method: 'POST',
    body: new URLSearchParams({
      grant_type: 'client_credentials',
      client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
      client_assertion: assertion,
      scope: SCORE_SCOPE,
    }),
    signal: AbortSignal.timeout(PATIENCE_MS),
  })
  if (!answer.ok) throw new Error(`${platform.tokenUrl} answered ${answer.status}`)
  const { access_token: token, expires_in: seconds = 3600 } = (await answer.json()) as {
    access_token?: string
    expires_in?: number
  }
  if (typeof token !== 'string') throw new Error(`${platform.tokenUrl} gave no token`)
  // not to the last moment: it must still be good when it arrives
  tokens.set(platform.id, { token, until: Date.now() + Math.max(0, seconds - 60) * 1000 })
  return token
}

/** Where scores of a line item go: its own query stays behind it. @see AGS 2.0, §3.4.1 */
export function scoresAddress(lineItem: string): string {
  const address = new URL(lineItem)
  address.pathname = `${address.pathname.replace(/\/$/, '')}/scores`
  return address.href
}

async function sendOne(db: Database, platform: Platform, row: typeof ltiLaunches.$inferSelect) {
  const token = await accessToken(db, platform)
  const answer = await fetch(scoresAddress(row.lineItem!), {
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/vnd.ims.lis.v1.score+json' },
    body: JSON.stringify({
      userId: row.subject,
      scoreGiven: Math.round(row.result * MOST),
      scoreMaximum: MOST,
      activityProgress: row.isCompleted ? 'Completed' : 'InProgress',
      gradingProgress: row.isCompleted ? 'FullyGraded' : 'Pending',
      timestamp: new Date(row.changedAt).toISOString(),
    }),
    signal: AbortSignal.timeout(PATIENCE_MS),
  })
  if (answer.status === 401) tokens.delete(platform.id)
  // a score of another page that is newer than this one was taken already
  if (!answer.ok && answer.status !== 409) throw new Error(`${new URL(row.lineItem!).host} answered ${answer.status}`)
}

let under: Promise<void> | null = null

/** Tells platforms what they have not taken yet; asked for while it goes on, it is done once more after that. */
export function sendGrades(context: Pick<AppContext, 'db'>, now = Date.now()): Promise<void> {
  under = (under ?? Promise.resolve())
    .then(() => sendWaiting(context, now))
    .catch((error) => console.error('Results could not be told yet:', error))
  return under
}

async function sendWaiting({ db }: Pick<AppContext, 'db'>, now: number) {
  const isNew = or(isNull(ltiLaunches.toldResult), gt(ltiLaunches.result, ltiLaunches.toldResult))
  const waiting = await db.read
    .select()
    .from(ltiLaunches)
    .where(and(isNotNull(ltiLaunches.lineItem), gt(ltiLaunches.result, 0), isNew, lte(ltiLaunches.nextTryAt, now)))
    .limit(AT_ONCE)
  for (const row of waiting) {
    const platform = await platformById(db.read, row.platformId)
    if (!platform) continue
    const outcome = await sendOne(db, platform, row).then(
      () => ({ toldResult: row.result, failures: 0, problem: null }),
      (error: Error) => {
        const failures = row.failures + 1
        return { failures, nextTryAt: now + waitAfter(failures), problem: error.message.slice(0, 300) }
      },
    )
    await db.write((tx) => tx.update(ltiLaunches).set(outcome).where(eq(ltiLaunches.id, row.id)))
  }
}
