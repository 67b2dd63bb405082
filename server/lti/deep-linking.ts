/**
 * A teacher chooses, from within a platform, what of this server is put into a course.
 *
 * @see 1EdTech LTI Deep Linking 2.0, §4.4 "Deep linking response", §3 "Content items"
 */

import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, isNull } from 'drizzle-orm'
import { jwtVerify, SignJWT } from 'jose'
import type { Person } from '#core/people/person.ts'
import { holds } from '#core/people/rights.ts'
import { isOpen } from '#core/voices/voice-link.ts'
import { message } from '#core/words/say.ts'
import { z } from '#core/zod.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Database } from '#server/db/database.ts'
import { people } from '#server/db/people-schema.ts'
import { editions, lectures, links } from '#server/db/schema.ts'
import { voiceLinks } from '#server/db/voices-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { rightTo } from '#server/people/lecture-rights.ts'
import { newToken } from '#server/watch/token.ts'
import type { Launch } from './launch.ts'
import { ALGORITHM, ownKey, type Platform, platformById } from './platforms.ts'

/** A choice is made within it. */
const PICK_TIME = '1h'
const PICKING = 'lectern-pick'
const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim'
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim'
const MOST_SCORE = 100

export interface Pickable {
  kind: 'lecture' | 'class'
  /** Of the lecture, or token of the link to record by. */
  id: string
  title: string
}

/** Who of a school's people the platform says it is; null where one person is alone, or nobody is known by that address. */
async function personBy({ db, school }: AppContext, email: string | null): Promise<Person | null> {
  if (!school || email === null) return null
  const [row] = await db.read.select().from(people).where(eq(people.email, email.toLowerCase()))
  // an address that nobody has looked at may be anybody's
  return row?.emailVerified && row.leftAt === null
    ? ({ id: row.id, name: row.name, email: row.email, role: row.role } as Person)
    : null
}

/** @returns published lectures, and links of classes, that whoever came may put into a course */
export async function pickable(context: AppContext, email: string | null): Promise<Pickable[]> {
  const { db, school } = context
  const published = await db.read
    .selectDistinct({ id: lectures.id, title: lectures.title, updatedAt: lectures.updatedAt })
    .from(lectures)
    .innerJoin(editions, and(eq(editions.lectureId, lectures.id), isNull(editions.deletedAt)))
    .where(isNull(lectures.deletedAt))
    .orderBy(desc(lectures.updatedAt))
  const classes = await db.read
    .select({ id: voiceLinks.token, title: voiceLinks.name, lectureId: voiceLinks.lectureId, expiresAt: voiceLinks.expiresAt })
    .from(voiceLinks)
    .innerJoin(lectures, and(eq(lectures.id, voiceLinks.lectureId), isNull(lectures.deletedAt)))
    .where(and(eq(voiceLinks.kind, 'class'), isNull(voiceLinks.revokedAt)))
    .orderBy(asc(voiceLinks.name))
  const person = await personBy(context, email)
  const allowed = async (lectureId: string) =>
    !school || (person !== null && holds(await rightTo(db.read, person, lectureId), 'edit'))
  const found: Pickable[] = []
  for (const { id, title } of published) if (await allowed(id)) found.push({ kind: 'lecture', id, title })
  const open = classes.filter(({ expiresAt }) => isOpen({ revokedAt: null, expiresAt }, Date.now()))
  for (const { id, title, lectureId } of open) if (await allowed(lectureId)) found.push({ kind: 'class', id, title })
  return found
}

const Picking = z.object({
  platformId: z.string(),
  deploymentId: z.string(),
  returnUrl: z.string(),
  data: z.string().optional(),
  email: z.string().nullable(),
})
type Picking = z.infer<typeof Picking>

