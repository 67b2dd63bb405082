/** The server killed in the middle of its work, and what is left of it when it is back. */
import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import type { Lecture } from '#core/model/lecture.ts'
import type { JobView } from '#server/events/job-view.ts'
import { madeTake, noise, seconds } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { beginOver, chunkOver } from '#tests/support/recording.ts'
import type { Host } from './host.ts'

export const KILLED = ['import', 'bundle', 'tidy', 'publish', 'record'] as const
export type Killed = (typeof KILLED)[number]

export interface KillOutcome {
  what: Killed
  /** Samples that were acknowledged and are not there. */
  lost: number
  /** Jobs that did not end well after the restart. */
  failed: number
}

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

async function drop(host: Host, path: string): Promise<JobView> {
  const form = new FormData()
  form.append('files', new File([readFileSync(path)], path.split('/').at(-1)!))
  return ((await (await host.app.ask('/api/lectures', { method: 'POST', body: form })).json()) as { job: JobView }).job
}

/** @param after milliseconds from its beginning to the kill */
export async function killDuring(host: Host, what: Killed, after: number): Promise<KillOutcome> {
  const { app, server } = host
  const again = async () => {
    await wait(after)
    await server.kill()
    await server.start()
  }
  if (what === 'import' || what === 'bundle') {
    const job = await drop(
      host,
      what === 'import' ? 'demo/files/reading-the-rain-gauge.pdf' : 'tests/fixtures/bundle-1.lectern.zip',
    )
    await again()
    const ended = await app.ended(job.id)
    await app.idle()
    return { what, lost: 0, failed: ended.state === 'done' ? 0 : 1 }
  }
  const lecture = await app.newLecture()
  const slideId = lecture.slides[0]!.id
  if (what === 'record') {
    const takeId = randomUUID()
    await beginOver(server.address, takeId, slideId)
    let acknowledged = 0
    for (const [i, chunk] of chunksOf(noise(0.1, seconds(6), 2)).entries()) {
      if ((await chunkOver(server.address, takeId, i, chunk)) > i) acknowledged += chunk.length / 2
      if (i === 3) break
    }
    await again()
    await app.idle()
    const [take] = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes
    return { what, lost: Math.max(0, acknowledged - (take?.samples ?? 0)), failed: take?.state === 'sealed' ? 0 : 1 }
  }
  const { samples } = madeTake()
  if (what === 'tidy') {
    const recorded = app.record(slideId, samples)
    await recorded
    await again()
    await app.idle()
  } else {
    await app.record(slideId, samples)
    const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
    await again()
    const ended = await app.ended(job.id)
    if (ended.state !== 'done') return { what, lost: 0, failed: 1 }
  }
  const [take] = (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes
  return { what, lost: Math.max(0, samples.length - (take?.samples ?? 0)), failed: take?.clip ? 0 : 1 }
}
