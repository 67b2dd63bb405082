/** What screen and camera recorded is kept and goes along: through kills, divisions, moved words, bundles. */

import { randomUUID } from 'node:crypto'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { JobView } from '#server/events/job-view.ts'
import { narratedPresentation } from '#server/export/presentation.ts'
import { file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { lay, noise, seconds as samplesOf, voice } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { piecesOf, recordedFrames, sendFootage, sendPiece } from '#tests/support/footage.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

const SIZE = { width: 160, height: 90 }
const FIRST = 4800
const frames = recordedFrames({ frames: 170, ...SIZE, first: FIRST })
/** Two phrases with a rest between them. */
const speech = () => {
  const all = noise(0.002, samplesOf(6))
  lay(all, voice(0.3, samplesOf(1.8), 3), samplesOf(0.8))
  return lay(all, voice(0.3, samplesOf(1.8), 5), samplesOf(3.4))
}

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())
const again = (id: string) => app.read<Lecture>(`/api/lectures/${id}`)
const takeOf = async (lecture: Lecture, slide = 0) => (await again(lecture.id)).slides[slide]!.takes[0]!

async function recorded(slideId: string, isContinuous = false, marks: object[] = []): Promise<string> {
  const takeId = randomUUID()
  const began = { slideId, microphone: 'Test microphone', startedAt: Date.now(), isContinuous }
  await app.json('PUT', `/api/takes/${takeId}`, began)
  await sendFootage(app, takeId, 'camera', SIZE, frames)
  if (marks.length > 0) await app.json('PUT', `/api/takes/${takeId}/marks`, { marks })
  const chunks = chunksOf(speech())
  for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
  await app.seal(takeId, chunks.length)
  await app.idle()
  return takeId
}

describe('footage goes along', () => {
  longTest('each slide of a recording straight through has its part, and a division that is moved moves it', async () => {
    const lecture = await app.newLecture()
    const [one, two] = lecture.slides as [Lecture['slides'][number], Lecture['slides'][number]]
    await recorded(one.id, true, [{ kind: 'slide', slideId: two.id, at: samplesOf(3) }])
    const [first, second] = [await takeOf(lecture, 0), await takeOf(lecture, 1)]
    expect(first.samples + second.samples).toBe(samplesOf(6))
    expect(first.footage).toMatchObject([{ start: FIRST, end: first.samples, from: 0 }])
    expect(second.footage).toMatchObject([{ start: 0, from: first.samples - FIRST }])
    expect(first.footage[0]!.footage.shown).toMatchObject(SIZE)
    const recordings = await app.read<{ recordings: { id: string }[] }>(`/api/lectures/${lecture.id}/recordings`)
    const division = { slideIds: [one.id, two.id], boundaries: [samplesOf(2.9)] }
    const [recording] = recordings.recordings
    await app.json('POST', `/api/recordings/${recording!.id}/division`, division)
    await app.idle()
    expect((await takeOf(lecture, 1)).footage).toMatchObject([{ start: 0, from: samplesOf(2.9) - FIRST }])
  })

  test('words that are moved to another slide take their pictures along', async () => {
    const lecture = await app.newLecture()
    const takeId = await recorded(lecture.slides[0]!.id)
    const cut = { start: samplesOf(3), end: samplesOf(5.3) }
    await app.json('POST', '/api/takes/moved', { takeId, slideId: lecture.slides[1]!.id, at: 'end', cut })
    await app.idle()
    const moved = await takeOf(lecture, 1)
    expect(moved.footage).toMatchObject([{ start: 0, end: cut.end - cut.start, from: cut.start - FIRST }])
  })

  longTest('a sentence that is said again brings its own pictures, and the rest keeps its own', async () => {
    const lecture = await app.newLecture()
    const slideId = lecture.slides[0]!.id
    const takeId = await recorded(slideId)
    const againTakeId = await recorded(slideId)
    const said = { takeId, againTakeId, text: 'The second phrase.', start: samplesOf(3.3), end: samplesOf(5.3) }
    await app.json('POST', '/api/takes/again', said)
    await app.idle()
    const all = (await again(lecture.id)).slides[0]!.takes
    const patched = all.find(({ microphone }) => microphone.includes('said again'))!
    expect(patched.footage.map((part) => part.footageId)).toEqual([
      all.find(({ id }) => id === takeId)!.footage[0]!.footageId,
      all.find(({ id }) => id === againTakeId)!.footage[0]!.footageId,
      ...(patched.footage.length > 2 ? [all.find(({ id }) => id === takeId)!.footage[0]!.footageId] : []),
    ])
    for (const [i, part] of patched.footage.entries())
      if (i > 0) expect(part.start).toBeGreaterThanOrEqual(patched.footage[i - 1]!.end)
  })

  test('in a bundle, with all that was set, and comes back; in a narrated presentation as a film that is cut like the sound', async () => {
    const lecture = await app.newLecture()
    await recorded(lecture.slides[0]!.id)
    const { footageId } = (await takeOf(lecture)).footage[0]!
    await app.json('PATCH', `/api/footage/${footageId}`, { description: 'A face' })
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { smallPicture: { corner: 'top-left', edge: 'square' } })
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { smallPicture: { size: 'small' } })
    const made = await again(lecture.id)
    const bundle = new Uint8Array(await (await app.ask(`/api/lectures/${lecture.id}/bundle`)).arrayBuffer())
    const { lecture: copy } = await app.imported(file('copy.lectern.zip', bundle))
    const take = copy.slides[0]!.takes[0]!
    expect(take.footage).toMatchObject([
      {
        start: FIRST,
        from: 0,
        footage: { kind: 'camera', description: 'A face', original: made.slides[0]!.takes[0]!.footage[0]!.footage.original },
      },
    ])
    expect(take.footage[0]!.footage.shown).toMatchObject({ ...SIZE, frames: 170 })
    expect(copy.smallPicture).toEqual(made.smallPicture)
    expect(copy.slides[0]!.smallPicture).toEqual({ size: 'small' })
    const deck = await narratedPresentation(app.context, made, new AbortController().signal)
    // its corners are round there as well
    expect(strFromU8(unzipSync(deck)['ppt/slides/slide1.xml']!)).toContain('prst="roundRect"')
    const { lecture: back } = await app.imported(file('narrated.pptx', deck))
    const [film] = back.slides[0]!.steps[0]!.films
    const clip = made.slides[0]!.takes[0]!.clip!.samples / 48_000
    expect(film!.shown!.frames / 30).toBeGreaterThan(clip)
    expect(film!.shown!.frames / 30).toBeLessThan(clip + 2.2)
  })
})

