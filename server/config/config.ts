/** Settings from the environment. */

import { resolve } from 'node:path'
import { PERSON_ROLES, type PersonRole } from '#core/people/rights.ts'
import { message } from '#core/words/say.ts'
import { hostName } from './asker.ts'
import { SettingError } from './setting-error.ts'
import { type StoreSetting, storeSettingOf } from './store-setting.ts'

/** `json`: a line for each request, and for what went wrong in one. Nothing of a person is in it: no address, no name, no query. */
export type LogForm = 'text' | 'json'

/** `alone`: one person on their own machine, no accounts. `school`: people sign in. */
export type Mode = 'alone' | 'school'

/** A school's own sign-in (OpenID Connect). */
export interface IdentityProvider {
  issuer: string
  clientId: string
  clientSecret: string
  /** As people call it. */
  name: string
  /** What it says of somebody by which their role is told; null: everybody is a teacher. */
  roleClaim: string | null
  /** Values of that claim, and the roles they mean. */
  roles: Record<string, PersonRole>
}

/** A mail server that letters are given to. */
export interface MailSettings {
  /** `smtp://` or `smtps://`, with name and password where it wants them. */
  url: string
  /** Whom letters come from. */
  from: string
}

export interface Config {
  mode: Mode
  /** Where people find the app, without a slash at its end; null: this machine. */
  publicUrl: string | null
  identityProvider: IdentityProvider | null
  /** Null: links are handed on by hand. */
  mail: MailSettings | null
  dataFolder: string
  /** A store of files elsewhere; null: they are in the data folder alone. */
  store: StoreSetting | null
  /** Redis, over which other machines are given work; null: all work is done here. */
  queue: string | null
  port: number
  /** Address listened on; 127.0.0.1 keeps the app to this machine. */
  host: string
  /** Names under which strangers may reach watch pages, and only those. */
  publicHosts: string[]
  /** Names under which the whole app is reached through a forwarder that itself checks who asks. */
  appHosts: string[]
  /** Addresses of forwarders (reverse proxies) whose word is taken for who asks and whether the line is encrypted. */
  proxies: string[]
  ffmpeg: string
  /** Program that writes captions of a recording; null when there is none. */
  recogniser: string | null
  webFolder: string
  /** Where the files of the demo lecture lie. */
  demoFolder: string
  /** What the server writes of itself. */
  log: LogForm
  /** How long a changed lecture is left alone before its parts are made ready; null: they are made when it is published. */
  prepareAfterMs: number | null
}

function logFormOf(given = 'text'): LogForm {
  if (given === 'text' || given === 'json') return given
  throw new SettingError(message('LECTERN_LOG must be text or json, not “{given}”.', { given }))
}

function modeOf(given = 'alone'): Mode {
  if (given === 'alone' || given === 'school') return given
  throw new SettingError(message('LECTERN_MODE must be alone or school, not “{given}”.', { given }))
}

/** @returns origin of an address */
function publicUrlOf(given: string | undefined): string | null {
  if (!given) return null
  const url = URL.canParse(given) ? new URL(given) : null
  if (!url || !/^https?:$/.test(url.protocol) || url.pathname !== '/')
    throw new SettingError(
      message('LECTERN_PUBLIC_URL must be an address without a path, such as https://lectures.example; it is “{given}”.', {
        given,
      }),
    )
  return url.origin
}

/** "staff=teacher, it=administrator" as roles by what a claim says. */
function rolesOf(list: string | undefined): Record<string, PersonRole> {
  const pairs = (list ?? '').split(',').filter((pair) => pair.trim() !== '')
  return Object.fromEntries(
    pairs.map((pair) => {
      const [value = '', role = ''] = pair.split('=').map((part) => part.trim())
      const known = PERSON_ROLES.find((one) => one === role)
      if (!known || value === '')
        throw new SettingError(
          message('LECTERN_OIDC_ROLES must look like staff=teacher, it=administrator; “{given}” does not.', {
            given: pair.trim(),
          }),
        )
      return [value, known]
    }),
  )
}

