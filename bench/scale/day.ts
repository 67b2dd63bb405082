/** A school day of many teachers and learners, made of what one of them does; invented, as the numbers beside each say. */
import { randomOf } from '#bench/school/measure.ts'
import type { TaskKind } from '#server/tasks/task.ts'
import type { Arrival } from './queue.ts'

/** Share of a working day's recordings that falls into each hour from 7 to 19: lessons are prepared after them, and in the evening less. */
const TEACHING = [2, 5, 8, 9, 9, 7, 8, 11, 13, 12, 8, 5, 3]
/** The same of learners: lessons in the morning, homework in the afternoon. */
const LEARNING = [1, 6, 10, 11, 11, 9, 6, 8, 11, 11, 8, 5, 3]
const FIRST_HOUR = 7

export const DAY = {
  teachers: 2000,
  /** Of them, those who make something on one day. */
  active: 0.4,
  /** Takes that one of them records. */
  takes: 14,
  secondsOfTake: 55,
  /** Of takes, those that are tidied anew after an edit. */
  tidiedAnew: 0.7,
  /** Editions that an active teacher publishes. */
  editions: 0.5,
  slidesOfEdition: 12,
  /** Of the slides of an edition, those that changed since they were encoded ahead. */
  encodedNow: 0.5,
  learners: 200_000,
  secondsWatched: 480,
  /** Of standard video, measured in figures/server.md. */
  bytesASecond: 40_000,
  /** A take in FLAC, its clip, its picture and peaks; an encoded minute. */
  bytesOfTake: 9e6,
  bytesOfEncodedSlide: 3e6,
  bytesOfEdition: 40e6,
}

/** Seconds of work for a minute of sound, on one processor. */
export type Costs = Record<TaskKind, number>

/** Lower comes first, as `server/tasks/redis/redis-tasks.ts` has it. */
const PRIORITY: Record<TaskKind, number> = { tidy: 1, words: 2, encode: 3 }

export interface Work extends Arrival {
  kind: TaskKind
}

/** @returns the day's tasks for other machines; `at` in seconds of the day */
export function tasksOfDay(costs: Costs, seed: number): Work[] {
  const random = randomOf(seed)
  const total = TEACHING.reduce((sum, share) => sum + share, 0)
  const moment = () => {
    let left = random() * total
    const hour = TEACHING.findIndex((share) => (left -= share) < 0)
    return (FIRST_HOUR + hour + random()) * 3600
  }
  const minutes = () => (DAY.secondsOfTake / 60) * (0.4 + 1.2 * random())
  const work: Work[] = []
  const add = (kind: TaskKind, at: number, length: number) =>
    work.push({ kind, at, priority: PRIORITY[kind], seconds: costs[kind] * length })
  for (let teacher = 0; teacher < DAY.teachers * DAY.active; teacher++) {
    const begins = moment()
    for (let n = 0; n < DAY.takes; n++) {
      const length = minutes()
      const at = begins + n * 2.5 * DAY.secondsOfTake
      add('words', at, length)
      if (random() < DAY.tidiedAnew) add('tidy', at + 60 * random(), length)
      // encoded ahead while the teacher goes on
      add('encode', at + 30, length)
    }
    if (random() < DAY.editions)
      for (let n = 0; n < DAY.slidesOfEdition * DAY.encodedNow; n++) add('encode', begins + 2400, minutes())
  }
  return work
}

/** Most who watch at the same time, by the busiest hour. */
export function mostWatching(): number {
  const total = LEARNING.reduce((sum, share) => sum + share, 0)
  return ((Math.max(...LEARNING) / total) * DAY.learners * DAY.secondsWatched) / 3600
}

/** Most who record at the same time. */
export function mostRecording(): number {
  const total = TEACHING.reduce((sum, share) => sum + share, 0)
  return ((Math.max(...TEACHING) / total) * DAY.teachers * DAY.active * DAY.takes * DAY.secondsOfTake) / 3600
}

/** Bytes that a day adds to the store. */
export const bytesOfDay = () =>
  DAY.teachers * DAY.active * (DAY.takes * (DAY.bytesOfTake + DAY.bytesOfEncodedSlide) + DAY.editions * DAY.bytesOfEdition)
