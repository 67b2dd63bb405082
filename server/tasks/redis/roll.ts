/** Who works for a server: each machine says again and again that it is there; whoever is not heard of is gone. */
import type { Redis } from 'ioredis'
import { z } from 'zod'

/** What is the server's version, for those that come to work for it. */
export const VERSION_KEY = 'lectern:version'
/** A task that nobody needs any more, by its id. */
export const CANCELLED = 'lectern:cancelled'
export const queueName = (version: string) => `lectern-tasks-${version}`

const WORKERS = 'lectern:workers:'
const SAID_EVERY_MS = 2000
const FORGOTTEN_S = 7

const Present = z.object({
  host: z.string(),
  version: z.string(),
  /** How many tasks it works on at the same time. */
  slots: z.number(),
})
export type Present = z.infer<typeof Present>

/** @returns a function that takes it back */
export function sayPresent(redis: Redis, id: string, present: Present): () => Promise<void> {
  const say = () =>
    redis.set(`${WORKERS}${id}`, JSON.stringify(present), 'EX', FORGOTTEN_S).catch(() => {
      // said again in a moment
    })
  void say()
  const timer = setInterval(say, SAID_EVERY_MS)
  return async () => {
    clearInterval(timer)
    await redis.del(`${WORKERS}${id}`).catch(() => {})
  }
}

async function whoIsPresent(redis: Redis): Promise<Present[]> {
  const keys: string[] = []
  for await (const found of redis.scanStream({ match: `${WORKERS}*`, count: 1000 })) keys.push(...(found as string[]))
  if (keys.length === 0) return []
  const said = await redis.mget(keys)
  return said.flatMap((text) => {
    const parsed = Present.safeParse(text === null ? null : JSON.parse(text))
    return parsed.success ? [parsed.data] : []
  })
}

export interface Roll {
  present(): Present[]
  end(): void
}

/** Looks again and again who is there. */
export function watchPresent(redis: Redis): Roll {
  let present: Present[] = []
  const look = async () => {
    present = redis.status === 'ready' ? await whoIsPresent(redis).catch(() => []) : []
  }
  void look()
  const timer = setInterval(look, SAID_EVERY_MS)
  timer.unref()
  return {
    present: () => present,
    end: () => clearInterval(timer),
  }
}
