/** `lectern worker`: this machine works for a server until it is ended. */

import { availableParallelism } from 'node:os'
import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { message, say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { lockFolder } from '#server/storage/data-folder.ts'
import { startTaskWorker } from '#server/tasks/redis/task-worker.ts'
import { printAside } from './io/output.ts'
import { orUsage, Usage, usageOf } from './io/usage.ts'

const USAGE = usageOf('lectern worker [--at-once N] [--folder FOLDER]')
const FOLDER = 'data-worker'

/** Until somebody ends it, or it ends by itself. @throws UserFacingError with what was wrong then */
export async function worker(args: string[]) {
  const options = { 'at-once': { type: 'string' }, folder: { type: 'string', default: FOLDER } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), USAGE)
  const slots = Number(values['at-once'] ?? availableParallelism())
  if (positionals.length > 0) throw new Usage(USAGE)
  if (!Number.isInteger(slots) || slots < 1)
    throw new Usage(
      `${say('--at-once takes how many tasks are worked on at the same time: a whole number from 1 on.')}\n${USAGE}`,
    )
  const { queue, store, ffmpeg } = configFrom(process.env, '')
  if (!queue || !store)
    throw new UserFacingError(
      message(
        'Say where work and files are found: LECTERN_QUEUE and LECTERN_STORE, as the server that this machine works for has them.',
      ),
      422,
    )
  const folder = resolve(values.folder)
  const lock = await lockFolder(folder)
  try {
    const working = await startTaskWorker({ queue, store, folder, ffmpeg, slots })
    printAside(
      say(
        '{slots, plural, one {One task} other {# tasks}} at the same time. Stop with Ctrl+C; what is being worked on is ended first.',
        { slots },
      ),
    )
    const ended = new Promise<null>((stop) => {
      for (const name of ['SIGINT', 'SIGTERM'] as const)
        process.once(name, () => {
          stop(null)
          process.once(name, () => process.exit(1))
        })
    })
    const reason = await Promise.race([ended, working.over])
    await working.close()
    if (reason) throw reason
  } finally {
    lock.release()
  }
}
