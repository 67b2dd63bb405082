/** The language of a lecture: found in its deck, changed, another one for a slide, and what has no voice. */
import { eq } from 'drizzle-orm'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { readOpenDocument } from '#core/deck/odf/presentation.ts'
import { checks } from '#core/edition/checks/checks.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { languageOfText, lectureLanguage, mostSaid } from '#core/script/detect-language.ts'
import { TIMED_LANGUAGES } from '#core/script/timed-languages.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import type { Message } from '#core/words/say.ts'
import type { JobView } from '#server/events/job-view.ts'
import { openPdf } from '#server/import/pdf.ts'
import { threeLetters } from '#server/publish/metadata.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'
import { lay, madeTake, noise, seconds } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())

const lectureNow = (id: string) => app.read<Lecture>(`/api/lectures/${id}`)
async function imported(deck: File): Promise<Lecture> {
  const job = await app.addDeck(deck)
  expect(job.error).toBeNull()
  return lectureNow((job.result as { lectureId: string }).lectureId)
}

const GERMAN =
  'Der Regenmesser steht frei auf der Wiese.\n\nWir lesen ihn jeden Morgen um sieben Uhr ab und schreiben die Zahl auf.'
const picture = () =>
  sharp({ create: { width: 32, height: 20, channels: 3, background: '#7a9a6b' } })
    .png()
    .toBuffer()

describe('which language it is', () => {
  test('what the deck says counts, with its region, unless its text clearly reads otherwise', () => {
    expect(lectureLanguage('pt-BR', null, 'en')).toBe('pt-BR')
    expect(lectureLanguage('pt-BR', 'pt', 'en')).toBe('pt-BR')
    expect(lectureLanguage('en-US', 'de', 'en-GB')).toBe('de')
    expect(lectureLanguage('en-US', 'de', 'de-AT')).toBe('de-AT')
    expect(lectureLanguage(null, 'fr', 'en')).toBe('fr')
    expect(lectureLanguage(null, null, 'sv')).toBe('sv')
  })
  test('of marks the one on most letters counts, and none that is no language', () => {
    const marks = new Map([
      ['en-US', 20],
      ['de-DE', 300],
      ['zxx', 5000],
      ['not a tag', 900],
    ])
    expect(mostSaid(marks)).toBe('de-DE')
    expect(mostSaid(new Map())).toBeNull()
  })
  test('files name it by three letters, whichever it is (ISO 639-2/T, codes from memory)', () => {
    const tags = ['en-GB', 'de', 'fr-CA', 'zh-Hant', 'bn', 'am', 'sw', 'cy', 'is', 'yue', 'iw', 'not a tag']
    const codes = ['eng', 'deu', 'fra', 'zho', 'ben', 'amh', 'swa', 'cym', 'isl', 'yue', 'heb', 'und']
    expect(tags.map(threeLetters)).toEqual(codes)
    expect([...TIMED_LANGUAGES].map(threeLetters)).not.toContain('und')
  })
  test('a text is read for its language', async () => expect(await languageOfText(GERMAN)).toBe('de'))

  test('a deck without marks is read: German text, English interface', async () => {
    const lecture = await imported(file('regen.md', `# Der Regenmesser\n\n${GERMAN}`))
    expect(lecture.language).toBe('de')
    expect(lecture.captionTracks.find((track) => track.origin === 'script')!.language).toBe('de')
  })
  test('whoever brings it may say it while it is read, and take that back; afterwards it is refused in words', async () => {
    const bring = async () => {
      const form = new FormData()
      form.append('files', file('regen.md', `# Der Regenmesser\n\n${GERMAN}`))
      form.append('language', 'en')
      return ((await (await app.ask('/api/lectures', { method: 'POST', body: form })).json()) as { job: JobView }).job
    }
    const choose = (id: string, language: unknown) => app.json('PUT', `/api/jobs/${id}/language`, { language })
    const languageOf = async (id: string) => {
      const { result } = await app.ended(id)
      return (await app.read<Lecture>(`/api/lectures/${(result as { lectureId: string }).lectureId}`)).language
    }
    const chosen = await bring()
    const answer = (await (await choose(chosen.id, 'cy')).json()) as { job: JobView }
    expect(answer.job.chosenLanguage).toBe('cy')
    expect((await choose(chosen.id, 'no language')).status).toBe(422)
    expect(await languageOf(chosen.id)).toBe('cy')
    const late = await choose(chosen.id, 'fr')
    expect(late.status).toBe(409)
    expect(inWords(((await late.json()) as { error: Message }).error)).toMatch('Choose the language on the sheet.')
    // while the job still ends, too: its lecture is there already
    const { jobs } = await import('#server/db/schema.ts')
    await app.context.db.write((tx) => tx.update(jobs).set({ state: 'running' }).where(eq(jobs.id, chosen.id)))
    expect((await choose(chosen.id, 'fr')).status).toBe(409)
    await app.context.db.write((tx) => tx.update(jobs).set({ state: 'done' }).where(eq(jobs.id, chosen.id)))
    const takenBack = await bring()
    await choose(takenBack.id, 'cy')
    await choose(takenBack.id, null)
    expect(await languageOf(takenBack.id)).toBe('de')
  })
  test('a presentation file says it by its runs (ECMA-376, part 1, §21.1.2.3.9)', async () => {
    const parts = unzipSync(await makeDeck({ picture: await picture() }))
    for (const [name, bytes] of Object.entries(parts))
      if (/^ppt\/slides\/slide\d+\.xml$/.test(name))
        parts[name] = strToU8(strFromU8(bytes).replace(/lang="en-US"/g, 'lang="en-NZ"'))
    expect((await imported(file('gauge.pptx', zipSync(parts)))).language).toBe('en-NZ')
  })
  test('an OpenDocument says it by its usual text (OpenDocument 1.3, part 3, §20.199)', () => {
    const styles = `<office:document-styles xmlns:office="o" xmlns:style="s" xmlns:fo="f"><office:styles>
      <style:default-style style:family="graphic"><style:text-properties fo:language="gl" fo:country="ES"/></style:default-style>
      <style:default-style style:family="table"><style:text-properties fo:language="none" fo:country="none"/></style:default-style>
    </office:styles></office:document-styles>`
    const content = `<office:document-content xmlns:office="o" xmlns:draw="d"><office:body><office:presentation><draw:page draw:name="a"/></office:presentation></office:body></office:document-content>`
    const files = new Map([
      ['mimetype', strToU8('application/vnd.oasis.opendocument.presentation')],
      ['styles.xml', strToU8(styles)],
      ['content.xml', strToU8(content)],
    ])
    expect(readOpenDocument(files, 'a.odp').language).toBe('gl-ES')
  })
  test('a PDF says it in its catalogue (ISO 32000-1, §14.9.2)', async () => {
    const path = `${app.dataFolder}/lang.pdf`
    const { writeFileSync } = await import('node:fs')
    writeFileSync(
      path,
      '%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R/Lang(fr-CA)>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 100 100]>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF',
    )
    const pdf = await openPdf('lang.pdf', path)
    expect(pdf.language).toBe('fr-CA')
    pdf.close()
  })
})

