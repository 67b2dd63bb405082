/**
 * Tasks worked by other machines over a queue in Redis, where there are any, and by this one where there are none, or where anything is
 * wrong with them: the queue only carries, and what counts is in the database and the store.
 */
import { randomUUID } from 'node:crypto'
import { setTimeout as wait } from 'node:timers/promises'
import { Queue, QueueEvents } from 'bullmq'
import { Redis } from 'ioredis'
import pLimit from 'p-limit'
import { SEGMENTS_AT_A_TIME } from '#core/edition/estimate.ts'
import type { Message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import type { OtherMachines, TaskInput, TaskKind, TaskOutput, Tasks, TaskTools } from '../task.ts'
import { workOn } from '../work.ts'
import { CANCELLED, queueName, type Roll, VERSION_KEY, watchPresent } from './roll.ts'

/** What a machine answers: the output, or what is wrong with what it was given. */
export type TaskAnswer = { output: unknown } | { said: Message; status: UserFacingError['status'] }

/** Somebody waits for a fresh take; nobody waits for one segment. Lower comes first. */
const PRIORITY: Record<TaskKind, number> = { tidy: 1, words: 2, encode: 3 }
const TRIES = 3
const NO_ANSWER_MS = 5000
const KEPT_S = 600
/** Events may be lost while the line to Redis is. */
const LOOK_EVERY_MS = 3000

/** It could not be worked elsewhere, and is worked here. */
class NotElsewhere extends Error {}
const notElsewhere = (error: unknown): never => {
  throw error instanceof NotElsewhere ? error : new NotElsewhere((error as Error).message)
}

const NAME = /^[0-9a-f]{64}$/
/** Names of stored files in what a task is given or gives. */
export function filesIn(value: unknown, found = new Set<string>()): Set<string> {
  if (typeof value === 'string' && NAME.test(value)) found.add(value)
  else if (typeof value === 'object' && value !== null) for (const part of Object.values(value)) filesIn(part, found)
  return found
}

export class RedisTasks implements Tasks {
  readonly #tools: TaskTools & { store: BucketStore }
  readonly #version: string
  readonly #redis: Redis
  readonly #listening: Redis
  readonly #queue: Queue
  readonly #events: QueueEvents
  readonly #roll: Roll
  /** As many of a kind are worked here at the same time as without other machines. */
  readonly #here = { tidy: pLimit(1), words: pLimit(1), encode: pLimit(SEGMENTS_AT_A_TIME) }
  #away = 0
  #isTold = false

  constructor(url: string, tools: TaskTools & { store: BucketStore }, version: string) {
    this.#tools = tools
    this.#version = version
    // what is asked while the line is down is refused soon, and worked here
    this.#redis = new Redis(url, { maxRetriesPerRequest: 1, commandTimeout: NO_ANSWER_MS })
    this.#listening = new Redis(url, { maxRetriesPerRequest: null })
    this.#queue = new Queue(queueName(version), { connection: this.#redis, skipWaitingForReady: true })
    this.#events = new QueueEvents(queueName(version), { connection: this.#listening })
    this.#events.setMaxListeners(0)
    const stumble = (error: Error) => {
      if (!this.#isTold) console.error(`Redis does not answer (${error.message}): all work is done on this machine meanwhile.`)
      this.#isTold = true
    }
    for (const line of [this.#redis, this.#listening]) line.on('error', stumble)
    this.#queue.on('error', stumble)
    this.#events.on('error', stumble)
    this.#redis.on('ready', () => {
      this.#isTold = false
      void this.#redis.set(VERSION_KEY, version).catch(() => {})
    })
    this.#roll = watchPresent(this.#redis)
  }

  elsewhere(): number {
    return this.#roll.present().reduce((sum, { slots, version }) => sum + (version === this.#version ? slots : 0), 0)
  }

  state(): OtherMachines {
    return {
      isUp: this.#redis.status === 'ready',
      machines: this.#roll.present().map(({ host, slots, version }) => ({ host, slots, isSame: version === this.#version })),
      away: this.#away,
    }
  }

  async run<K extends TaskKind>(kind: K, input: TaskInput<K>, signal: AbortSignal): Promise<TaskOutput<K>> {
    if (this.#away < this.elsewhere()) {
      this.#away++
      try {
        return await this.#askElsewhere(kind, input, signal)
      } catch (error) {
        if (signal.aborted) throw signal.reason
        if (!(error instanceof NotElsewhere)) throw error
        console.error(`A task (${kind}) is worked here after all: ${error.message}`)
      } finally {
        this.#away--
      }
    }
    return this.#here[kind](() => workOn(kind, input, this.#tools, signal))
  }

  async close() {
    this.#roll.end()
    // where Redis is away they would wait for it
    await Promise.race([
      Promise.allSettled([this.#queue.close(), this.#events.close()]),
      wait(NO_ANSWER_MS, undefined, { ref: false }),
    ])
    this.#redis.disconnect()
    this.#listening.disconnect()
  }

  async #askElsewhere<K extends TaskKind>(kind: K, input: TaskInput<K>, signal: AbortSignal): Promise<TaskOutput<K>> {
    const { store } = this.#tools
    const id = randomUUID()
    await Promise.all([...filesIn(input)].map((name) => store.send(name))).catch(notElsewhere)
    signal.throwIfAborted()
    const kept = { removeOnComplete: { age: KEPT_S }, removeOnFail: { age: KEPT_S } }
    await this.#queue
      .add(kind, input, { jobId: id, priority: PRIORITY[kind], attempts: TRIES, backoff: 500, ...kept })
      .catch(notElsewhere)
    const answer = await this.#answerOf(id, signal).catch((error) => {
      // whoever has it may end it, and whoever has not is not to begin it
      void this.#queue.remove(id).catch(() => {})
      void this.#redis.publish(CANCELLED, id).catch(() => {})
      throw error
    })
    if (!('output' in answer)) throw new UserFacingError(answer.said, answer.status)
    const came = await Promise.all([...filesIn(answer.output)].map((name) => store.came(name))).catch(notElsewhere)
    if (!came.every(Boolean)) throw new NotElsewhere('what it made is not in the store')
    return answer.output as TaskOutput<K>
  }

  /** Until it is answered, or anything is wrong. */
  #answerOf(id: string, signal: AbortSignal): Promise<TaskAnswer> {
    return new Promise((resolve, reject) => {
      const end = (settle: () => void) => {
        clearInterval(timer)
        this.#events.off('completed', heard)
        this.#events.off('failed', heard)
        signal.removeEventListener('abort', abort)
        settle()
      }
      const check = () =>
        this.#look(id)
          .catch(notElsewhere)
          .then(
            (answer) => answer && end(() => resolve(answer)),
            (error) => end(() => reject(error)),
          )
      const heard = ({ jobId }: { jobId: string }) => jobId === id && void check()
      const abort = () => end(() => reject(signal.reason))
      this.#events.on('completed', heard)
      this.#events.on('failed', heard)
      signal.addEventListener('abort', abort, { once: true })
      const timer = setInterval(check, LOOK_EVERY_MS)
      if (signal.aborted) abort()
      else void check()
    })
  }

  /** @returns the answer once there is one; null until then */
  async #look(id: string): Promise<TaskAnswer | null> {
    const job = await this.#queue.getJob(id)
    const state = job ? await job.getState() : 'unknown'
    if (state === 'completed') return job!.returnvalue as TaskAnswer
    if (state === 'failed') throw new NotElsewhere(job!.failedReason)
    if (state === 'unknown') throw new NotElsewhere('it is not in the queue any more')
    if (this.elsewhere() === 0) throw new NotElsewhere('no other machine is there any more')
    return null
  }
}
