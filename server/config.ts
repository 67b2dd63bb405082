/** Settings from the environment. */
import { resolve } from 'node:path'

export interface Config {
  dataFolder: string
  port: number
  /** Address listened on; 127.0.0.1 keeps the app to this machine. */
  host: string
  /** Names under which strangers may reach watch pages, and only those. */
  publicHosts: string[]
  ffmpeg: string
  /** Program that writes captions of a recording; null when there is none. */
  recogniser: string | null
  webFolder: string
  /** How long a changed lecture is left alone before its parts are made ready; null: they are made when it is published. */
  prepareAfterMs: number | null
}

export function configFrom(env: NodeJS.ProcessEnv, webFolder: string): Config {
  const port = Number(env.LECTERN_PORT ?? 4870)
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new Error(`LECTERN_PORT must be a port number, not “${env.LECTERN_PORT}”.`)
  return {
    dataFolder: resolve(env.LECTERN_DATA ?? 'data'),
    port,
    host: env.LECTERN_HOST ?? '127.0.0.1',
    publicHosts: (env.LECTERN_PUBLIC_HOSTS ?? '').split(',').filter(Boolean),
    ffmpeg: env.LECTERN_FFMPEG ?? 'ffmpeg',
    recogniser: env.LECTERN_RECOGNISER || null,
    webFolder,
    prepareAfterMs: env.LECTERN_PREPARE === 'off' ? null : 3000,
  }
}