describe('changed', () => {
  test('the track of the scripts is in it, and the words are sought anew; a slide may have another', async () => {
    const { id, slides } = await app.newLecture()
    const [first, second] = slides as [Lecture['slides'][0], Lecture['slides'][0]]
    await app.json('PATCH', `/api/slides/${first.id}`, { script: 'Hello there. This is the rain gauge.' })
    await app.json('PATCH', `/api/slides/${second.id}`, { script: 'Bonjour. Voici le pluviomètre.', language: 'fr' })
    for (const [seed, slide] of [first, second].entries()) await app.record(slide.id, madeTake({ seed: seed + 1 }).samples)
    await app.json('PATCH', `/api/lectures/${id}`, { language: 'de' })
    await app.idle()
    const lecture = await lectureNow(id)
    expect(lecture.language).toBe('de')
    expect(lecture.captionTracks.find((track) => track.origin === 'script')!.language).toBe('de')
    expect(lecture.slides.map((slide) => slide.language).slice(0, 2)).toEqual([null, 'fr'])
    const { takes } = await import('#server/db/schema.ts')
    const rows = await app.context.db.read.select().from(takes)
    expect(rows.map((row) => row.alignment?.language).sort()).toEqual(['de', 'fr'])
  })

  test('captions in a language without a voice are to be checked, and say why', async () => {
    const { id, slides } = await app.newLecture()
    await app.json('PATCH', `/api/slides/${slides[0]!.id}`, { script: 'Salaan. Kani waa qalabka roobka lagu cabbiro.' })
    await app.record(slides[0]!.id, madeTake({ seed: 5 }).samples)
    await app.json('PATCH', `/api/lectures/${id}`, { language: 'so' })
    await app.idle()
    const lecture = await lectureNow(id)
    const cues = lecture.captionTracks.flatMap((track) => track.cues)
    expect(cues.length).toBeGreaterThan(0)
    expect(cues.every((cue) => cue.needsReview)).toBe(true)
    const told = checks(lecture).find((check) => check.kind === 'not-timed')!
    expect(told.finding).toBe('Captions in Somali are spread over the speech, not timed')
    await app.json('PATCH', `/api/lectures/${id}`, { language: 'es' })
    expect(checks(await lectureNow(id)).some((check) => check.kind === 'not-timed')).toBe(false)
  })
})

test('a language without a voice is read by a related one, its captions are to be checked, and that is told', async () => {
  const said = 'Choveu toda a noite sobre a cidade e os ríos levan moita auga.'
  const { samples, rate } = (await openSynthesiser('pt-PT'))!.speak(said)
  const take = Float32Array.from(
    { length: Math.floor((samples.length * SAMPLE_RATE) / rate) },
    (_, i) => 0.5 * samples[Math.floor((i * rate) / SAMPLE_RATE)]!,
  )
  const sound = lay(noise(0.0005, take.length + seconds(2), 1), take, seconds(1))
  const { id, slides } = await app.newLecture()
  await app.json('PATCH', `/api/lectures/${id}`, { language: 'gl-ES' })
  await app.json('PATCH', `/api/slides/${slides[0]!.id}`, { script: said })
  await app.record(slides[0]!.id, sound)
  const lecture = await lectureNow(id)
  const cues = lecture.captionTracks.flatMap((track) => track.cues)
  expect(cues[0]!.start).toBeGreaterThan(0.7)
  expect(cues[0]!.start).toBeLessThan(1.3)
  expect(cues.every((cue) => cue.needsReview)).toBe(true)
  const told = checks(lecture).find((check) => check.kind === 'not-timed')!
  expect(told.finding).toBe('Captions in Galician (Spain) are timed by the voice of a related language, Spanish')
})

test('a few languages that can be timed have a voice, and one that cannot has none', async () => {
  for (const language of ['en-GB', 'zh-Hant', 'ar', 'ja', 'pt-BR'])
    expect(await openSynthesiser(language), language).not.toBeNull()
  expect(await openSynthesiser('so')).toBeNull()
})
test.runIf(IS_LONG)('all of them have', async () => {
  for (const language of TIMED_LANGUAGES) expect(await openSynthesiser(language), language).not.toBeNull()
})
