/** Captions of a lecture: files that come and go, changes by hand, other languages, on the real server. */
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { WebVTTParser } from 'webvtt-parser'
import * as edits from '#core/captions/edit/edit-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { cues } from '#server/db/schema.ts'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

let app: TestApp
let lecture: Lecture
const script = 'Clouds have names. High ones are thin and white. Low ones are grey and heavy.'
beforeAll(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
  const { id } = lecture.slides[0]!
  await app.json('PATCH', `/api/slides/${id}`, { script })
  await app.record(id, madeTake().samples)
  await app.idle()
})
afterAll(() => app.end())

const again = async () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const track = async (which: (t: CaptionTrack) => boolean) => (await again()).captionTracks.find(which)!
const fromScripts = () => track((t) => t.origin === 'script')
const texts = (cues: readonly { text: string }[]) => cues.map((cue) => cue.text.replaceAll('\n', ' '))
const slideId = () => lecture.slides[0]!.id

const attach = async (name: string, content: string | Uint8Array, more: Record<string, string> = {}) => {
  const form = new FormData()
  form.append('file', file(name, content))
  for (const [key, value] of Object.entries({ language: 'en', ...more })) form.append(key, value)
  return app.ask(`/api/lectures/${lecture.id}/captions`, { method: 'POST', body: form })
}
const exported = async (trackId: string, format: 'vtt' | 'srt', slide = '') =>
  (await app.ask(`/api/lectures/${lecture.id}/captions/${trackId}.${format}${slide && `?slide=${slide}`}`)).text()
const errorOf = async (answer: Response) => ((await answer.json()) as { error: string }).error
const put = async (change: (cues: StoredCue[]) => StoredCue[]) => {
  const { id, cues } = await fromScripts()
  const own = cues.filter((cue) => cue.slideId === slideId())
  const list = change(own).map(({ slideId: _, ...cue }) => cue)
  return app.json('PUT', `/api/captions/${id}/slides/${slideId()}`, { cues: list })
}

test('chapters come and go as files, each track in its language, and are no captions', async () => {
  const before = (await again()).captionTracks
  const content = (title: string) =>
    `WEBVTT\n\n1\n00:00:00.000 --> 00:00:01.000\n${title}\n\n2\n00:00:01.000 --> 00:00:02.000\nÀ la fin\n`
  expect(await (await attach('chapitres.vtt', content('Nuages'), { kind: 'chapters', language: 'fr' })).json()).toMatchObject({
    kept: 2,
    problems: [],
  })
  // another file of the same language takes its place
  await attach('chapitres.vtt', content('Les nuages'), { kind: 'chapters', language: 'fr' })
  const { captionTracks, chapterTracks } = await again()
  expect(captionTracks).toEqual(before)
  expect(chapterTracks).toMatchObject([{ kind: 'chapters', language: 'fr', label: 'chapitres.vtt' }])
  const told = await exported(chapterTracks[0]!.id, 'vtt')
  expect(told).toContain('00:00:00.000 --> 00:00:01.000\nLes nuages\n')
  // the last one lasts until the end
  expect(told).toMatch(/00:00:01\.000 --> 00:00:[12]\d\.\d+\nÀ la fin\n$/)
  await app.json('PUT', `/api/captions/${chapterTracks[0]!.id}/deleted`, { deleted: true })
  expect((await again()).chapterTracks).toEqual([])
})

