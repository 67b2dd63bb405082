/**
 * Tasks worked by other machines over a queue in Redis, where there are any, and by this one where there are none, or where anything is
 * wrong with them: the queue only carries, and what counts is in the database and the store.
 */
import { randomUUID } from 'node:crypto'
import { Queue, QueueEvents } from 'bullmq'
import { Redis } from 'ioredis'
import pLimit from 'p-limit'
import { SEGMENTS_AT_A_TIME } from '#core/edition/estimate.ts'
import type { Message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import type { TaskInput, TaskKind, TaskOutput, Tasks, TaskTools } from '../task.ts'
import { workOn } from '../work.ts'
import { CANCELLED, queueName, VERSION_KEY, watchPresent } from './roll.ts'

/** What a machine answers: the output, or what is wrong with what it was given. */
export type TaskAnswer = { output: unknown } | { said: Message; status: UserFacingError['status'] }

/** Somebody waits for a fresh take; nobody waits for one segment. Lower comes first. */
const PRIORITY: Record<TaskKind, number> = { tidy: 1, words: 2, encode: 3 }
/** How many of a kind are worked here at the same time, as without other machines. */
const AT_ONCE_HERE: Record<TaskKind, number> = { tidy: 1, words: 1, encode: SEGMENTS_AT_A_TIME }
const TRIES = 3
const NO_ANSWER_MS = 5000
const KEPT_S = 600
/** Events may be lost while the line to Redis is. */
const LOOK_EVERY_MS = 3000

/** It could not be worked elsewhere, and is worked here. */
class NotElsewhere extends Error {}

const NAMES = /^[0-9a-f]{64}$/
/** Names of stored files in what a task is given or gives. */
function filesIn(value: unknown, found = new Set<string>()): Set<string> {
  if (typeof value === 'string' && NAMES.test(value)) found.add(value)
  else if (typeof value === 'object' && value !== null) for (const part of Object.values(value)) filesIn(part, found)
  return found
}

export interface RedisTasks extends Tasks {
  /** Machines that are there, and whether each is of this version. */
  machines(): { host: string; slots: number; isSame: boolean }[]
  /** Whether Redis answers. */
  isUp(): boolean
  /** Tasks that are being worked elsewhere. */
  away(): number
}

export function redisTasks(url: string, tools: TaskTools & { store: BucketStore }, version: string): RedisTasks {
  const { store } = tools
  // what is asked while the line is down is refused soon, and worked here
  const redis = new Redis(url, { maxRetriesPerRequest: 1, commandTimeout: NO_ANSWER_MS })
  const listening = new Redis(url, { maxRetriesPerRequest: null })
  let isTold = false
  const stumble = (error: Error) => {
    if (!isTold) console.error(`Redis does not answer (${error.message}): all work is done on this machine meanwhile.`)
    isTold = true
  }
  redis.on('error', stumble)
  listening.on('error', stumble)
  redis.on('ready', () => {
    isTold = false
    void redis.set(VERSION_KEY, version).catch(() => {})
  })
  const queue = new Queue(queueName(version), { connection: redis, skipWaitingForReady: true })
  const events = new QueueEvents(queueName(version), { connection: listening })
  queue.on('error', stumble)
  events.on('error', stumble)
  events.setMaxListeners(0)
  const roll = watchPresent(redis)
  const ours = () => roll.present().filter((machine) => machine.version === version)
  const elsewhere = () => ours().reduce((sum, { slots }) => sum + slots, 0)
  const here = { tidy: pLimit(AT_ONCE_HERE.tidy), words: pLimit(AT_ONCE_HERE.words), encode: pLimit(AT_ONCE_HERE.encode) }
  let away = 0

  /** @returns the answer once there is one; null until then */
  async function look(id: string): Promise<TaskAnswer | null> {
    const job = await queue.getJob(id)
    const state = job ? await job.getState() : 'unknown'
    if (state === 'completed') return job!.returnvalue as TaskAnswer
    if (state === 'failed') throw new NotElsewhere(job!.failedReason)
    if (state === 'unknown') throw new NotElsewhere('it is not in the queue any more')
    if (elsewhere() === 0) throw new NotElsewhere('no machine is there any more')
    return null
  }

  /** Until it is answered, or anything is wrong. */
  function answerOf(id: string, signal: AbortSignal): Promise<TaskAnswer> {
    return new Promise((resolve, reject) => {
      const end = (settle: () => void) => {
        clearInterval(timer)
        events.off('completed', heard)
        events.off('failed', heard)
        signal.removeEventListener('abort', abort)
        settle()
      }
      const check = () =>
        look(id).then(
          (answer) => answer && end(() => resolve(answer)),
          (error) => end(() => reject(error instanceof NotElsewhere ? error : new NotElsewhere((error as Error).message))),
        )
      const heard = ({ jobId }: { jobId: string }) => jobId === id && void check()
      const abort = () => end(() => reject(signal.reason))
      events.on('completed', heard)
      events.on('failed', heard)
      signal.addEventListener('abort', abort, { once: true })
      const timer = setInterval(check, LOOK_EVERY_MS)
      if (signal.aborted) abort()
      else void check()
    })
  }

  async function askElsewhere<K extends TaskKind>(kind: K, input: TaskInput<K>, signal: AbortSignal): Promise<TaskOutput<K>> {
    const id = randomUUID()
    const elsewhereOrHere = (error: unknown): never => {
      throw error instanceof UserFacingError || !(error instanceof NotElsewhere)
        ? new NotElsewhere((error as Error).message)
        : error
    }
    await Promise.all([...filesIn(input)].map((name) => store.send(name))).catch(elsewhereOrHere)
    signal.throwIfAborted()
    const options = { jobId: id, priority: PRIORITY[kind], attempts: TRIES, backoff: 500 }
    await queue
      .add(kind, input, { ...options, removeOnComplete: { age: KEPT_S }, removeOnFail: { age: KEPT_S } })
      .catch(elsewhereOrHere)
    const answer = await answerOf(id, signal).catch((error) => {
      // whoever has it may end it, and whoever has not is not to begin it
      void queue.remove(id).catch(() => {})
      void redis.publish(CANCELLED, id).catch(() => {})
      throw error
    })
    if (!('output' in answer)) throw new UserFacingError(answer.said, answer.status)
    const missing = await Promise.all([...filesIn(answer.output)].map((name) => store.came(name))).catch(elsewhereOrHere)
    if (!missing.every(Boolean)) throw new NotElsewhere('what it made is not in the store')
    return answer.output as TaskOutput<K>
  }

  return {
    elsewhere,
    away: () => away,
    isUp: () => redis.status === 'ready',
    machines: () => roll.present().map(({ host, slots, version: own }) => ({ host, slots, isSame: own === version })),
    async run(kind, input, signal) {
      if (away < elsewhere()) {
        away++
        try {
          return await askElsewhere(kind, input, signal)
        } catch (error) {
          if (signal.aborted) throw signal.reason
          if (!(error instanceof NotElsewhere)) throw error
          console.error(`A task (${kind}) is worked here after all: ${error.message}`)
        } finally {
          away--
        }
      }
      return here[kind](() => workOn(kind, input, tools, signal))
    },
    async close() {
      roll.end()
      await Promise.allSettled([queue.close(), events.close()])
      redis.disconnect()
      listening.disconnect()
    },
  }
}
