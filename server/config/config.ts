/** Settings from the environment. */

import { resolve } from 'node:path'
import { SaidError } from '#core/words/said-error.ts'
import { message } from '#core/words/say.ts'
import { hostName } from './asker.ts'

/** `json`: a line for each request, and for what went wrong in one. Nothing of a person is in it: no address, no name, no query. */
export type LogForm = 'text' | 'json'

export interface Config {
  dataFolder: string
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

/** A setting that cannot be used. */
export class SettingError extends SaidError {}

function logFormOf(given = 'text'): LogForm {
  if (given === 'text' || given === 'json') return given
  throw new SettingError(message('LECTERN_LOG must be text or json, not “{given}”.', { given }))
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
  return {
    dataFolder: resolve(env.LECTERN_DATA ?? 'data'),
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
