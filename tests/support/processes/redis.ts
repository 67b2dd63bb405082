/** A real Redis on this machine, with a port of its own; it keeps nothing on disk. */
import { type ChildProcess, spawn } from 'node:child_process'
import { tmpdir } from 'node:os'
import { setTimeout as wait } from 'node:timers/promises'
import { Redis } from 'ioredis'
import { freePort } from './free-port.ts'

export interface RedisServer {
  url: string
  client: Redis
  start(): Promise<void>
  /** kill -9: what was in it is gone. */
  stop(): Promise<void>
  close(): Promise<void>
}

/** Needs Debian's redis-server. */
export async function startRedis(): Promise<RedisServer> {
  const port = await freePort()
  const url = `redis://127.0.0.1:${port}`
  let child: ChildProcess | null = null
  const client = new Redis(url, { maxRetriesPerRequest: null, retryStrategy: () => 100 })
  client.on('error', () => {})
  async function start() {
    child = spawn('redis-server', ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--dir', tmpdir()], {
      stdio: 'ignore',
    })
    while (client.status !== 'ready') await wait(20)
    await client.ping()
  }
  async function stop() {
    if (!child) return
    const ended = new Promise((resolve) => child!.once('exit', resolve))
    child.kill('SIGKILL')
    await ended
    child = null
  }
  await start()
  return {
    url,
    client,
    start,
    stop,
    async close() {
      client.disconnect()
      await stop()
    },
  }
}
