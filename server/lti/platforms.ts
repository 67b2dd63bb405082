/** Learning platforms that were registered, and the key with which the app signs what it sends them. */

import { randomUUID } from 'node:crypto'
import { and, asc, eq, isNull } from 'drizzle-orm'
import { type CryptoKey, exportJWK, generateKeyPair, importJWK, type JWK } from 'jose'
import type { NewPlatform } from '#core/packages/lti.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { ltiKeys, ltiPlatforms } from '#server/db/lti-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

export type Platform = typeof ltiPlatforms.$inferSelect

/** @see Security Framework 1.0, §4.1: RS256 is what all platforms know */
export const ALGORITHM = 'RS256'

export async function readPlatforms(read: Tables): Promise<Platform[]> {
  return read.select().from(ltiPlatforms).where(isNull(ltiPlatforms.deletedAt)).orderBy(asc(ltiPlatforms.name))
}

/** @returns its id */
export async function addPlatform(db: Database, platform: NewPlatform): Promise<string> {
  const id = randomUUID()
  await db.write(async (tx) => {
    const same = and(
      eq(ltiPlatforms.issuer, platform.issuer),
      eq(ltiPlatforms.clientId, platform.clientId),
      isNull(ltiPlatforms.deletedAt),
    )
    if ((await tx.$count(ltiPlatforms, same)) > 0)
      throw new UserFacingError(message('A platform with this issuer and client ID is registered already.'), 409)
    await tx.insert(ltiPlatforms).values({ id, ...platform, createdAt: Date.now() })
  })
  return id
}

/** Ends it, or lets it go on. */
export async function setPlatformDeleted(db: Database, id: string, deleted: boolean) {
  const [row] = await db.write((tx) =>
    tx
      .update(ltiPlatforms)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(ltiPlatforms.id, id))
      .returning(),
  )
  if (!row) throw new UserFacingError(message('This platform is not registered here any more.'), 404)
}

/**
 * @param clientId where the platform tells it; an issuer may have several tools of one address
 * @throws UserFacingError (403) where it is not registered
 */
export async function platformBy(read: Tables, issuer: string, clientId: string | undefined): Promise<Platform> {
  const found = (await readPlatforms(read)).filter(
    (one) => one.issuer === issuer && (clientId === undefined || one.clientId === clientId),
  )
  const [only] = found
  if (!only || found.length > 1)
    throw new UserFacingError(
      message('The learning platform “{issuer}” is not registered here. Who looks after this server can do that in Settings.', {
        issuer: issuer.slice(0, 200),
      }),
      403,
    )
  return only
}

export async function platformById(read: Tables, id: string): Promise<Platform | null> {
  const [row] = await read
    .select()
    .from(ltiPlatforms)
    .where(and(eq(ltiPlatforms.id, id), isNull(ltiPlatforms.deletedAt)))
  return row ?? null
}

interface OwnKey {
  id: string
  /** Something that nobody else knows. */
  secret: string
  privateKey: CryptoKey
  /** As others see it. */
  publicKey: JWK
}

/** @returns the app's key, made when it is first wanted */
export async function ownKey(db: Database): Promise<OwnKey> {
  const [kept] = await db.read.select().from(ltiKeys).orderBy(asc(ltiKeys.createdAt)).limit(1)
  if (!kept) {
    const { privateKey } = await generateKeyPair(ALGORITHM, { extractable: true })
    const row = { id: randomUUID(), privateKey: { ...(await exportJWK(privateKey)) }, createdAt: Date.now() }
    // two that want it first at once get the same one
    await db.write(async (tx) => {
      if ((await tx.$count(ltiKeys)) === 0) await tx.insert(ltiKeys).values(row)
    })
    return ownKey(db)
  }
  const jwk = kept.privateKey as JWK
  const { kty, n, e } = jwk
  return {
    id: kept.id,
    secret: jwk.d!,
    privateKey: (await importJWK(jwk, ALGORITHM)) as CryptoKey,
    publicKey: { ...(kty && { kty }), ...(n && { n }), ...(e && { e }), kid: kept.id, alg: ALGORITHM, use: 'sig' },
  }
}
