/** Captions time themselves: from a script and a take on the real server, with the real synthesiser. */
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { cuesOnLecture } from '#core/captions/tracks/place-cues.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { decodeFlac } from '#server/media/sound-files.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { firstDifference } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
const script = DEMO_SLIDES[2]!.script
beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
  await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script })
  const sound = await decodeFlac(app.context.media, join(import.meta.dirname, '../../../demo/files/take-3a.flac'))
  await app.record(lecture.slides[0]!.id, fromInt16(sound))
  await app.idle()
})
afterAll(() => app.end())
const again = async () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const cuesOf = async () => (await again()).captionTracks[0]!.cues

describe('captions of a fresh take', () => {
  test('are the script, in order, none in doubt, and each lies over speech', async () => {
    const cues = await cuesOf()
    expect(cues.map((cue) => cue.text.replace('\n', ' ')).join(' ')).toBe(script)
    expect(cues.some((cue) => cue.needsReview)).toBe(false)
    const [take] = (await again()).slides[0]!.takes
    for (const cue of cues) {
      const over = take!.analysis!.speech.reduce(
        (sum, s) => sum + Math.max(0, Math.min(cue.end, toSeconds(s.end)) - Math.max(cue.start, toSeconds(s.start))),
        0,
      )
      expect(over / (cue.end - cue.start)).toBeGreaterThan(0.55)
    }
  })
  test('the first begins with the voice, and the last stays until it has ended', async () => {
    const { speech } = (await again()).slides[0]!.takes[0]!.analysis!
    const cues = await cuesOf()
    expect(Math.abs(cues[0]!.start - toSeconds(speech[0]!.start))).toBeLessThan(0.15)
    expect(cues.at(-1)!.end).toBeGreaterThan(toSeconds(speech.at(-1)!.end) - 0.15)
  })
  test('a change of one sentence leaves the other captions as they were', async () => {
    const before = await cuesOf()
    const changed = script.replace('A fence counts as a small tree.', 'A fence counts as a very small tree.')
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script: changed })
    await app.idle()
    const after = await cuesOf()
    const same = before.filter((cue) =>
      after.some((other) => other.id === cue.id && other.text === cue.text && Math.abs(other.start - cue.start) < 0.06),
    )
    expect(same.length).toBe(before.length - 1)
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script })
    await app.idle()
  })
  test('a sentence that is not said has no caption, and that is told', async () => {
    const longer = `${script} Always ask the owner of the garden first.`
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script: longer })
    await app.idle()
    expect((await cuesOf()).some((cue) => cue.text.includes('owner'))).toBe(false)
    expect((await again()).slides[0]!.takes[0]!.findings!.skipped).toEqual(['Always ask the owner of the garden first.'])
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script })
    await app.idle()
  })
  longTest('a script of something else keeps its captions spread over the speech, all marked for a look', async () => {
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script: DEMO_SLIDES[4]!.script })
    await app.idle()
    const cues = await cuesOf()
    expect(cues.length).toBeGreaterThanOrEqual(2)
    expect(cues.every((cue) => cue.needsReview)).toBe(true)
    await app.json('PATCH', `/api/slides/${lecture.slides[0]!.id}`, { script })
    await app.idle()
  })
  test('what is cut out of the take takes its caption along, and the others stay on their words', async () => {
    const before = cuesOnLecture(await again(), await cuesOf())
    const [take] = (await again()).slides[0]!.takes
    const [first] = await cuesOf()
    const cut = { start: take!.tidyUp!.kept.start, end: Math.round(first!.end * 48_000) }
    await app.json('PUT', `/api/takes/${take!.id}/tidyUp`, { ...take!.tidyUp!, cuts: [cut] })
    await app.idle()
    const after = cuesOnLecture(await again(), await cuesOf())
    expect(after[0]!.text).toBe(before[1]!.text)
    expect(before[1]!.start - after[0]!.start).toBeCloseTo(toSeconds(cut.end - cut.start), 1)
  })
})

describe('the synthesiser', () => {
  longTest('has a voice for the languages of the world, and says so when it has none', async () => {
    for (const language of ['en', 'en-GB', 'fr', 'es', 'de', 'it', 'pt-BR', 'ar', 'zh', 'zh-TW', 'hi', 'ru'])
      expect(await openSynthesiser(language)).not.toBeNull()
    expect(await openSynthesiser('tlh-x-none')).toBeNull()
  })
  test('the same sentence is the same samples, whatever was spoken by another one before', async () => {
    const [one, two] = [(await openSynthesiser('en'))!, (await openSynthesiser('en'))!]
    two.speak('Something else entirely.')
    const fresh = (await openSynthesiser('en'))!
    const [first, second] = [fresh, one].map((voice) => voice.speak('Keep the stick dry.').samples)
    expect(firstDifference(first!, second!)).toBe(-1)
  })
  test('every word has its moment, in order', async () => {
    const { words } = (await openSynthesiser('en'))!.speak('The funnel is eight inches across.')
    expect(words.map((w) => w.character)).toEqual([0, 4, 11, 14, 20, 27])
    for (let i = 1; i < words.length; i++) expect(words[i]!.seconds).toBeGreaterThan(words[i - 1]!.seconds)
  })
})

longTest(
  'captions from a file go along when the slide is recorded again, each to its words, and stay with the earlier recording',
  async () => {
    const fresh = await app.newLecture()
    const slideId = fresh.slides[0]!.id
    await app.json('PATCH', `/api/slides/${slideId}`, { script })
    const sound = fromInt16(await decodeFlac(app.context.media, join(import.meta.dirname, '../../../demo/files/take-3a.flac')))
    await app.record(slideId, sound)
    await app.idle()
    const now = () => app.read<Lecture>(`/api/lectures/${fresh.id}`)
    const before = await now()
    const original = before.captionTracks[0]!
    const source = await (await app.ask(`/api/lectures/${fresh.id}/captions/${original.id}.vtt`)).text()
    const form = new FormData()
    form.append('file', file('nuages.vtt', source))
    form.append('language', 'fr')
    expect((await app.ask(`/api/lectures/${fresh.id}/captions`, { method: 'POST', body: form })).ok).toBe(true)

    // one begins later, and rests longer in the middle
    const { speech } = before.slides[0]!.takes[0]!.analysis!
    const rest = speech[Math.floor(speech.length / 2)]!.start - 2400
    const again = new Float32Array(sound.length + 120_000)
    again.set(sound.subarray(0, rest), 72_000)
    again.set(sound.subarray(rest), 72_000 + rest + 48_000)
    await app.record(slideId, again)
    await app.idle()
    const after = await now()
    const take = after.slides[0]!.keptTakeId
    expect(take).not.toBe(before.slides[0]!.keptTakeId)
    const own = (origin: string, takeId: string | null) =>
      after.captionTracks.find((track) => track.origin === origin)!.cues.filter((cue) => cue.takeId === takeId)
    const [carried, scripts] = [own('file', take), own('script', take)]
    expect(carried.map((cue) => cue.text)).toEqual(original.cues.map((cue) => cue.text))
    for (const cue of carried) {
      const same = scripts.find(({ text }) => text === cue.text)
      if (same) expect(Math.abs(same.start - cue.start)).toBeLessThan(0.25)
      expect(cue.needsReview).toBe(false)
    }
    expect(own('file', before.slides[0]!.keptTakeId)).toHaveLength(carried.length)
  },
)
