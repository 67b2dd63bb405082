/**
 * `npm run bench -- scale`: what a school of 2,000 teachers and 200,000 learners would need. The costs of tasks are measured on a real machine of one
 * processor over a real Redis and store; the queue is simulated, and its simulation compared with the real one at small scale, where
 * tasks come at random moments.
 */
import { setTimeout as wait } from 'node:timers/promises'
import { distinctLecture } from '#bench/publish/lecture.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { quantile, randomOf } from '#bench/school/measure.ts'
import { plan } from '#core/edition/plan.ts'
import { keptTake } from '#core/model/kept-take.ts'
import { sentences } from '#core/script/sentences.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { allRecipes, wantedSegments } from '#server/publish/lecture-segments.ts'
import type { TaskInput, TaskKind } from '#server/tasks/task.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { startRedis } from '#tests/support/processes/redis.ts'
import { startS3Server } from '#tests/support/processes/s3/server.ts'
import { workerProcess } from '#tests/support/processes/worker-process.ts'
import { bytesOfDay, type Costs, DAY, mostRecording, mostWatching, tasksOfDay } from './day.ts'
import { simulate } from './queue.ts'

const SLIDES = 6
const SECONDS = 20
const PER_MINUTE = 60 / SECONDS
/** Tasks of the comparison, and how much of the machine's time they take. */
const COMPARED = { tasks: 45, load: 0.7 }
const PRIORITY: Record<TaskKind, number> = { tidy: 1, words: 2, encode: 3 }
/** A take is heard as tidied so soon, for nineteen of twenty. */
const SOON_S = 5
/** Processor time for four seconds of video through nginx (figures/server.md), ms. */
const RANGE_MS = 0.1
const SECONDS_OF_RANGE = 4

type Given = { [K in TaskKind]: { kind: K; input: TaskInput<K> } }[TaskKind]

/** One task of each kind for each slide. */
async function tasksOf(app: TestApp, seed: number): Promise<Given[]> {
  const lecture = await distinctLecture(app.context, SLIDES, SECONDS, null, seed * 50)
  const recipes = allRecipes(wantedSegments(plan(lecture).slides, lecture.exportSettings))
  return lecture.slides.flatMap((slide, n): Given[] => {
    const { sound, samples, tidyUp } = keptTake(slide)!
    const said = DEMO_SLIDES.slice(n % 3, (n % 3) + 2).flatMap(({ script }) => sentences(script, 'en'))
    const own = recipes.filter((recipe) => recipe.order.slide.slideId === slide.id)
    // of one form each: a run of the media tool makes alike segments
    const alike = own.filter((recipe) => recipe.form === own[0]!.form)
    return [
      { kind: 'tidy', input: { sound: sound!, samples, analysis: null, tidyUp: null, marks: [] } },
      { kind: 'words', input: { sound: sound!, samples, sentences: said, language: 'en', recipe: tidyUp!, humHz: null } },
      {
        kind: 'encode',
        input: { orders: alike.map((recipe) => recipe.order), keys: alike.map((recipe) => recipe.key), loudness: {} },
      },
    ]
  })
}

interface Compared {
  costs: Costs
  /** Mean time from asking to having, seconds. */
  real: number
  simulated: number
}

