/** A lecture that has one of everything, for requests that aim at it. */
import { eq } from 'drizzle-orm'
import type { Lecture } from '#core/lecture.ts'
import { beds, takes } from '#server/db/schema.ts'
import type { JobView } from '#server/jobs/queue.ts'
import type { Target } from '#tests/malformed-requests.ts'
import { madeTake } from '#tests/sound.ts'
import { demoFile, file, type TestApp } from './harness.ts'

export async function targetIn(app: TestApp): Promise<Target> {
  const lecture = await app.newLecture()
  const slide = lecture.slides[0]!
  await app.json('PATCH', `/api/slides/${slide.id}`, { script: 'Clouds have names. High ones are thin and white.' })
  const takeId = await app.record(slide.id, madeTake().samples)
  const send = async (path: string, name: string, fields: Record<string, string> = {}) => {
    const form = new FormData()
    form.append('file', file(name, demoFile(name)))
    for (const [field, value] of Object.entries(fields)) form.append(field, value)
    const { job } = (await (await app.ask(path, { method: 'POST', body: form })).json()) as { job: JobView }
    return app.ended(job.id)
  }
  const run = { fromSlideId: slide.id, toSlideId: slide.id }
  const bed = await send(`/api/lectures/${lecture.id}/beds`, 'opening-music.flac', run)
  const recording = await send(`/api/lectures/${lecture.id}/recordings`, 'opening-music.flac')
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  await app.ended(job.id)
  await app.idle()
  const made = await app.read<{ editions: { id: string }[]; links: { token: string }[] }>(`/api/lectures/${lecture.id}/editions`)
  const { captionTracks } = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  const [row] = await app.tools.db.read.select().from(takes).where(eq(takes.id, takeId))
  const [bedRow] = await app.tools.db.read.select().from(beds)
  return {
    lectureId: lecture.id,
    slideId: slide.id,
    stepId: slide.steps[0]!.id,
    takeId: row!.id,
    trackId: captionTracks[0]!.id,
    bedId: bedRow?.id ?? (bed.result as { bedId: string }).bedId,
    recordingId: (recording.result as { recordingId: string }).recordingId,
    editionId: made.editions[0]!.id,
    token: made.links[0]!.token,
  }
}
