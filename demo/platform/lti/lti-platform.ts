/**
 * A learning platform that opens lectures within its own pages, as a stand-in: it signs who comes, takes choices and results, and says which rule was
 * broken.
 *
 * @see 1EdTech LTI 1.3 Core; Security Framework 1.0, §4 and §5; Deep Linking 2.0, §4; Assignment and Grade Services 2.0, §3
 */
import { randomUUID } from 'node:crypto'
import {
  type CryptoKey,
  createRemoteJWKSet,
  exportJWK,
  generateKeyPair,
  type JWK,
  type JWTPayload,
  jwtVerify,
  SignJWT,
} from 'jose'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim'
const AGS = 'https://purl.imsglobal.org/spec/lti-ags'
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim'
const SCORE_SCOPE = `${AGS}/scope/score`
export const CLIENT_ID = 'practice-tool'
export const DEPLOYMENT_ID = 'practice-1'

export interface Somebody {
  id: string
  name: string
  role: 'Instructor' | 'Learner'
}
export const PEOPLE: readonly Somebody[] = [
  { id: 'teacher-1', name: 'Mira Example', role: 'Instructor' },
  { id: 'learner-1', name: 'Ada Example', role: 'Learner' },
  { id: 'learner-2', name: 'Bo Muster', role: 'Learner' },
]

interface ContentItem {
  type: string
  title?: string
  url?: string
  custom?: Record<string, string>
  lineItem?: { scoreMaximum: number }
}
/** Something of the tool's that a teacher put into the course. */
export interface Placed {
  id: string
  title: string
  url: string
  custom: Record<string, string>
  hasLineItem: boolean
}
export interface Score {
  userId: string
  scoreGiven: number
  scoreMaximum: number
  activityProgress: string
  gradingProgress: string
  timestamp: string
}

const ACTIVITY = ['Initialized', 'Started', 'InProgress', 'Submitted', 'Completed']
const GRADING = ['FullyGraded', 'Pending', 'PendingManual', 'Failed', 'NotReady']

/** What of a message is remembered between its two halves. */
interface Hint {
  message: 'LtiResourceLinkRequest' | 'LtiDeepLinkingRequest'
  placed: string | null
}

export class LtiPlatform {
  readonly placed: Placed[] = []
  readonly scores = new Map<string, Score[]>()
  readonly faults: string[] = []
  /** For tests: it answers nothing that programs ask. */
  isDown = false
  readonly #tool: string
  readonly #key = generateKeyPair('RS256', { extractable: true })
  readonly #keyId = randomUUID()
  readonly #tokens = new Set<string>()
  readonly #assertions = new Set<string>()

  /** @param tool address of the app */
  constructor(tool: string) {
    this.#tool = tool
  }

  get tool() {
    return this.#tool
  }

  /** What has to be entered in the app. @param own address of this platform */
  registration(own: string) {
    return {
      name: 'Practice platform',
      issuer: own,
      clientId: CLIENT_ID,
      deploymentIds: [DEPLOYMENT_ID],
      authorizationUrl: `${own}/lti/auth`,
      tokenUrl: `${own}/lti/token`,
      keysUrl: `${own}/lti/keys`,
    }
  }

