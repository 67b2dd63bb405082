/** A lecture that has one of everything, for requests that aim at it; made by requests alone, of an app in this process or another. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Lecture } from '#core/model/lecture.ts'
import type { JobView } from '#server/events/job-view.ts'
import type { Target } from '#tests/made/malformed-requests.ts'
import { madeTake } from '#tests/made/sound.ts'

/** An app that can be asked. */
export interface Asked {
  ask(path: string, init?: RequestInit): Promise<Response> | Response
  json(method: string, path: string, body: unknown): Promise<Response> | Response
  read<T>(path: string): Promise<T>
  ended(jobId: string): Promise<JobView>
  idle(): Promise<void>
  newLecture(): Promise<Lecture>
  record(slideId: string, samples: Float32Array): Promise<string>
}

const demoFile = (name: string) => new File([readFileSync(join(import.meta.dirname, '../../demo/files', name))], name)

/** Sends a file as a page does. @returns the job that takes it in, ended */
export async function sendFile(app: Asked, path: string, file: File, fields: Record<string, string> = {}): Promise<JobView> {
  const form = new FormData()
  form.append('file', file)
  for (const [field, value] of Object.entries(fields)) form.append(field, value)
  const { job } = (await (await app.ask(path, { method: 'POST', body: form })).json()) as { job: JobView }
  return app.ended(job.id)
}

export async function targetIn(app: Asked): Promise<Target> {
  const lecture = await app.newLecture()
  const slide = lecture.slides[0]!
  await app.json('PATCH', `/api/slides/${slide.id}`, { script: 'Clouds have names. High ones are thin and white.' })
  const takeId = await app.record(slide.id, madeTake().samples)
  const run = { fromSlideId: slide.id, toSlideId: slide.id }
  await sendFile(app, `/api/lectures/${lecture.id}/beds`, demoFile('opening-music.flac'), run)
  await sendFile(app, `/api/slides/${slide.id}/films`, demoFile('rain-in-the-gauge.mp4'))
  const recording = await sendFile(app, `/api/lectures/${lecture.id}/recordings`, demoFile('opening-music.flac'))
  const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: JobView }
  await app.ended(job.id)
  await app.idle()
  const made = await app.read<{ editions: { id: string }[]; links: { token: string }[] }>(`/api/lectures/${lecture.id}/editions`)
  const { captionTracks, beds, slides } = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  return {
    lectureId: lecture.id,
    slideId: slide.id,
    stepId: slide.steps[0]!.id,
    takeId,
    trackId: captionTracks[0]!.id,
    bedId: beds[0]!.id,
    filmId: slides[0]!.steps[0]!.films[0]!.id,
    recordingId: (recording.result as { recordingId: string }).recordingId,
    editionId: made.editions[0]!.id,
    token: made.links[0]!.token,
  }
}