async function measured(seed: number): Promise<Compared> {
  const [s3, redis] = await Promise.all([startS3Server(), startRedis()])
  const setting = await s3.newBucket(10)
  const app = await openTestApp({ store: setting, queue: redis.url })
  const machine = await workerProcess({ LECTERN_QUEUE: redis.url, LECTERN_STORE: setting.text }, 1, 0)
  const { tasks, sending } = app.context
  const signal = new AbortController().signal
  const timed = async ({ kind, input }: Given) => {
    const began = performance.now()
    await tasks.run(kind, input as never, signal)
    return (performance.now() - began) / 1000
  }
  try {
    const given = await tasksOf(app, seed)
    await sending!.settled()
    while (tasks.elsewhere() !== 1) await wait(100)
    // the first of each kind warms it
    for (const kind of ['tidy', 'words', 'encode'] as const) await timed(given.find((task) => task.kind === kind)!)
    const services = new Map<Given, number>()
    for (const task of given) services.set(task, await timed(task))
    const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
    const perMinute = (kind: TaskKind) =>
      PER_MINUTE * mean(given.filter((task) => task.kind === kind).map((task) => services.get(task)!))
    const random = randomOf(seed)
    let at = 0
    const coming = Array.from({ length: COMPARED.tasks }, () => {
      const task = given[Math.floor(random() * given.length)]!
      at += (-Math.log(1 - random()) * mean([...services.values()])) / COMPARED.load
      return { task, at }
    })
    const began = performance.now()
    // more are asked for than the machine has hands: they wait in Redis, as with many servers' worth of tasks
    const queue = tasks as unknown as { elsewhere: () => number }
    const own = queue.elsewhere.bind(tasks)
    queue.elsewhere = () => (own() > 0 ? COMPARED.tasks : 0)
    const took = await Promise.all(
      coming.map(async ({ task, at: moment }) => {
        await wait(moment * 1000 - (performance.now() - began))
        return timed(task)
      }),
    )
    const asked = coming.map(({ task, at: moment }) => ({
      at: moment,
      priority: PRIORITY[task.kind],
      seconds: services.get(task)!,
    }))
    return {
      costs: { tidy: perMinute('tidy'), words: perMinute('words'), encode: perMinute('encode') },
      real: mean(took),
      simulated: mean(simulate(asked, 1).map((one) => one.ended - one.at)),
    }
  } finally {
    await machine.end()
    machine.remove()
    await app.end()
    await redis.close()
    await s3.close()
  }
}

/** Processors so that nineteen of twenty takes are tidied anew soon, and how long others wait then. */
function machinesFor(costs: Costs, seed: number) {
  const work = tasksOfDay(costs, seed)
  for (let slots = 1; ; slots++) {
    const done = simulate(work, slots)
    const waited = (priority: number) => done.filter((one) => one.priority === priority).map((one) => one.ended - one.at)
    if (quantile(waited(PRIORITY.tidy), 0.95) > SOON_S) continue
    return {
      slots,
      tasks: work.length,
      words: quantile(waited(PRIORITY.words), 0.95),
      encode: quantile(waited(PRIORITY.encode), 0.95),
    }
  }
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const { costs, real, simulated } = await measured(seed)
  const need = machinesFor(costs, seed)
  const apart = 100 * Math.abs(simulated / real - 1)
  const line = (mostWatching() * DAY.bytesASecond * 8) / 1e9
  const watching = (mostWatching() / SECONDS_OF_RANGE) * (RANGE_MS / 1000)
  const ahead = (mostRecording() * costs.tidy) / 60
  const told = (name: string, value: number, unit: string): Figure => ({ name, value, goal: '', unit, ok: null })
  return [
    told('a minute of sound to tidy, one processor', costs.tidy, 's'),
    told('a minute of sound to find its words in', costs.words, 's'),
    told('a minute of a slide to encode', costs.encode, 's'),
    told(`${COMPARED.tasks} tasks at random moments on one machine: from asking to having, mean`, real, 's'),
    { name: 'simulated: apart by', value: apart, goal: '≤ 15', unit: '%', ok: apart <= 15 },
    told(`${DAY.teachers} teachers: tasks of a day`, need.tasks, ''),
    told(`processors of other machines, so that 95 % of takes are tidied anew within ${SOON_S} s`, need.slots, ''),
    told('words of a take are found after, 95th percentile', need.words, 's'),
    told('a segment is encoded after, 95th percentile', need.encode, 's'),
    told('processors of the server for takes that are tidied while they are recorded, busiest hour', ahead, ''),
    told(`${DAY.learners} learners: watching at the same time, busiest hour`, mostWatching(), ''),
    told('line for them', line, 'Gbit/s'),
    told('processors of nginx for them', watching, ''),
    told('a school day adds to the store', bytesOfDay() / 1e9, 'GB'),
  ]
}