/** What a page of choices brings back to show which message it answers: signed, so that nobody else makes one. */
export async function signPicking(db: Database, { platform, deploymentId, deepLinking, email }: Launch): Promise<string> {
  const { id, privateKey } = await ownKey(db)
  const picking: Picking = {
    platformId: platform.id,
    deploymentId,
    returnUrl: deepLinking!.returnUrl,
    ...(deepLinking!.data === undefined ? {} : { data: deepLinking!.data }),
    email,
  }
  return new SignJWT({ ...picking })
    .setProtectedHeader({ alg: ALGORITHM, kid: id })
    .setAudience(PICKING)
    .setIssuedAt()
    .setExpirationTime(PICK_TIME)
    .sign(privateKey)
}

/** @throws UserFacingError (403) for what was not signed here, or too long ago */
export async function readPicking(db: Database, token: string): Promise<Picking> {
  const { publicKey } = await ownKey(db)
  const { payload } = await jwtVerify(token, publicKey, { audience: PICKING, algorithms: [ALGORITHM] }).catch(() => {
    throw new UserFacingError(message('This choice took too long. Open it from the learning platform again.'), 403)
  })
  return Picking.parse(payload)
}

/** Pages of a platform may come from where it lets people sign in, and from where it says it is. */
export function originsOf({ authorizationUrl, issuer }: Pick<Platform, 'authorizationUrl' | 'issuer'>): string[] {
  const all = [authorizationUrl, issuer]
    .filter((one) => URL.canParse(one) && /^https?:/.test(one))
    .map((one) => new URL(one).origin)
  return [...new Set(all)]
}

/** The link by which a platform opens a lecture, made when it is first chosen there. @returns its token */
async function linkFor(db: Database, platform: Platform, lectureId: string): Promise<string> {
  const embedIn = originsOf(platform)
  return db.write(async (tx) => {
    const same = and(eq(links.lectureId, lectureId), eq(links.name, platform.name), isNull(links.revokedAt))
    const open = await tx.select().from(links).where(same)
    const known = open.find((link) => link.embedIn !== null && embedIn.every((origin) => link.embedIn!.includes(origin)))
    if (known) return known.token
    const token = newToken()
    await tx.insert(links).values({ token, lectureId, name: platform.name, createdAt: Date.now(), embedIn })
    return token
  })
}

/**
 * Puts a choice into the platform's course.
 *
 * @param launchAddress where the platform opens it from then on
 * @param share how much of a lecture must be heard, 0 to 1
 * @returns where the answer goes, and the answer
 */
export async function answerPicking(
  context: AppContext,
  picking: Picking,
  chosen: { kind: Pickable['kind']; id: string },
  launchAddress: string,
  share: number,
): Promise<{ returnUrl: string; jwt: string; platform: Platform }> {
  const { db } = context
  const platform = await platformById(db.read, picking.platformId)
  const item = (await pickable(context, picking.email)).find((one) => one.kind === chosen.kind && one.id === chosen.id)
  if (!platform || !item)
    throw new UserFacingError(
      message('What was chosen is not here any more. Open the choice from the learning platform again.'),
      404,
    )
  const { title } = item
  const content =
    item.kind === 'lecture'
      ? {
          type: 'ltiResourceLink',
          title,
          url: launchAddress,
          custom: { link: await linkFor(db, platform, item.id), share: String(share) },
          lineItem: { label: title, scoreMaximum: MOST_SCORE, resourceId: item.id },
        }
      : // a microphone is given to a page of its own, hardly ever to one within another
        { type: 'ltiResourceLink', title, url: launchAddress, custom: { record: item.id }, window: { targetName: '_blank' } }
  const { id, privateKey } = await ownKey(db)
  const jwt = await new SignJWT({
    [`${CLAIM}/message_type`]: 'LtiDeepLinkingResponse',
    [`${CLAIM}/version`]: '1.3.0',
    [`${CLAIM}/deployment_id`]: picking.deploymentId,
    [`${DL}/content_items`]: [content],
    ...(picking.data === undefined ? {} : { [`${DL}/data`]: picking.data }),
    nonce: randomUUID(),
  })
    .setProtectedHeader({ alg: ALGORITHM, kid: id })
    .setIssuer(platform.clientId)
    .setAudience(platform.issuer)
    .setIssuedAt()
    .setExpirationTime('5m')
    .sign(privateKey)
  return { returnUrl: picking.returnUrl, jwt, platform }
}
