/** Makes the segments of a lecture's slides in the background, so that publishing is only joining. */

import { setTimeout as wait } from 'node:timers/promises'
import { and, eq, gt, inArray, isNull } from 'drizzle-orm'
import { plan } from '#core/edition/plan.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { jobs, takes } from '#server/db/schema.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import type { Events } from '#server/events/events.ts'
import { allRecipes, hasFilms, makeSegments, settledSlides, wantedSegments } from '#server/publish/lecture-segments.ts'
import type { JobDefinition, JobQueue } from '#server/queue/queue.ts'

const LOOK_AGAIN_MS = 2000
/** A recording that has gone on for longer is one whose end nobody heard. */
const LONGEST_RECORDING_MS = 4 * 3600_000

/** Whether something goes on that encoding must not slow down: a recording, or an edition being made. */
async function isBusy({ db }: AppContext): Promise<boolean> {
  const open = and(eq(takes.state, 'recording'), isNull(takes.voiceId), gt(takes.startedAt, Date.now() - LONGEST_RECORDING_MS))
  if ((await db.read.select({ id: takes.id }).from(takes).where(open).limit(1)).length > 0) return true
  const isPublishing = and(eq(jobs.kind, 'publish'), inArray(jobs.state, ['queued', 'running']))
  return (await db.read.select({ id: jobs.id }).from(jobs).where(isPublishing).limit(1)).length > 0
}

export const preEncode: JobDefinition<'pre-encode'>['run'] = async ({ lectureId }, context, report, signal) => {
  const lecture = await readLecture(context.db.read, lectureId)
  if (lecture.slides.every((slide) => slide.hidden)) return
  const scripts = new Map(lecture.slides.map((slide) => [slide.id, slide.script]))
  const edition = plan(lecture)
  const wanted = wantedSegments(settledSlides(edition, scripts), lecture.exportSettings, hasFilms(edition.slides))
  const tell = (done: number, all: number) =>
    report(all === 0 ? 1 : done / all, message('Segment {done} of {all}', { done, all }))
  const mayGoOn = async () => {
    while (await isBusy(context)) {
      report(0, message('Waiting'))
      await wait(LOOK_AGAIN_MS, undefined, { signal })
    }
  }
  // few together: a recording that begins now is not to wait for many of them
  await makeSegments(context, allRecipes(wanted), tell, signal, { mayGoOn, together: 2 })
}

/**
 * Puts a lecture into the queue when it has changed and then been left alone for a while. A change while its segments are being made
 * begins anew: what is made already is found again.
 *
 * @returns a function that ends it
 */
export function preEncodeOnChange(events: Events, queue: JobQueue, afterMs: number): () => void {
  const waiting = new Map<string, NodeJS.Timeout>()
  const under = new Map<string, string>()
  const begin = async (lectureId: string) => {
    waiting.delete(lectureId)
    const before = under.get(lectureId)
    if (before) await queue.cancel(before)
    under.set(lectureId, (await queue.add('pre-encode', lectureId, { lectureId })).id)
  }
  const end = events.listen((event) => {
    if (event.type !== 'lecture') return
    clearTimeout(waiting.get(event.lectureId))
    const timer = setTimeout(
      () => void begin(event.lectureId).catch((error) => console.error('Preparing stumbled:', error)),
      afterMs,
    )
    timer.unref()
    waiting.set(event.lectureId, timer)
  })
  return () => {
    end()
    for (const timer of waiting.values()) clearTimeout(timer)
  }
}
