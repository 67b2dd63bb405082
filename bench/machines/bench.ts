/**
 * `npm run bench -- machines`: twenty slides of a minute encoded by other machines, of which each has a processor to itself, with a real Redis and
 * a real store of files beside them on this one; the rival is the same work without queue and store. `--rounds N` takes the median of N.
 */
import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import pMap from 'p-map'
import { distinctLecture } from '#bench/publish/lecture.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { plan } from '#core/edition/plan.ts'
import type { openContext } from '#server/context/context.ts'
import { allRecipes, wantedSegments } from '#server/publish/lecture-segments.ts'
import type { BucketStore } from '#server/storage/bucket/bucket-store.ts'
import type { EncodeOrder } from '#server/tasks/task.ts'
import { openTestApp } from '#tests/api/harness.ts'
import { startRedis } from '#tests/support/processes/redis.ts'
import { startS3Server } from '#tests/support/processes/s3/server.ts'
import { workerProcess } from '#tests/support/processes/worker-process.ts'

const SLIDES = 20
const SECONDS = 60
/** Segments of one task. */
const TOGETHER = 2

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!

async function ordersOf(context: Awaited<ReturnType<typeof openContext>>, first: number): Promise<EncodeOrder[]> {
  const lecture = await distinctLecture(context, SLIDES, SECONDS, null, first)
  const recipes = allRecipes(wantedSegments(plan(lecture).slides, lecture.exportSettings))
  // of one form each
  const forms = [...new Set(recipes.map((recipe) => recipe.form))]
  return forms.flatMap((form) => {
    const alike = recipes.filter((recipe) => recipe.form === form)
    return Array.from({ length: Math.ceil(alike.length / TOGETHER) }, (_, i) => {
      const some = alike.slice(i * TOGETHER, (i + 1) * TOGETHER)
      return { orders: some.map((recipe) => recipe.order), keys: some.map((recipe) => recipe.key), loudness: {} }
    })
  })
}

async function encoding(rounds: number, seed: number): Promise<Figure[]> {
  const [s3, redis] = await Promise.all([startS3Server(), startRedis()])
  const setting = await s3.newBucket(10)
  const app = await openTestApp({ store: setting, queue: redis.url })
  const { context } = app
  const settings = { LECTERN_QUEUE: redis.url, LECTERN_STORE: setting.text }
  const signal = new AbortController().signal
  const times = { alone: [] as number[], both: [] as number[], one: [] as number[], two: [] as number[] }
  try {
    const orders = await ordersOf(context, seed * 100)
    const file = join(app.dataFolder, 'orders.json')
    writeFileSync(file, JSON.stringify(orders))
    await context.sending!.settled()
    const alone = (processors: string, atOnce: number) => {
      const script = ['node', '--import', 'tsx', join(import.meta.dirname, 'alone.ts'), app.dataFolder, file, String(atOnce)]
      const said = execFileSync('taskset', ['-c', processors, ...script], { stdio: ['ignore', 'pipe', 'inherit'] }).toString()
      return (JSON.parse(said) as { ms: number }).ms
    }
    const elsewhere = async (count: number) => {
      const machines = await Promise.all(Array.from({ length: count }, (_, cpu) => workerProcess(settings, 1, cpu)))
      while (context.tasks.elsewhere() !== count) await wait(100)
      const began = performance.now()
      await pMap(orders, (order) => context.tasks.run('encode', order, signal), { concurrency: count })
      const ms = performance.now() - began
      for (const machine of machines) {
        await machine.end()
        machine.remove()
      }
      while (context.tasks.elsewhere() !== 0) await wait(100)
      // what was made is made anew the next time
      const made = new Set((await (context.store as BucketStore).sent.all()).map(({ name }) => name))
      for (const name of await (context.store as BucketStore).local.all()) made.delete(name)
      for (const name of made) context.store.remove(name)
      await wait(2000)
      return ms
    }
    for (let n = 0; n < rounds; n++) {
      times.alone.push(alone('0', 1))
      times.one.push(await elsewhere(1))
      times.both.push(alone('0,1', 2))
      times.two.push(await elsewhere(2))
    }
  } finally {
    await app.end()
    await redis.close()
    await s3.close()
  }
  const [one, two, both, here] = [times.one, times.two, times.both, times.alone].map(median) as [number, number, number, number]
  const overhead = 100 * (one / here - 1)
  return [
    {
      name: `${SLIDES} slides encoded on one processor, without queue and store`,
      value: here / 1000,
      goal: '',
      unit: 's',
      ok: null,
    },
    { name: 'by one machine of one processor: longer by', value: overhead, goal: '≤ 10', unit: '%', ok: overhead <= 10 },
    { name: 'by two such machines: times as fast as by one', value: one / two, goal: '≥ 1.8', unit: '×', ok: one / two >= 1.8 },
    { name: 'two processors without queue and store: times as fast as one', value: here / both, goal: '', unit: '×', ok: null },
  ]
}

export async function bench({ rounds, seed }: BenchOptions): Promise<Figure[]> {
  return encoding(rounds ?? 3, seed)
}
