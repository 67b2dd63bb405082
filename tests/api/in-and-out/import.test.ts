import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { jobs } from '#server/db/schema.ts'
import { titleFromName } from '#server/jobs/decks/import-deck.ts'
import { sweep } from '#server/maintenance/sweep.ts'
import { demoFile, file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())

const picture = (width: number, height: number, colour = '#336699') =>
  sharp({ create: { width, height, channels: 3, background: colour } })
    .png()
    .toBuffer()
const shelf = async () => (await app.read<{ lectures: unknown[] }>('/api/lectures')).lectures.length

test('a PDF becomes a lecture: a slide a page, with titles and text', async () => {
  const job = await app.addDeck(file('reading.pdf', demoFile('reading-the-rain-gauge.pdf')))
  const lecture = await app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
  expect(lecture.slides.map((s) => s.title)).toEqual([
    'Reading the rain gauge',
    'What is inside',
    'Where it stands',
    'Reading the stick',
    'The curve',
    'A week of readings',
    'What seven weeks tell',
    'Sending it in',
  ])
  expect(lecture.slides[1]!.altText).toContain('An inner tube with a tenth of that area')
  expect(lecture.slides[0]!.steps[0]).toMatchObject({ width: 1920, height: 1080 })
})

test('a title that stands nowhere on the first slide is that of another deck, or of none: the file says what it is called', async () => {
  const { default: Pptx } = await import('pptxgenjs')
  const named = async (title: string) => {
    const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
    deck.title = title
    deck.addSlide().addText('Rain gauges in the garden', { x: 1, y: 1, w: 8, h: 1 })
    const bytes = (await deck.write({ outputType: 'nodebuffer' })) as Buffer
    const job = await app.addDeck(file('gauges, part 2.pptx', bytes))
    return (await app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)).title
  }
  expect(await named('Rain gauges')).toBe('Rain gauges')
  expect(await named('Rain gauges in the garden: an evening')).toBe('Rain gauges in the garden: an evening')
  expect(await named('Annual report')).toBe('gauges, part 2')
})

test('words off a slide are a draft of its description: what a person writes is none, and an older draft comes back as one', async () => {
  const job = await app.addDeck(file('reading.pdf', demoFile('reading-the-rain-gauge.pdf')))
  const path = `/api/lectures/${(job.result as { lectureId: string }).lectureId}`
  const first = async () => (await app.read<Lecture>(path)).slides[0]!
  const { id, altText, isAltTextDraft } = await first()
  expect(isAltTextDraft).toBe(true)
  await app.json('PATCH', `/api/slides/${id}`, { altText: 'A gauge on a lawn' })
  expect(await first()).toMatchObject({ altText: 'A gauge on a lawn', isAltTextDraft: false })
  await app.json('PATCH', `/api/slides/${id}`, { altText, isAltTextDraft: true })
  expect(await first()).toMatchObject({ altText, isAltTextDraft: true })
  await app.json('PATCH', `/api/slides/${id}`, { isAltTextDraft: false })
  expect(await first()).toMatchObject({ altText, isAltTextDraft: false })
})

test('pictures become slides in the natural order of their names', async () => {
  const job = await app.addDeck(file('10 last.png', await picture(64, 36, '#ff0000')), file('2_first.png', await picture(64, 36)))
  const lecture = await app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
  expect(lecture.slides.map((s) => s.title)).toEqual(['first', 'last'])
  const served = await app.ask(`/api/files/${lecture.slides[1]!.steps[0]!.picture}.png`)
  const { dominant } = await sharp(await served.arrayBuffer()).stats()
  expect(dominant.r).toBeGreaterThan(200)
})

test('names become titles', () => {
  expect(titleFromName('02 intro.png')).toBe('intro')
  expect(titleFromName('2024.png')).toBe('2024')
})

describe('bad files get a sentence, and nothing is left behind', () => {
  const cases: [string, () => Promise<File[]> | File[], RegExp][] = [
    ['a text called .pdf', () => [file('notes.pdf', 'Dear all, these are notes')], /neither a deck/],
    [
      'a PDF cut short',
      () => [file('deck.pdf', demoFile('clouds-by-their-shapes.pdf').subarray(0, 400))],
      /damaged or cut short/,
    ],
    [
      'a damaged picture',
      async () => [file('a.png', (await picture(400, 300)).subarray(0, 60))],
      /cannot be read; it may be damaged/,
    ],
    [
      'a PDF together with a picture',
      async () => [file('a.pdf', demoFile('clouds-by-their-shapes.pdf')), file('b.png', await picture(8, 8))],
      /one deck, or with pictures/,
    ],
  ]
  test.each(cases)('%s', async (_, files, sentence) => {
    const before = await shelf()
    const job = await app.addDeck(...(await files()))
    expect(job.state).toBe('failed')
    expect(inWords(job.error)).toMatch(sentence)
    expect(await shelf()).toBe(before)
    expect(readdirSync(join(app.dataFolder, 'scratch'))).toEqual([])
  })

  test('an empty file is refused before anything is begun', async () => {
    const form = new FormData()
    form.append('files', file('deck.pdf', ''))
    const answer = await app.ask('/api/lectures', { method: 'POST', body: form })
    expect(answer.status).toBe(422)
    expect(await answer.text()).toMatch(/is empty \(0 bytes\)/)
  })

  test('a picture of 30,000 × 30,000', async () => {
    // a real PNG that says so in its header; its data would be 900 million pixels
    const huge = Buffer.from(await picture(16, 16))
    huge.writeUInt32BE(30_000, 16)
    huge.writeUInt32BE(30_000, 20)
    const { crc32 } = await import('#core/audio/signal/crc32.ts')
    huge.writeUInt32BE(crc32(huge.subarray(12, 29)), 29)
    const job = await app.addDeck(file('map.png', huge))
    expect(inWords(job.error)).toMatch(/30000 × 30000 pixels; the most is 50 million/)
  })

  test('a PDF with a password', async () => {
    // RC4 protection with an unknown user password, the smallest file that has one
    const locked = `%PDF-1.4
1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj
2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj
3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 99 99]>>endobj
4 0 obj<</Filter/Standard/V 1/R 2/O(${'o'.repeat(32)})/U(${'u'.repeat(32)})/P -4>>endobj
trailer<</Root 1 0 R/Encrypt 4 0 R/ID[(0123456789abcdef)(0123456789abcdef)]>>
%%EOF`
    const job = await app.addDeck(file('locked.pdf', locked))
    expect(inWords(job.error)).toMatch(/locked with a password/)
  })

  test('a PDF with no pages, and one with too many', async () => {
    const pdf = (pages: number) => {
      const kids = Array.from({ length: pages }, (_, i) => `${i + 3} 0 R`).join(' ')
      const objects = Array.from(
        { length: pages },
        (_, i) => `${i + 3} 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 99 99]>>endobj`,
      ).join('\n')
      return `%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[${kids}]/Count ${pages}>>endobj\n${objects}\ntrailer<</Root 1 0 R>>\n%%EOF`
    }
    expect(inWords((await app.addDeck(file('none.pdf', pdf(0)))).error)).toMatch(/has no pages|cannot be read/)
    expect(inWords((await app.addDeck(file('many.pdf', pdf(1001)))).error)).toMatch(/has 1001 pages; the most is 1000/)
  })
})

