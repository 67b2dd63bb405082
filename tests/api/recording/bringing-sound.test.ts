import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { DEFAULT_BED } from '#core/model/bed.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { proposeBoundaries } from '#core/timing/division/split.ts'
import type { Message } from '#core/words/say.ts'
import type { JobView } from '#server/events/job-view.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { lay, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
beforeAll(async () => {
  app = await openTestApp()
})
beforeEach(async () => {
  lecture = await app.newLecture()
})
afterAll(() => app.end())

const again = async () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
async function send(path: string, name: string, bytes: Uint8Array, more: Record<string, string> = {}): Promise<JobView> {
  const form = new FormData()
  form.append('file', new File([bytes as BlobPart], name))
  for (const [key, value] of Object.entries(more)) form.append(key, value)
  const answer = (await (await app.ask(path, { method: 'POST', body: form })).json()) as { job?: JobView; error?: string }
  if (!answer.job) throw new Error(answer.error)
  return app.ended(answer.job.id)
}
const wav = (samples: Float32Array) => writeWav(toInt16(samples), SAMPLE_RATE)

/** Four slides' worth of speech with joins at known pauses. */
function recording() {
  const whole = noise(0.002, seconds(24), 3)
  for (const [i, at] of [0.6, 3, 6.5, 9, 12.8, 15.2, 18.8, 21].entries()) lay(whole, voice(0.3, seconds(2), i + 1), seconds(at))
  return {
    samples: whole,
    joins: [
      [5, 6.5],
      [11, 12.8],
      [17.2, 18.8],
    ],
  }
}

describe('a sound file for one slide', () => {
  test('it becomes a take, tidied like any other, and is named after its file', async () => {
    const take = lay(noise(0.002, seconds(4), 2), voice(0.3, seconds(2)), seconds(1))
    const job = await send(`/api/slides/${lecture.slides[1]!.id}/sounds`, '02 names.wav', wav(take))
    expect(job).toMatchObject({ state: 'done' })
    await app.idle()
    const slide = (await again()).slides[1]!
    expect(slide.keptTakeId).toBe(slide.takes[0]!.id)
    expect(slide.takes[0]).toMatchObject({ microphone: '02 names.wav', samples: seconds(4), state: 'sealed' })
    expect(slide.takes[0]!.clip!.figures.loudnessLufs).toBeCloseTo(-16, 0)
  })
  test('where two things are to be told of it, both are told, and it comes in', async () => {
    const take = toInt16(lay(noise(0.002, seconds(4), 2), voice(0.3, seconds(2)), seconds(1)))
    const left = new Int16Array(2 * take.length)
    take.forEach((value, i) => {
      left[2 * i] = value
    })
    const stereo = new Uint8Array(writeWav(left, SAMPLE_RATE))
    const header = new DataView(stereo.buffer)
    header.setUint16(22, 2, true)
    header.setUint32(28, 4 * SAMPLE_RATE, true)
    header.setUint16(32, 4, true)
    const job = await send(`/api/slides/${lecture.slides[0]!.id}/sounds`, 'left.wav', stereo.subarray(0, stereo.length / 2))
    expect(inWords(job.error)).toBeNull()
    expect(inWords((job.result as { note: Message }).note)).toMatch(/ends early.* Only the left channel of “left.wav”/)
  })
  longTest('the same file in two lectures is tidied in both', async () => {
    const take = lay(noise(0.002, seconds(4), 5), voice(0.3, seconds(2)), seconds(1))
    const other = await app.newLecture()
    for (const { slides } of [lecture, other]) await send(`/api/slides/${slides[0]!.id}/sounds`, 'same.wav', wav(take))
    await app.idle()
    for (const { id } of [lecture, other])
      expect((await app.read<Lecture>(`/api/lectures/${id}`)).slides[0]!.takes[0]!.clip).not.toBeNull()
  })
  test('what holds no sound is said by its name, and nothing is left on the slide', async () => {
    const job = await send(
      `/api/slides/${lecture.slides[1]!.id}/sounds`,
      '02 names.mp3',
      Buffer.from('not a sound at all, only words'),
    )
    expect(job.state).toBe('failed')
    expect(inWords(job.error)).toContain('“02 names.mp3” cannot be read as sound')
    expect((await again()).slides[1]!.takes).toEqual([])
  })
})

