/** Titles, scripts, descriptions and captions that are markup, paths or formulas somewhere: they are words, and nothing else, in all that goes out. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

const HOSTILE = [
  '<script>alert(1)</script> & "quoted"',
  '"><img src=x onerror=alert(1)>',
  '--> 00:00:00.000 <v nobody> &lrm;',
  '../../../etc/passwd',
  '\u202Egnp.exe',
  '=HYPERLINK("http://nowhere.invalid")',
  "'; DROP TABLE lectures; --",
  ']]></w:t><!ENTITY x "y">',
]

let app: TestApp
let lecture: Lecture
let editionId: string
const folder = mkdtempSync(join(tmpdir(), 'lectern-hostile-'))
beforeAll(async () => {
  // the folder for a stick takes its page from the build
  app = await openTestApp({ webFolder: join(import.meta.dirname, '../../../dist/web') })
  const { id, slides } = await app.newLecture()
  await app.json('PATCH', `/api/lectures/${id}`, { title: HOSTILE[0] })
  for (const [i, slide] of slides.entries()) {
    const [title, altText] = [HOSTILE[i + 1]!, HOSTILE[i + 3]!]
    await app.json('PATCH', `/api/slides/${slide.id}`, { title, altText, script: `${HOSTILE[i]} Clouds have names.` })
  }
  await app.record(slides[0]!.id, madeTake().samples)
  await app.idle()
  lecture = await app.read<Lecture>(`/api/lectures/${id}`)
  const { job } = (await (await app.json('POST', `/api/lectures/${id}/editions`, {})).json()) as { job: { id: string } }
  const made = await app.ended(job.id)
  expect(made.error).toBeNull()
  editionId = (made.result as { editionId: string }).editionId
})
afterAll(async () => {
  await app.end()
  rmSync(folder, { recursive: true })
})

const bytesOf = async (path: string) => new Uint8Array(await (await app.ask(path)).arrayBuffer())
const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes)

test('they are kept as they were written', () => {
  expect(lecture.title).toBe(HOSTILE[0])
  expect(lecture.slides.map((slide) => slide.title)).toEqual(HOSTILE.slice(1, 5))
  expect(lecture.slides.map((slide) => slide.altText)).toEqual(HOSTILE.slice(3, 7))
})

test('the transcript and the folder for a stick hold no element and no script of theirs', async () => {
  const transcript = text(await bytesOf(`/api/editions/${editionId}/files/transcript.html`))
  expect(transcript).toContain('&lt;script&gt;alert(1)&lt;/script&gt;')
  expect(transcript).not.toMatch(/<script>alert|<img src=x/)
  const files = unzipSync(await bytesOf(`/api/editions/${editionId}/folder`))
  for (const [name, bytes] of Object.entries(files)) {
    expect(name.split('/')).not.toContain('..')
    expect(name).not.toMatch(/[<>:"|?*\\\p{Cc}\u202E]/u)
    if (/\.(html|js)$/.test(name) && !/page\/watch\.js$/.test(name)) expect(text(bytes)).not.toMatch(/<script>alert|<img src=x/)
  }
})

test('a caption is one caption, whatever arrows and tags are said in it', async () => {
  const track = lecture.captionTracks[0]!
  const vtt = text(await bytesOf(`/api/lectures/${lecture.id}/captions/${track.id}.vtt`))
  const shown = track.cues.filter((cue) => cue.slideId === lecture.slides[0]!.id && cue.text !== '')
  expect(vtt.match(/^[\d:.]+ --> [\d:.]+/gm)).toHaveLength(shown.length)
  expect(vtt).not.toContain('<script>')
  // and comes back as it was
  const path = join(folder, 'a.vtt')
  writeFileSync(path, vtt)
  const heard = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'srt', '-']).toString()
  expect(heard.match(/ --> /g)).toHaveLength(shown.length)
})

test('the video names its chapters by them, and files that go out are named without paths', async () => {
  const path = join(folder, 'video.mp4')
  writeFileSync(path, await bytesOf(`/api/editions/${editionId}/files/video.mp4`))
  const { chapters, format } = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-show_chapters', '-show_format', '-of', 'json', path]).toString(),
  ) as { chapters: { tags: { title: string } }[]; format: { tags: { title: string } } }
  expect(format.tags.title).toBe(HOSTILE[0])
  expect(chapters.map((chapter) => chapter.tags.title)).toEqual(HOSTILE.slice(1, 5))
  const sounds = unzipSync(await bytesOf(`/api/lectures/${lecture.id}/pieces/sounds-flac`))
  for (const name of Object.keys(sounds)) expect(name).not.toMatch(/\.\.|[<>:"|?*\\]/)
})

test('a lecture of them goes out as a bundle and comes in again, word for word', async () => {
  const bundle = await bytesOf(`/api/lectures/${lecture.id}/bundle`)
  const job = await app.addDeck(new File([bundle as BlobPart], 'hostile.lectern.zip'))
  expect(job.state).toBe('done')
  const again = await app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
  const words = ({ title, slides }: Lecture) => [title, ...slides.flatMap((slide) => [slide.title, slide.altText, slide.script])]
  expect(words(again)).toEqual(words(lecture))
})