describe('caption files', () => {
  test('good cues are kept, the rest is reported by line', async () => {
    const answer = await attach(
      'talk.vtt',
      'WEBVTT\n\n00:01.000 --> 00:02.000 align:start\n<v Ada>Hello &amp; welcome\n\n00:03 --> 00:04\nbad\n\n09:00:00.000 --> 09:00:01.000\nfar away\n',
    )
    expect(await answer.json()).toMatchObject({ kept: 1, problems: [{ line: 6 }, { line: 9 }] })
    const made = await track((t) => t.origin === 'file')
    expect(made.cues[0]).toMatchObject({
      text: 'Hello & welcome',
      settings: 'align:start',
      takeId: (await again()).slides[0]!.keptTakeId,
    })
    const back = await exported(made.id, 'vtt')
    expect(back).toContain('00:00:01.000 --> 00:00:02.000 align:start\n<v Ada>Hello &amp; welcome</v>')
    expect(await exported(made.id, 'srt')).toContain('00:00:01,000 --> 00:00:02,000\nHello & welcome')
  })
  test('exported and attached again it is the same', async () => {
    const { id } = await fromScripts()
    const before = await exported(id, 'vtt')
    expect(new WebVTTParser().parse(before).errors).toEqual([])
    expect((await attach('again.vtt', before)).status).toBe(200)
    expect(await exported((await track((t) => t.origin === 'file')).id, 'vtt')).toBe(before)
  })
  test('a file for one slide begins with the slide, and is exported so', async () => {
    const second = lecture.slides[1]!.id
    expect(
      (
        await attach('two.srt', '1\n00:00:01,000 --> 00:00:02,000\nOnly here\n', {
          slideId: second,
          language: 'fr',
          kind: 'subtitles',
        })
      ).status,
    ).toBe(200)
    const french = await track((t) => t.language === 'fr')
    expect(french).toMatchObject({ kind: 'subtitles', cues: [{ slideId: second, takeId: null, start: 1, end: 2 }] })
    expect(await exported(french.id, 'vtt', second)).toContain('00:00:01.000 --> 00:00:02.000\nOnly here')
    expect(await exported(french.id, 'vtt')).not.toContain('00:00:01.000')
  })
  test('a file for another slide leaves the captions of the first one', async () => {
    const third = lecture.slides[2]!.id
    await attach('three.srt', '1\n00:00:00,500 --> 00:00:01,500\nAnd here\n', { slideId: third, language: 'fr' })
    const french = await track((t) => t.language === 'fr')
    expect(texts(french.cues).sort()).toEqual(['And here', 'Only here'])
  })
  const utf16 = (text: string) => new Uint8Array(Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]))
  test.each([
    ['UTF-16 with its mark', utf16('WEBVTT\n\n00:01.000 --> 00:02.000\né')],
    ['SubRip as Windows writes it', new Uint8Array(Buffer.from('1\r\n00:00:01,000 --> 00:00:02,000\r\n\xe9\r\n', 'latin1'))],
  ])('%s is read', async (_, content) => {
    expect((await attach('x.srt', content, { language: 'it' })).status).toBe(200)
    expect(texts((await track((t) => t.language === 'it')).cues)).toEqual(['é'])
  })
  test.each([
    ['a text that is not one', 'Hello there', /neither a WebVTT nor a SubRip/],
    ['WebVTT in Latin-1', new Uint8Array(Buffer.from('WEBVTT\n\n00:01.000 --> 00:02.000\n\xe9', 'latin1')), /not UTF-8/],
    ['the file of another lecture', 'WEBVTT\n\n05:00:00.000 --> 05:00:01.000\nx\n', /another lecture/],
  ])('%s is refused, and what was there stays', async (_, content, sentence) => {
    const before = (await again()).captionTracks
    const answer = await attach('talk.vtt', content)
    expect(answer.ok).toBe(false)
    expect(await errorOf(answer)).toMatch(sentence)
    expect((await again()).captionTracks).toEqual(before)
  })
})

