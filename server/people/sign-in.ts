/** Who somebody is: passwords, passkeys, one-time codes and the school's identity provider, by a library. */

import { passkey } from '@better-auth/passkey'
import { hash, verify } from '@node-rs/argon2'
import { betterAuth } from 'better-auth'
import { drizzleAdapter } from 'better-auth/adapters/drizzle'
import { genericOAuth } from 'better-auth/plugins/generic-oauth'
import { twoFactor } from 'better-auth/plugins/two-factor'
import { and, eq, isNull } from 'drizzle-orm'
import type { PersonRole } from '#core/people/rights.ts'
import type { Config } from '#server/config/config.ts'
import type { Database } from '#server/db/database.ts'
import { accounts, passkeys, people, sessions, twoFactors, verifications } from '#server/db/people-schema.ts'
import { noteAlone } from './audit.ts'
import { queuedWrites } from './sign-in/queued-writes.ts'

export const SHORTEST_PASSWORD = 10
export const LONGEST_PASSWORD = 200
/** Of the school's identity provider, in addresses and tables. */
export const PROVIDER_ID = 'school'

/** OWASP, Password Storage Cheat Sheet, for Argon2id (RFC 9106): 19 MiB, two passes, one lane. They are the package's own as well. */
const ARGON2ID = { algorithm: 2, memoryCost: 19_456, timeCost: 2, parallelism: 1 }

const SESSION_SECONDS = 30 * 24 * 3600
/** A session that is used is prolonged once a day. */
const PROLONGED_AFTER_SECONDS = 24 * 3600

/** What an identity provider says of somebody, as a role; a teacher where it says nothing we know. */
export function roleOfClaims(
  claims: Record<string, unknown>,
  { roleClaim, roles }: NonNullable<Config['identityProvider']>,
): PersonRole {
  const said = [claims[roleClaim ?? '']].flat().filter((value) => typeof value === 'string')
  const found = said.flatMap((value) => roles[value as string] ?? [])
  return (['administrator', 'teacher', 'reviewer'] as const).find((role) => found.includes(role)) ?? 'teacher'
}

function schoolProvider({ identityProvider }: Config) {
  if (!identityProvider) return []
  const { issuer, clientId, clientSecret } = identityProvider
  return [
    genericOAuth({
      config: [
        {
          providerId: PROVIDER_ID,
          discoveryUrl: `${issuer.replace(/\/$/, '')}/.well-known/openid-configuration`,
          clientId,
          clientSecret,
          scopes: ['openid', 'profile', 'email'],
          pkce: true,
          // where it tells roles, it tells them each time
          overrideUserInfo: identityProvider.roleClaim !== null,
          mapProfileToUser: (claims) => ({ role: roleOfClaims(claims as Record<string, unknown>, identityProvider) }),
        },
      ],
    }),
  ]
}

/** @param secret of this server: signs what browsers keep */
export function signInLibrary(config: Config, db: Database, secret: string) {
  const origin = config.publicUrl ?? `http://localhost:${config.port || 4870}`
  return betterAuth({
    appName: 'Tidy Lectern',
    baseURL: origin,
    basePath: '/api/sign-in',
    secret,
    trustedOrigins: [origin],
    database: drizzleAdapter(queuedWrites(db), {
      provider: 'sqlite',
      schema: { people, sessions, accounts, verifications, passkeys, twoFactors },
    }),
    user: {
      modelName: 'people',
      // of the library's routes none is open by which somebody could write their own role
      additionalFields: { role: { type: ['reviewer', 'teacher', 'administrator'], required: true } },
    },
    session: {
      modelName: 'sessions',
      fields: { userId: 'personId' },
      expiresIn: SESSION_SECONDS,
      updateAge: PROLONGED_AFTER_SECONDS,
    },
    account: {
      modelName: 'accounts',
      fields: { userId: 'personId' },
      accountLinking: { enabled: true, trustedProviders: [PROVIDER_ID] },
    },
    verification: { modelName: 'verifications' },
    emailAndPassword: {
      enabled: true,
      // one comes by invitation
      disableSignUp: true,
      minPasswordLength: SHORTEST_PASSWORD,
      maxPasswordLength: LONGEST_PASSWORD,
      password: { hash: (password) => hash(password, ARGON2ID), verify: ({ hash, password }) => verify(hash, password) },
    },
    plugins: [
      twoFactor({ issuer: 'Tidy Lectern', schema: { twoFactor: { modelName: 'twoFactors', fields: { userId: 'personId' } } } }),
      passkey({
        rpName: 'Tidy Lectern',
        rpID: new URL(origin).hostname,
        origin,
        schema: { passkey: { modelName: 'passkeys', fields: { userId: 'personId' } } },
      }),
      ...schoolProvider(config),
    ],
    databaseHooks: {
      user: {
        // who comes by the school's sign-in
        create: { before: async (person) => ({ data: { role: 'teacher', ...person, email: person.email.toLowerCase() } }) },
      },
      session: {
        create: {
          async before({ userId }) {
            const [here] = await db.read
              .select({ id: people.id })
              .from(people)
              .where(and(eq(people.id, userId), isNull(people.leftAt)))
            return here ? undefined : false
          },
          after: async ({ userId }) => noteAlone(db, userId, 'signed-in'),
        },
      },
    },
    // ours counts by account and device
    rateLimit: { enabled: false },
    telemetry: { enabled: false },
    advanced: {
      cookiePrefix: 'lectern',
      useSecureCookies: origin.startsWith('https://'),
      defaultCookieAttributes: { sameSite: 'lax', httpOnly: true },
      database: { generateId: () => crypto.randomUUID() },
    },
    logger: { disabled: true },
  })
}
export type SignInLibrary = ReturnType<typeof signInLibrary>