test('files that belong to nothing are laid in the trash, those in use stay, and what a refused import brought is gone at once', async () => {
  const before = await app.newLecture()
  const { laid: decks } = await sweep(app.context, -1000)
  expect(decks.length).toBeGreaterThan(0)
  const known = await app.context.store.all()
  await app.addDeck(file('notes.pdf', 'not a deck at all'))
  await vi.waitFor(async () => expect(await app.context.store.all()).toEqual(known))
  const stray = await app.context.store.put(new Uint8Array([1, 2, 3]))
  expect(await sweep(app.context, -1000)).toMatchObject({ laid: [stray], left: 0 })
  expect([...(await app.context.store.trash.all())]).toContain(stray)
  // for a month
  await sweep(app.context, -1000, Date.now() + 29 * 24 * 3600_000)
  expect([...(await app.context.store.trash.all())]).toContain(stray)
  await sweep(app.context, -1000, Date.now() + 32 * 24 * 3600_000)
  expect([...(await app.context.store.trash.all())]).not.toContain(stray)
  const { picture: name } = before.slides[0]!.steps[0]!
  expect((await app.ask(`/api/files/${name}.png`)).status).toBe(200)
})

test('the demo lecture is made on an empty shelf, and comes back from the trash when it is asked for again', async () => {
  // as small as a demo can be
  const root = mkdtempSync(join(tmpdir(), 'lectern-demo-'))
  const demoFolder = join(root, 'demo/files')
  mkdirSync(demoFolder, { recursive: true })
  const [deck, music, take] = ['clouds-by-their-shapes.pdf', 'opening-music.flac', 'take-1a.flac'] as const
  for (const name of [deck, music, take]) writeFileSync(join(demoFolder, name), demoFile(name))
  const slides = [[take, take], [], [take], []].map((takes, i) => ({ script: `Script ${i + 1}.`, takes }))
  writeFileSync(join(demoFolder, 'lecture.json'), JSON.stringify({ title: 'A demo', deck, music, slides }))
  const other = await openTestApp({ demoFolder })
  try {
    const make = async () => {
      const { job } = (await (await other.ask('/api/lectures/demo', { method: 'POST' })).json()) as { job: { id: string } }
      expect((await other.ended(job.id)).state).toBe('done')
      return (await other.read<{ lectures: { id: string; title: string; slides: number }[] }>('/api/lectures')).lectures
    }
    const [demo] = await make()
    expect(demo).toMatchObject({ title: 'A demo', slides: 4 })
    const takes = async () => (await other.read<Lecture>(`/api/lectures/${demo!.id}`)).slides.map((slide) => slide.takes.length)
    expect(await takes()).toEqual([2, 0, 1, 0])
    await other.json('PUT', `/api/lectures/${demo!.id}/deleted`, { deleted: true })
    expect(await make()).toHaveLength(1)
    expect(await takes()).toEqual([2, 0, 1, 0])
    // filling a folder anew stumbles over nothing that went wrong long ago, and brings back nothing that was thrown away
    await other.idle()
    await other.json('PUT', `/api/lectures/${demo!.id}/deleted`, { deleted: true })
    const row = { kind: 'tidy' as const, lectureId: demo!.id, payload: {}, createdAt: 1, endedAt: 2 }
    await other.context.db.write(async (tx) => {
      await tx.insert(jobs).values({ ...row, id: 'failed', state: 'failed', error: 'It failed.' })
      await tx.insert(jobs).values({ ...row, id: 'cancelled', state: 'cancelled' })
    })
    await other.end(true)
    const filled = spawnSync('node', [join(import.meta.dirname, '../../../dist/server/fill.js')], {
      cwd: root,
      encoding: 'utf8',
      timeout: 60_000,
      env: { ...process.env, LECTERN_DATA: other.dataFolder },
    })
    expect(filled).toMatchObject({ status: 0, stderr: '' })
    const again = await openTestApp({ dataFolder: other.dataFolder })
    expect((await again.read<{ lectures: unknown[] }>('/api/lectures')).lectures).toEqual([])
    await again.end()
  } finally {
    rmSync(root, { recursive: true })
  }
})
