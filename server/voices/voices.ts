/** Who records by a link: known by a name, and by a key that their browser keeps. No account, no address, nothing else. */

import { createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import { VOICE_BOUNDS } from '#core/voices/voice-link.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { voices } from '#server/db/voices-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

export type Voice = typeof voices.$inferSelect

/** 128 random bits need no slow hash. */
const hashOf = (secret: string) => createHash('sha256').update(secret).digest('base64url')

/**
 * Somebody new by a link.
 *
 * @param sent who they are to the platform they came from, and their secret; null for who typed a name
 * @returns the key that their browser shows from now on
 * @throws UserFacingError (429) where the link has as many as it may
 */
export async function joinByLink(
  db: Database,
  token: string,
  name: string,
  sent: { subject: string; secret: string } | null = null,
): Promise<string> {
  const id = randomUUID()
  const secret = sent?.secret ?? randomBytes(16).toString('base64url')
  await db.write(async (tx) => {
    if ((await tx.$count(voices, eq(voices.token, token))) >= VOICE_BOUNDS.voicesPerLink)
      throw new UserFacingError(
        message('As many people as this link is for have come already. Ask the teacher who gave it to you for another one.'),
        429,
      )
    await tx
      .insert(voices)
      .values({ id, token, name, subject: sent?.subject ?? null, keyHash: hashOf(secret), createdAt: Date.now() })
  })
  return `${id}.${secret}`
}

/**
 * Somebody whom a learning platform sends: the same one each time, with the same key.
 *
 * @param subject who they are to the platform
 * @param secret of theirs, by which no other browser knows them
 */
export async function joinAsSubject(db: Database, token: string, name: string, subject: string, secret: string): Promise<string> {
  const [known] = await db.read
    .select()
    .from(voices)
    .where(and(eq(voices.token, token), eq(voices.subject, subject)))
  if (known) return `${known.id}.${secret}`
  return joinByLink(db, token, name, { subject, secret })
}

/** @param key what a browser shows @returns null where it shows nobody of this link */
export async function voiceByKey(read: Tables, token: string, key: string | undefined): Promise<Voice | null> {
  const [id = '', secret = ''] = (key ?? '').split('.')
  if (secret === '') return null
  const [voice] = await read
    .select()
    .from(voices)
    .where(and(eq(voices.id, id), eq(voices.token, token)))
  if (!voice) return null
  return timingSafeEqual(Buffer.from(hashOf(secret)), Buffer.from(voice.keyHash)) ? voice : null
}
