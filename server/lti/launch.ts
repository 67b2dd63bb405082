/**
 * A launch: the platform says who comes from where, in a token that it signs.
 *
 * @see 1EdTech LTI 1.3 Core; Security Framework 1.0, §5.1.1 "OpenID Connect launch flow", §5.1.3 "Authentication response validation"
 */

import { randomBytes } from 'node:crypto'
import { eq, lt } from 'drizzle-orm'
import { createRemoteJWKSet, errors, type JWTPayload, jwtVerify } from 'jose'
import { type Message, message } from '#core/words/say.ts'
import { z } from '#core/zod.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Database } from '#server/db/database.ts'
import { ltiLogins } from '#server/db/lti-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { type Platform, platformBy, platformById } from './platforms.ts'

/** From its beginning to its end one is given so long. */
const LOGIN_MS = 10 * 60_000
/** A platform's clock may differ by so much. */
const CLOCKS_S = 60
/** A token lives no longer, whatever it says of itself. */
const LONGEST_TOKEN = '1h'
/** A platform that does not answer keeps nobody waiting for longer. */
export const PATIENCE_MS = 8000

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim'
const AGS = 'https://purl.imsglobal.org/spec/lti-ags'
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim'
export const SCORE_SCOPE = `${AGS}/scope/score`

const random = () => randomBytes(24).toString('base64url')

export const LoginRequest = z.object({
  iss: z.string().max(500),
  login_hint: z.string().max(5000),
  target_link_uri: z.string().max(5000),
  lti_message_hint: z.string().max(10_000).optional(),
  client_id: z.string().max(500).optional(),
})

/**
 * Begins a launch.
 *
 * @param launchAddress where the platform sends its token
 * @returns where the browser asks the platform for it, and what it has to bring back
 */
export async function beginLogin(db: Database, asked: z.infer<typeof LoginRequest>, launchAddress: string) {
  const platform = await platformBy(db.read, asked.iss, asked.client_id)
  const [state, nonce] = [random(), random()]
  const now = Date.now()
  await db.write(async (tx) => {
    await tx.delete(ltiLogins).where(lt(ltiLogins.createdAt, now - LOGIN_MS))
    await tx.insert(ltiLogins).values({ state, nonce, platformId: platform.id, createdAt: now })
  })
  const address = new URL(platform.authorizationUrl)
  const parameters = {
    scope: 'openid',
    response_type: 'id_token',
    response_mode: 'form_post',
    prompt: 'none',
    client_id: platform.clientId,
    redirect_uri: launchAddress,
    state,
    nonce,
    login_hint: asked.login_hint,
    ...(asked.lti_message_hint === undefined ? {} : { lti_message_hint: asked.lti_message_hint }),
  }
  for (const [name, value] of Object.entries(parameters)) address.searchParams.set(name, value)
  return { address: address.href, state }
}

const Claims = z.object({
  sub: z.string().max(255).optional(),
  name: z.string().max(500).optional(),
  email: z.string().max(320).optional(),
  [`${CLAIM}/message_type`]: z.enum(['LtiResourceLinkRequest', 'LtiDeepLinkingRequest']),
  [`${CLAIM}/version`]: z.literal('1.3.0'),
  [`${CLAIM}/deployment_id`]: z.string().max(500),
  [`${CLAIM}/custom`]: z.record(z.string(), z.unknown()).optional(),
  [`${AGS}/claim/endpoint`]: z
    .object({ scope: z.array(z.string()).default([]), lineitem: z.url({ protocol: /^https?$/ }).optional() })
    .optional(),
  [`${DL}/deep_linking_settings`]: z
    .object({
      deep_link_return_url: z.url({ protocol: /^https?$/ }),
      accept_types: z.array(z.string()).default([]),
      accept_multiple: z.boolean().optional(),
      data: z.string().max(50_000).optional(),
    })
    .optional(),
})

export interface Launch {
  platform: Platform
  deploymentId: string
  /** Who it is to the platform; null for nobody it names. */
  subject: string | null
  name: string | null
  email: string | null
  kind: 'LtiResourceLinkRequest' | 'LtiDeepLinkingRequest'
  custom: Record<string, unknown>
  /** Where a result goes, where the platform takes one. */
  lineItem: string | null
  deepLinking: { returnUrl: string; data: string | undefined } | null
}