function identityProviderOf(env: NodeJS.ProcessEnv): IdentityProvider | null {
  const { LECTERN_OIDC_ISSUER: issuer, LECTERN_OIDC_CLIENT_ID: clientId, LECTERN_OIDC_CLIENT_SECRET: clientSecret } = env
  if (!issuer && !clientId && !clientSecret) return null
  if (!issuer || !clientId || !clientSecret || !URL.canParse(issuer))
    throw new SettingError(
      message(
        'For the school’s sign-in set all three: LECTERN_OIDC_ISSUER (an address), LECTERN_OIDC_CLIENT_ID and LECTERN_OIDC_CLIENT_SECRET.',
      ),
    )
  return {
    issuer,
    clientId,
    clientSecret,
    name: env.LECTERN_OIDC_NAME || new URL(issuer).hostname,
    roleClaim: env.LECTERN_OIDC_ROLE_CLAIM || null,
    roles: rolesOf(env.LECTERN_OIDC_ROLES),
  }
}

/** Letters hold a link, so it must be known where people find the app. */
function mailOf(env: NodeJS.ProcessEnv): MailSettings | null {
  const { LECTERN_MAIL: url, LECTERN_MAIL_FROM: from } = env
  if (!url && !from) return null
  const isAddress = /^[^\s@<>]+@[^\s@<>]+$|^[^<>]*<[^\s@<>]+@[^\s@<>]+>$/.test(from ?? '')
  if (!url || !URL.canParse(url) || !/^smtps?:$/.test(new URL(url).protocol) || !isAddress || !env.LECTERN_PUBLIC_URL)
    throw new SettingError(
      message(
        'For letters set all three: LECTERN_MAIL (such as smtp://mail.example:587), LECTERN_MAIL_FROM (whom they come from) and LECTERN_PUBLIC_URL (where their links lead).',
      ),
    )
  return { url, from: from! }
}

/** Other machines find files nowhere but in a store that all of them see. */
function queueOf(given: string | undefined, store: StoreSetting | null): string | null {
  if (!given) return null
  if (!URL.canParse(given) || !/^rediss?:$/.test(new URL(given).protocol))
    throw new SettingError(message('LECTERN_QUEUE must be the address of a Redis, such as redis://:password@queue.example:6379.'))
  if (!store)
    throw new SettingError(
      message('LECTERN_QUEUE needs LECTERN_STORE too: other machines find files nowhere but in a store that all of them see.'),
    )
  return given
}

/** "A.example, b.example:8080" as host names. */
const names = (list: string | undefined) =>
  (list ?? '')
    .split(',')
    .map((name) => hostName(name.trim()))
    .filter(Boolean)

export function configFrom(env: NodeJS.ProcessEnv, webFolder: string): Config {
  const port = Number(env.LECTERN_PORT ?? 4870)
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new SettingError(message('LECTERN_PORT must be a port number, not “{given}”.', { given: env.LECTERN_PORT ?? '' }))
  const publicUrl = publicUrlOf(env.LECTERN_PUBLIC_URL)
  const store = storeSettingOf(env.LECTERN_STORE, env.LECTERN_STORE_LOCAL)
  return {
    mode: modeOf(env.LECTERN_MODE || undefined),
    publicUrl,
    identityProvider: identityProviderOf(env),
    mail: mailOf(env),
    dataFolder: resolve(env.LECTERN_DATA ?? 'data'),
    store,
    queue: queueOf(env.LECTERN_QUEUE, store),
    port,
    host: env.LECTERN_HOST ?? '127.0.0.1',
    publicHosts: names(env.LECTERN_PUBLIC_HOSTS),
    appHosts: names(env.LECTERN_APP_HOSTS),
    proxies: names(env.LECTERN_PROXY),
    ffmpeg: env.LECTERN_FFMPEG ?? 'ffmpeg',
    recogniser: env.LECTERN_RECOGNISER || null,
    webFolder,
    demoFolder: resolve('demo/files'),
    log: logFormOf(env.LECTERN_LOG),
    prepareAfterMs: env.LECTERN_PREPARE === 'off' ? null : 3000,
  }
}