describe('a footage that is being recorded', () => {
  test('is there to the last piece that was acknowledged after the server was killed, and grows on when its browser comes back', async () => {
    const own = await openTestApp()
    const lecture = await own.newLecture()
    const takeId = randomUUID()
    const footageId = randomUUID()
    await own.begin(takeId, lecture.slides[0]!.id)
    await own.json('PUT', `/api/takes/${takeId}/footage/${footageId}`, { kind: 'screen', codec: 'vp8', ...SIZE })
    const pieces = piecesOf(frames)
    const chunks = chunksOf(speech())
    for (let i = 0; i < 3; i++) {
      const { next } = (await (await sendPiece(own, takeId, footageId, i, pieces[i]!)).json()) as { next: number }
      expect(next).toBe(i + 1)
      await own.sendChunk(takeId, i, chunks[i]!)
    }
    // a piece that comes again is acknowledged and not kept twice
    expect(await (await sendPiece(own, takeId, footageId, 1, pieces[1]!)).json()).toEqual({ next: 3 })
    await own.end(true)
    const next = await openTestApp({ dataFolder: own.dataFolder })
    await next.idle()
    const found = (await next.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!
    expect(found.recovered).toBe(true)
    expect(found.footage).toMatchObject([{ start: FIRST, end: FIRST + 90 * 1600 }])
    expect(found.footage[0]!.footage.shown!.frames).toBe(90)
    for (let i = 3; i < pieces.length; i++) await sendPiece(next, takeId, footageId, i, pieces[i]!)
    for (let i = 3; i < chunks.length; i++) await next.sendChunk(takeId, i, chunks[i]!)
    await next.json('POST', `/api/takes/${takeId}/footage/${footageId}/seal`, { pieces: pieces.length })
    await next.seal(takeId, chunks.length)
    await next.idle()
    const whole = (await next.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!
    expect(whole.footage).toMatchObject([{ start: FIRST, end: FIRST + 170 * 1600 }])
    expect(whole.footage[0]!.footage.shown!.frames).toBe(170)
    await next.end()
  })

  longTest('that came late, to a take that is sealed, is put together too when its browser is gone again', async () => {
    const own = await openTestApp()
    const lecture = await own.newLecture()
    const takeId = randomUUID()
    const footageId = randomUUID()
    await own.begin(takeId, lecture.slides[0]!.id)
    const chunks = chunksOf(speech())
    for (const [i, chunk] of chunks.entries()) await own.sendChunk(takeId, i, chunk)
    await own.seal(takeId, chunks.length)
    await own.json('PUT', `/api/takes/${takeId}/footage/${footageId}`, { kind: 'screen', codec: 'vp8', ...SIZE })
    const pieces = piecesOf(frames)
    for (let i = 0; i < 3; i++) await sendPiece(own, takeId, footageId, i, pieces[i]!)
    await own.end(true)
    const next = await openTestApp({ dataFolder: own.dataFolder })
    await next.idle()
    const shown = async (server: TestApp) => {
      const [take] = (await server.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes
      return take!.footage.map(({ footage }) => footage.shown?.frames)
    }
    expect(await shown(next)).toEqual([90])
    // it came back with one piece more, and went away again
    await sendPiece(next, takeId, footageId, 3, pieces[3]!)
    await next.end(true)
    const last = await openTestApp({ dataFolder: own.dataFolder })
    await last.idle()
    expect(await shown(last)).toEqual([120])
    await last.end()
  })

  test('a piece that was damaged, is none, or is of nobody’s footage is refused in words; the take is sealed all the same', async () => {
    const lecture = await app.newLecture()
    const takeId = randomUUID()
    const footageId = randomUUID()
    await app.begin(takeId, lecture.slides[0]!.id)
    await app.json('PUT', `/api/takes/${takeId}/footage/${footageId}`, { kind: 'screen', codec: 'vp8', ...SIZE })
    const [piece] = piecesOf(frames) as [Uint8Array<ArrayBuffer>]
    const said = async (answer: Response | Promise<Response>) => (await answer).status
    const damaged = app.ask(`/api/takes/${takeId}/footage/${footageId}/pieces/0`, {
      method: 'PUT',
      headers: { 'x-checksum': '1' },
      body: piece,
    })
    expect(await said(damaged)).toBe(422)
    expect(await said(sendPiece(app, takeId, footageId, 0, piece.slice(0, 40)))).toBe(415)
    expect(await said(sendPiece(app, takeId, randomUUID(), 0, piece))).toBe(404)
    expect(await said(app.json('POST', `/api/takes/${takeId}/footage/${footageId}/seal`, { pieces: 4 }))).toBe(409)
    const chunks = chunksOf(speech())
    for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
    await app.seal(takeId, chunks.length)
    await app.idle()
    // nothing came of it, and nothing stands there for it
    expect((await takeOf(lecture)).footage).toEqual([])
  })

  test('pictures of which no file can be made are refused, and the voice is sealed without them', async () => {
    const lecture = await app.newLecture()
    const takeId = randomUUID()
    const footageId = randomUUID()
    await app.begin(takeId, lecture.slides[0]!.id)
    // said to be H.264, and nothing of it is
    await app.json('PUT', `/api/takes/${takeId}/footage/${footageId}`, { kind: 'camera', codec: 'avc', ...SIZE })
    await sendPiece(app, takeId, footageId, 0, piecesOf(frames)[0]!)
    const sealed = await app.json('POST', `/api/takes/${takeId}/footage/${footageId}/seal`, { pieces: 1 })
    expect(sealed.status).toBe(415)
    const chunks = chunksOf(speech())
    for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
    expect((await app.seal(takeId, chunks.length)).ok).toBe(true)
    await app.idle()
    // it is told at its slide, and not that it is still being made ready
    const take = await takeOf(lecture)
    expect(take.tidyUp).not.toBeNull()
    expect(take.footage).toMatchObject([{ footage: { shown: null, original: null } }])
    expect(inWords(take.footage[0]!.footage.problem)).toBe('What was filmed cannot be read.')
    expect((await app.json('POST', `/api/footage/${footageId}/tries`, {})).status).toBe(422)
  })

  test('what cannot be read is told at its slide, and again when it is tried once more', async () => {
    const lecture = await app.newLecture()
    const takeId = randomUUID()
    await app.begin(takeId, lecture.slides[0]!.id)
    const broken = frames.map((frame) => ({ ...frame, data: frame.isKey ? new Uint8Array(60).fill(7) : frame.data }))
    const footageId = await sendFootage(app, takeId, 'screen', SIZE, broken)
    const chunks = chunksOf(speech())
    for (const [i, chunk] of chunks.entries()) await app.sendChunk(takeId, i, chunk)
    await app.seal(takeId, chunks.length)
    await app.idle()
    const { footage } = (await takeOf(lecture)).footage[0]!
    expect(footage.shown).toBeNull()
    expect(inWords(footage.problem)).toBe('What was filmed cannot be read.')
    const { job } = (await (await app.json('POST', `/api/footage/${footageId}/tries`, {})).json()) as { job: JobView }
    expect((await app.ended(job.id)).state).toBe('failed')
  })
})