const refused = (why: Message) =>
  new UserFacingError(
    message('The learning platform’s message was refused: {why}. Go back to the platform and open the lecture again.', { why }),
    403,
  )

/** Keys of platforms, each fetched once for a while. */
const keySets = new Map<string, ReturnType<typeof createRemoteJWKSet>>()
function keysOf({ keysUrl }: Platform) {
  const known = keySets.get(keysUrl) ?? createRemoteJWKSet(new URL(keysUrl), { timeoutDuration: PATIENCE_MS })
  keySets.set(keysUrl, known)
  return known
}

async function verified(platform: Platform, token: string): Promise<JWTPayload> {
  try {
    const { payload } = await jwtVerify(token, keysOf(platform), {
      issuer: platform.issuer,
      audience: platform.clientId,
      algorithms: ['RS256', 'RS384', 'RS512', 'ES256', 'ES384', 'PS256'],
      clockTolerance: CLOCKS_S,
      maxTokenAge: LONGEST_TOKEN,
      requiredClaims: ['exp', 'iat', 'nonce'],
    })
    return payload
  } catch (error) {
    if (error instanceof errors.JWTExpired) throw refused(message('it has expired'))
    // whatever is not about the message itself is about the way to the keys
    const isAboutKeys =
      error instanceof errors.JWKSTimeout || (error instanceof errors.JOSEError && error.code === 'ERR_JOSE_GENERIC')
    if (isAboutKeys || !(error instanceof errors.JOSEError))
      throw new UserFacingError(
        message(
          'The learning platform does not answer when it is asked for its keys. Wait a moment, then open the lecture again.',
        ),
        503,
      )
    throw refused(message('its signature is not the platform’s'))
  }
}

/**
 * Takes a launch. Its state is good once.
 *
 * @param cookie the state that the browser was given; undefined where it kept none, as many do within other pages
 * @throws UserFacingError (403) for what is forged, expired or told a second time, (503) where the platform's keys cannot be had
 */
export async function takeLaunch(
  { db }: Pick<AppContext, 'db'>,
  given: { state: string; id_token: string },
  cookie: string | undefined,
): Promise<Launch> {
  const [login] = await db.write((tx) => tx.delete(ltiLogins).where(eq(ltiLogins.state, given.state)).returning())
  if (!login || login.createdAt < Date.now() - LOGIN_MS) throw refused(message('it was used before, or comes too late'))
  if (cookie !== undefined && cookie !== given.state) throw refused(message('it was begun in another browser'))
  const platform = await platformById(db.read, login.platformId)
  if (!platform) throw refused(message('the platform is not registered any more'))
  const payload = await verified(platform, given.id_token)
  if (payload.nonce !== login.nonce) throw refused(message('it belongs to another opening'))
  const audience = Array.isArray(payload.aud) ? payload.aud : [payload.aud]
  if (audience.length > 1 && payload.azp !== platform.clientId) throw refused(message('it is meant for another tool'))
  const { success, data } = Claims.safeParse(payload)
  if (!success) throw refused(message('it lacks what LTI 1.3 asks for'))
  const claims = data as z.infer<typeof Claims>
  const deploymentId = claims[`${CLAIM}/deployment_id`] as string
  if (!platform.deploymentIds.includes(deploymentId)) throw refused(message('its deployment is not registered'))
  const endpoint = claims[`${AGS}/claim/endpoint`] as { scope: string[]; lineitem?: string } | undefined
  const settings = claims[`${DL}/deep_linking_settings`] as { deep_link_return_url: string; data?: string } | undefined
  const kind = claims[`${CLAIM}/message_type`] as Launch['kind']
  if (kind === 'LtiDeepLinkingRequest' && !settings) throw refused(message('it does not say where the choice goes'))
  return {
    platform,
    deploymentId,
    subject: claims.sub ?? null,
    name: claims.name ?? null,
    email: claims.email ?? null,
    kind,
    custom: (claims[`${CLAIM}/custom`] as Record<string, unknown> | undefined) ?? {},
    lineItem: endpoint?.scope.includes(SCORE_SCOPE) ? (endpoint.lineitem ?? null) : null,
    deepLinking: settings ? { returnUrl: settings.deep_link_return_url, data: settings.data } : null,
  }
}
