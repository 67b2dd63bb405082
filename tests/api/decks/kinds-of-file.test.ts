/** Files are judged by what is in them; what cannot be used is named, and does not spoil what can. */

import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8 } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { Message } from '#core/words/say.ts'
import { sniff } from '#server/import/kinds/sniff.ts'
import { demoFile, file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
const folder = mkdtempSync(join(tmpdir(), 'lectern-kinds-'))
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(async () => {
  await app.end()
  rmSync(folder, { recursive: true, force: true })
})

const refusal = async (...files: File[]) => inWords((await app.addDeck(...files)).error)
const padded = (...head: (number | string)[]) => {
  const bytes = new Uint8Array(4096)
  bytes.set(head.flatMap((part) => (typeof part === 'number' ? [part] : [...strToU8(part)])))
  return bytes
}

test('what lies beside a deck by itself neither fails it nor takes its place, and is named', async () => {
  const pdf = file('clouds.pdf', demoFile('clouds-by-their-shapes.pdf'))
  const beside = [
    file('Thumbs.db', ''),
    file('.DS_Store', padded(0, 0, 0, 1, 'Bud1')),
    file('README.txt', '# Read me\n\nNothing to see.\n'),
  ]
  const { lecture, result } = await app.imported(pdf, ...beside)
  expect(lecture.slides).toHaveLength(4)
  expect(lecture.title).toBe('clouds')
  expect(result.unmatched.toSorted()).toEqual(['.DS_Store', 'README.txt', 'Thumbs.db'])
  // any other text is what it always was: a deck that shows its pictures, or one deck too many
  const picture = file(
    'rain.png',
    await sharp({ create: { width: 32, height: 20, channels: 3, background: '#7a9a6b' } })
      .png()
      .toBuffer(),
  )
  const written = await app.imported(file('talk.txt', '# Rain\n\n![](rain.png)\n'), picture)
  expect(written.lecture.slides.map(({ title }) => title)).toEqual(['Rain'])
  expect(await refusal(file('a.txt', '# A'), file('b.txt', '# B'))).toMatch(/begins with one deck/)
  // alone it is shown
  expect((await app.imported(file('README.txt', '# Read me\n\nSomething to see.\n'))).lecture.slides).toHaveLength(1)
})

/** A bitmap of two pixels side by side, red and green, as plain as they come. @see BITMAPFILEHEADER, BITMAPINFOHEADER */
function madeBmp(): Uint8Array {
  const bytes = new Uint8Array(14 + 40 + 8)
  const view = new DataView(bytes.buffer)
  bytes.set([0x42, 0x4d])
  for (const [at, value] of [
    [2, bytes.length],
    [10, 54],
    [14, 40],
    [18, 2],
    [22, 1],
  ] as const)
    view.setUint32(at, value, true)
  view.setUint16(26, 1, true)
  view.setUint16(28, 24, true)
  // blue, green, red; rows end on four bytes
  bytes.set([0x28, 0x34, 0xa9, 0x4a, 0x59, 0x17], 54)
  return bytes
}

test('photographs of telephones and plain bitmaps are read, in a heap and on a slide', async () => {
  const heic = readFileSync(join(import.meta.dirname, '../../fixtures/photograph.heic'))
  const colours = async (name: string) => {
    const { data, info } = await sharp(Buffer.from(await (await app.ask(`/api/files/${name}.png`)).arrayBuffer()))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true })
    const at = (share: number) => [...data.subarray(3 * Math.floor(info.width * share), 3 * Math.floor(info.width * share) + 3)]
    return [at(0.25), at(0.75)]
  }
  const { lecture } = await app.imported(file('a.heic', heic), file('b.bmp', madeBmp()))
  const [photograph, bitmap] = lecture.slides.map((slide) => slide.steps[0]!)
  expect(photograph).toMatchObject({ width: 64, height: 36 })
  for (const [seen, wanted] of (await colours(photograph!.picture)).map(
    (own, i) =>
      [
        own,
        [
          [23, 89, 74],
          [169, 52, 40],
        ][i]!,
      ] as const,
  ))
    for (const [c, value] of seen.entries()) expect(Math.abs(value - wanted[c]!)).toBeLessThan(12)
  expect(await colours(bitmap!.picture)).toEqual([
    [169, 52, 40],
    [23, 89, 74],
  ])
  const form = new FormData()
  form.append('file', file('phone.HEIC', heic))
  expect((await app.ask(`/api/slides/${lecture.slides[1]!.id}/pictures`, { method: 'POST', body: form })).status).toBeLessThan(
    300,
  )
})

test('pictures that cannot be read are named as pictures; those of one more kind are read', async () => {
  expect(await refusal(file('phone.heic', padded(0, 0, 0, 0x18, 'ftypheic')))).toMatch(/looks like a picture but cannot be read/)
  expect(await refusal(file('paint.bmp', padded('BM', 0, 0x10, 0, 0, 0, 0, 0, 0)))).toMatch(
    /looks like a picture but cannot be read/,
  )
  expect(await refusal(file('scan.jp2', padded(0, 0, 0, 0x0c, 'jP  ', 0x0d, 0x0a)))).toMatch(/\(JP2\) that cannot be read/)
  const { slides } = await app.newLecture()
  const form = new FormData()
  form.append('file', file('scan.jp2', padded(0, 0, 0, 0x0c, 'jP  ', 0x0d, 0x0a)))
  const onSlide = await app.ask(`/api/slides/${slides[0]!.id}/pictures`, { method: 'POST', body: form })
  expect(inWords(((await onSlide.json()) as { error: Message }).error)).toMatch(/is a picture of a kind \(JP2\)/)
  const tiff = await sharp({ create: { width: 640, height: 360, channels: 3, background: '#7a9a6b' } })
    .tiff()
    .toBuffer()
  expect((await app.imported(file('scan.tif', tiff))).lecture.slides[0]!.steps[0]).toMatchObject({ width: 640, height: 360 })
})

test('office files of the old kind and locked ones are told apart, with a way on ([MS-CFB] §2.2, [MS-OFFCRYPTO] §2.3.4.4)', async () => {
  const compound = padded(0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1)
  expect(await refusal(file('old.ppt', compound))).toMatch(/of the old kind .* save it as PPTX or PDF/)
  // across two pieces of what is read at a time
  const locked = Buffer.concat([
    compound,
    Buffer.alloc(65_536 - 4096 - 10),
    Buffer.from('EncryptedPackage', 'utf16le'),
    Buffer.alloc(64),
  ])
  expect(await refusal(file('exam.pptx', locked))).toMatch(/locked with a password/)
})

test.each([
  ['au', []],
  ['w64', []],
  ['mpegts', ['-c:a', 'mp2']],
  ['ac3', []],
  ['aiff', []],
  ['adts', []],
] as const)('a sound as %s is one, whatever it is called', (format, how) => {
  const path = join(folder, `sound.${format}`)
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=d=1', ...how, '-f', format, path])
  expect(sniff(readFileSync(path))).toBe('sound')
})

longTest('such a sound beside a deck comes to its slide', async () => {
  const path = join(folder, 'slide 1.au')
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=d=2', '-f', 'au', path])
  const picture = await sharp({ create: { width: 32, height: 20, channels: 3, background: '#7a9a6b' } })
    .png()
    .toBuffer()
  const { lecture, result } = await app.imported(
    file('deck.pptx', await makeDeck({ picture })),
    file('slide 1.au', readFileSync(path)),
  )
  expect(result.unmatched).toEqual([])
  expect((await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes).toHaveLength(1)
})