describe('a long recording', () => {
  let kept: ({ lecture: Lecture } & Awaited<ReturnType<typeof open>>) | undefined
  const open = async () => {
    const made = recording()
    const job = await send(`/api/lectures/${lecture.id}/recordings`, 'whole lecture.wav', wav(made.samples))
    expect(job).toMatchObject({ state: 'done' })
    const { recordings } = await app.read<{
      recordings: { id: string; samples: number; speech: { start: number; end: number }[] }[]
    }>(`/api/lectures/${lecture.id}/recordings`)
    return { ...made, recording: recordings[0]! }
  }
  test('its pauses are found, and its changes proposed in the true ones', async () => {
    const { recording, joins, samples } = await open()
    expect(recording.samples).toBe(samples.length)
    const found = proposeBoundaries(recording.speech, { from: 'pauses', slides: 4 })
    found.forEach(({ at }, i) => {
      expect(at).toBeGreaterThan(toSamples(joins[i]![0]!))
      expect(at).toBeLessThan(toSamples(joins[i]![1]!))
    })
  })
  longTest('divided, every slide has its part, sample for sample, and nothing between them is lost', async () => {
    const { recording } = await open()
    const boundaries = [seconds(5.8), seconds(12), seconds(18)]
    const slideIds = lecture.slides.map((s) => s.id)
    const answer = (await (
      await app.json('POST', `/api/recordings/${recording.id}/division`, { slideIds, boundaries })
    ).json()) as { job: JobView }
    expect(await app.ended(answer.job.id)).toMatchObject({ state: 'done', result: { takes: 4 } })
    await app.idle()
    const takes = (await again()).slides.map((s) => s.takes[0]!)
    expect(takes.map((t) => t.samples)).toEqual([seconds(5.8), seconds(6.2), seconds(6), seconds(6)])
    const parts = await Promise.all(takes.map((t) => decodeStored(app.context, t.sound!)))
    const [row] = await app
      .read<{ recordings: { sound: string }[] }>(`/api/lectures/${lecture.id}/recordings`)
      .then((r) => r.recordings)
    const whole = await decodeStored(app.context, row!.sound)
    expect(
      Buffer.concat(parts.map((p) => Buffer.from(p.buffer, p.byteOffset, p.byteLength))).equals(
        Buffer.from(whole.buffer, whole.byteOffset, whole.byteLength),
      ),
    ).toBe(true)
    expect((await again()).slides.every((s) => s.keptTakeId === s.takes[0]!.id)).toBe(true)
  })
  test.each([
    ['too few changes', [seconds(5)], 'need 3 changes; there are 1'],
    ['changes out of order', [seconds(9), seconds(5), seconds(12)], 'not in order'],
    ['a change past the end', [seconds(5), seconds(9), seconds(90)], 'past the end'],
  ])('%s are refused with a sentence, and no take is made', async (_, boundaries, sentence) => {
    // one recording serves all three: none of them divides it
    kept ??= { lecture, ...(await open()) }
    const { recording } = kept
    lecture = kept.lecture
    const slideIds = lecture.slides.map((s) => s.id)
    const answer = await app.json('POST', `/api/recordings/${recording.id}/division`, { slideIds, boundaries })
    expect(answer.status).toBe(422)
    expect(((await answer.json()) as { error: string }).error).toContain(sentence)
    expect((await again()).slides.every((s) => s.takes.length === 0)).toBe(true)
  })
})

describe('a bed', () => {
  const music = () => wav(lay(sine(220, 0.3, seconds(3)), sine(330, 0.2, seconds(3)), 0))
  const run = () => ({ fromSlideId: lecture.slides[0]!.id, toSlideId: lecture.slides[2]!.id })
  test('it is measured and kept with usual settings, changed, deleted and brought back', async () => {
    const job = await send(`/api/lectures/${lecture.id}/beds`, 'opening.wav', music(), run())
    expect(job).toMatchObject({ state: 'done' })
    const [bed] = (await again()).beds
    expect(bed).toMatchObject({ name: 'opening.wav', samples: seconds(3), ...DEFAULT_BED, ...run() })
    expect(bed!.loudnessLufs).toBeLessThan(-5)
    await app.json('PATCH', `/api/beds/${bed!.id}`, { volumeDb: -20, loop: false })
    expect((await again()).beds[0]).toMatchObject({ volumeDb: -20, loop: false, duckDb: -14 })
    await app.json('PUT', `/api/beds/${bed!.id}/deleted`, { deleted: true })
    expect((await again()).beds).toEqual([])
    await app.json('PUT', `/api/beds/${bed!.id}/deleted`, { deleted: false })
    expect((await again()).beds).toHaveLength(1)
    expect((await app.json('PATCH', `/api/beds/${bed!.id}`, { volumeDb: 90 })).status).toBe(422)
  })
  test('slides that are not there are said', () =>
    expect(send(`/api/lectures/${lecture.id}/beds`, 'opening.wav', music(), { ...run(), toSlideId: 'gone' })).rejects.toThrow(
      'Choose them again',
    ))
})