  async publicKey(): Promise<JWK> {
    return { ...(await exportJWK((await this.#key).publicKey)), kid: this.#keyId, alg: 'RS256', use: 'sig' }
  }

  /** Fields of the form that begins a launch. */
  loginFields(own: string, who: Somebody, { message, placed }: Hint): Record<string, string> {
    const target = this.placed.find((one) => one.id === placed)?.url ?? `${this.#tool}/lti/launch`
    return {
      iss: own,
      login_hint: who.id,
      target_link_uri: target,
      lti_message_hint: JSON.stringify({ message, placed }),
      client_id: CLIENT_ID,
      lti_deployment_id: DEPLOYMENT_ID,
    }
  }

  /** @returns the form that takes the token to the app, or what is wrong with the request */
  async authorize(
    own: string,
    query: Record<string, string>,
  ): Promise<{ action: string; fields: Record<string, string> } | string> {
    const wanted = {
      scope: 'openid',
      response_type: 'id_token',
      response_mode: 'form_post',
      prompt: 'none',
      client_id: CLIENT_ID,
    }
    for (const [name, value] of Object.entries(wanted)) if (query[name] !== value) return this.#fault(`${name} is not “${value}”`)
    const { redirect_uri: action = '', state = '', nonce = '', login_hint: hint, lti_message_hint: told = '' } = query
    if (action !== `${this.#tool}/lti/launch`) return this.#fault('redirect_uri is not the one that was registered')
    if (nonce === '' || state === '') return this.#fault('nonce or state is missing')
    const who = PEOPLE.find((one) => one.id === hint)
    if (!who) return this.#fault('login_hint names nobody')
    const { message, placed } = JSON.parse(told) as Hint
    return { action, fields: { state, id_token: await this.sign(own, this.claims(own, who, { message, placed }, nonce)) } }
  }

  claims(own: string, who: Somebody, { message, placed }: Hint, nonce: string): JWTPayload {
    const item = this.placed.find((one) => one.id === placed)
    const endpoint = { scope: [SCORE_SCOPE], ...(item?.hasLineItem ? { lineitem: `${own}/lti/items/${item.id}` } : {}) }
    return {
      sub: who.id,
      name: who.name,
      nonce,
      [`${CLAIM}/message_type`]: message,
      [`${CLAIM}/version`]: '1.3.0',
      [`${CLAIM}/deployment_id`]: DEPLOYMENT_ID,
      [`${CLAIM}/target_link_uri`]: item?.url ?? `${this.#tool}/lti/launch`,
      [`${CLAIM}/roles`]: [`http://purl.imsglobal.org/vocab/lis/v2/membership#${who.role}`],
      ...(message === 'LtiDeepLinkingRequest'
        ? {
            [`${DL}/deep_linking_settings`]: {
              deep_link_return_url: `${own}/lti/chosen`,
              accept_types: ['ltiResourceLink'],
              accept_presentation_document_targets: ['iframe', 'window'],
              accept_multiple: false,
              data: 'what the platform wants back',
            },
          }
        : {
            [`${CLAIM}/resource_link`]: { id: item?.id ?? 'none', title: item?.title },
            [`${CLAIM}/custom`]: item?.custom ?? {},
            [`${AGS}/claim/endpoint`]: endpoint,
          }),
    }
  }

  /** @param key another one, for tests that forge */
  async sign(own: string, claims: JWTPayload, expires = '5m', key?: CryptoKey): Promise<string> {
    return new SignJWT(claims)
      .setProtectedHeader({ alg: 'RS256', kid: this.#keyId })
      .setIssuer(own)
      .setAudience(CLIENT_ID)
      .setIssuedAt()
      .setExpirationTime(expires)
      .sign(key ?? (await this.#key).privateKey)
  }

  /** @returns a token, or what is wrong */
  async token(own: string, form: Record<string, string>): Promise<{ access_token: string } | string> {
    if (form.grant_type !== 'client_credentials') return this.#fault('grant_type is not client_credentials')
    if (form.client_assertion_type !== 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer')
      return this.#fault('client_assertion_type is not the one of RFC 7523')
    if (form.scope !== SCORE_SCOPE) return this.#fault('the scope is not that of scores')
    const { payload } = await this.#ofTool(form.client_assertion ?? '', `${own}/lti/token`)
    if (payload.iss !== CLIENT_ID || payload.sub !== CLIENT_ID) return this.#fault('iss and sub are not the client ID')
    if (!payload.jti || this.#assertions.has(payload.jti)) return this.#fault('jti is missing, or was used before')
    this.#assertions.add(payload.jti)
    const token = randomUUID()
    this.#tokens.add(token)
    return { access_token: token }
  }

  /** @returns what is wrong; null where it was taken */
  score(item: string, authorization: string | undefined, type: string | undefined, score: Score): string | null {
    if (!this.#tokens.has((authorization ?? '').replace('Bearer ', ''))) return this.#fault('no token')
    if (type !== 'application/vnd.ims.lis.v1.score+json') return this.#fault('a score has a media type of its own')
    const { userId, scoreGiven, scoreMaximum, activityProgress, gradingProgress, timestamp } = score
    if (!PEOPLE.some((one) => one.id === userId)) return this.#fault('userId is nobody')
    if (!(scoreMaximum > 0) || !(scoreGiven >= 0)) return this.#fault('a score is not below 0, and its maximum above it')
    if (!ACTIVITY.includes(activityProgress) || !GRADING.includes(gradingProgress))
      return this.#fault('progress is none of the known')
    if (!/^\d{4}-\d\d-\d\dT[\d:.]+(Z|[+-]\d\d:\d\d)$/.test(timestamp))
      return this.#fault('timestamp is none of ISO 8601 with a zone')
    this.scores.set(item, [...(this.scores.get(item) ?? []), score])
    return null
  }

  /** Takes what a teacher chose. @returns what is wrong; null where it was put into the course */
  async choose(own: string, token: string): Promise<string | null> {
    const { payload } = await this.#ofTool(token, own)
    if (payload.iss !== CLIENT_ID) return this.#fault('iss is not the client ID')
    if (payload[`${CLAIM}/message_type`] !== 'LtiDeepLinkingResponse') return this.#fault('this is no answer to a choice')
    if (payload[`${CLAIM}/deployment_id`] !== DEPLOYMENT_ID) return this.#fault('the deployment is another one')
    if (payload[`${DL}/data`] !== 'what the platform wants back') return this.#fault('data did not come back as it was')
    for (const item of (payload[`${DL}/content_items`] as ContentItem[] | undefined) ?? []) {
      const { type, title = 'Untitled', url = `${this.#tool}/lti/launch`, custom = {}, lineItem } = item
      if (type !== 'ltiResourceLink') return this.#fault(`“${type}” was not asked for`)
      this.placed.push({ id: randomUUID(), title, url, custom, hasLineItem: lineItem !== undefined })
    }
    return null
  }

  async #ofTool(token: string, audience: string) {
    return jwtVerify(token, createRemoteJWKSet(new URL(`${this.#tool}/lti/keys`)), {
      audience,
      requiredClaims: ['exp', 'iat'],
    }).catch((error: Error) => {
      this.#fault(error.message)
      throw error
    })
  }

  #fault(fault: string): string {
    this.faults.push(fault)
    return fault
  }
}