describe('changes by hand', () => {
  test('a text stays when another sentence is written anew, and is given back on request', async () => {
    const [, second] = (await fromScripts()).cues
    expect((await put((cues) => edits.setText(cues, second!.id, 'Cirrus is thin.'))).status).toBe(200)
    await app.json('PATCH', `/api/slides/${slideId()}`, { script: script.replace('grey and heavy', 'heavy') })
    await app.idle()
    expect(texts((await fromScripts()).cues)).toEqual(['Clouds have names.', 'Cirrus is thin.', 'Low ones are heavy.'])
    await put((cues) => edits.followScript(cues, cues[1]!.id))
    await app.json('PATCH', `/api/slides/${slideId()}`, { script })
    expect(texts((await fromScripts()).cues)).toEqual([
      'Clouds have names.',
      'High ones are thin and white.',
      'Low ones are grey and heavy.',
    ])
  })
  test('divided, joined and left out; undone by putting back what was there', async () => {
    const before = (await fromScripts()).cues
    await put((cues) => edits.split(cues, cues[1]!.id, 'High ones are'.length, randomUUID()))
    const divided = (await fromScripts()).cues
    expect(texts(divided).slice(1, 3)).toEqual(['High ones are', 'thin and white.'])
    expect(divided[1]!.end).toBeLessThanOrEqual(divided[2]!.start + 1e-9)
    await put((cues) => edits.joinNext(cues, cues[1]!.id, (text) => text))
    await put((cues) => edits.remove(cues, cues[0]!.id))
    expect(texts((await fromScripts()).cues)).toEqual(['', 'High ones are thin and white.', 'Low ones are grey and heavy.'])
    expect(await exported((await fromScripts()).id, 'vtt')).not.toContain('Clouds have names')
    await put(() => before)
    expect((await fromScripts()).cues).toEqual(before)
  })
  test('times moved by hand stay through a change of the script elsewhere', async () => {
    await put((cues) => edits.nudge(cues, cues[0]!.id, 'start', 0.2, 60))
    const moved = (await fromScripts()).cues[0]!
    await app.json('PATCH', `/api/slides/${slideId()}`, { script: `${script} The end.` })
    await app.idle()
    expect((await fromScripts()).cues[0]!.start).toBe(moved.start)
    await put(edits.retime)
    await app.json('PATCH', `/api/slides/${slideId()}`, { script })
    await app.idle()
    expect((await fromScripts()).cues[0]!.start).toBeLessThan(moved.start)
  })
  test('shorter lines make every caption anew', async () => {
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { lineCharacters: 32 })
    const lines = (await fromScripts()).cues.flatMap((cue) => cue.text.split('\n'))
    expect(Math.max(...lines.map((line) => line.length))).toBeLessThanOrEqual(32)
    await app.json('PATCH', `/api/lectures/${lecture.id}`, { lineCharacters: 37 })
    expect((await app.json('PATCH', `/api/lectures/${lecture.id}`, { lineCharacters: 10 })).status).toBe(422)
  })
  test.each([
    ['a caption that ends before it starts', (cue: StoredCue) => ({ ...cue, start: 5, end: 4 }), /must end after/],
    ['a caption of a recording elsewhere', (cue: StoredCue) => ({ ...cue, takeId: 'another' }), /not on this slide/],
    ['a novel', (cue: StoredCue) => ({ ...cue, text: 'x'.repeat(3000) }), /2,000 characters/],
  ])('%s is refused, and what was there stays', async (_, spoil, sentence) => {
    const before = (await fromScripts()).cues
    const answer = await put((cues) => cues.map((cue, i) => (i === 0 ? spoil(cue) : cue)))
    expect(answer.ok).toBe(false)
    expect(await errorOf(answer)).toMatch(sentence)
    expect((await fromScripts()).cues).toEqual(before)
  })
})

describe('another language', () => {
  test('is filled caption by caption at the times of the original, and says where the original has changed', async () => {
    const made = await app.json('POST', `/api/lectures/${lecture.id}/captionTracks`, {
      language: 'ar',
      label: 'Arabic',
      origin: 'translation',
      kind: 'subtitles',
    })
    const { trackId } = (await made.json()) as { trackId: string }
    const original = (await fromScripts()).cues
    const translated = original
      .slice(0, 2)
      .map((cue, i) => ({ cueId: cue.id, text: ['للغيوم أسماء.', 'العالية رقيقة.'][i]!, original: cue.text }))
    expect((await app.json('PUT', `/api/captions/${trackId}/translations`, { translated })).status).toBe(200)
    const arabic = () => track((t) => t.id === trackId)
    expect((await arabic()).cues.map((c) => [c.start, c.end, c.text, c.needsReview])).toEqual(
      original.slice(0, 2).map((c, i) => [c.start, c.end, translated[i]!.text, false]),
    )
    await app.json('PATCH', `/api/slides/${slideId()}`, { script: script.replace('thin and white', 'thin and very white') })
    await app.idle()
    expect((await arabic()).cues.map((cue) => [cue.text, cue.needsReview])).toEqual([
      ['للغيوم أسماء.', false],
      ['العالية رقيقة.', true],
    ])
    expect(await exported(trackId, 'vtt')).toContain('للغيوم أسماء.')
    await app.json('PUT', `/api/captions/${trackId}/deleted`, { deleted: true })
    expect((await again()).captionTracks.some((t) => t.id === trackId)).toBe(false)
    await app.json('PUT', `/api/captions/${trackId}/deleted`, { deleted: false })
    expect((await arabic()).cues).toHaveLength(2)
    await app.json('PATCH', `/api/slides/${slideId()}`, { script })
    await app.idle()
  })
})

test('captions that an earlier version made know their sentences after an upgrade', async () => {
  const older = await openTestApp()
  const own = await older.newLecture()
  await older.json('PATCH', `/api/slides/${own.slides[0]!.id}`, { script })
  await older.record(own.slides[0]!.id, madeTake().samples)
  await older.context.db.write((tx) => tx.update(cues).set({ scriptText: '' }))
  await older.end(true)
  const newer = await openTestApp({ dataFolder: older.dataFolder })
  const made = (await newer.read<Lecture>(`/api/lectures/${own.id}`)).captionTracks[0]!.cues
  expect(made.map((cue) => cue.scriptText)).toEqual(made.map((cue) => cue.text.replaceAll('\n', ' ')))
  await newer.end()
})
