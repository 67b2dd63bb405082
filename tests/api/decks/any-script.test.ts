/** Text in any script: how it is set, and what is said where it cannot be drawn. */
import { createCanvas } from '@napi-rs/canvas'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { checks } from '#core/edition/checks/checks.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { drawCard } from '#server/import/card.ts'
import { decodeRanges, encodeRanges } from '#server/text/coverage.ts'
import { fontFor, hanStyleOf, type Style, undrawableIn } from '#server/text/fonts.ts'
import { type Direction, linesOf, shapeText } from '#server/text/layout.ts'
import { undrawableProblem } from '#server/text/undrawable.ts'
import { file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'

const context = createCanvas(1, 1).getContext('2d')
const STYLE: Style = { size: 40, weight: 400, italic: false, face: 'plain' }
const setIn = (text: string, direction: Direction, width = Number.POSITIVE_INFINITY) =>
  linesOf(shapeText(context, [{ text, style: STYLE }], direction), width, width, 1)
/** Lines as they are read from left to right, piece by piece. */
const seen = (text: string, direction: Direction, width?: number) =>
  setIn(text, direction, width).map((line) => line.pieces.map((piece) => piece.text))
/** Lines as they are written. */
const broken = (text: string, width: number) => seen(text, 'ltr', width).map((pieces) => pieces.join('').trim())

describe('order of words (Unicode Standard Annex 9)', () => {
  test('Hebrew runs to the left, numbers and Latin words inside it to the right', () => {
    const [line] = seen('אבג 12 abc דהו', 'rtl')
    expect(line!.filter((piece) => piece.trim())).toEqual(['דהו', 'abc', '12', 'אבג'])
  })
  test('in a paragraph that runs to the right, Hebrew words among Latin ones are turned among themselves', () => {
    const [line] = seen('abc אבג דהו def', 'ltr')
    expect(line!.filter((piece) => piece.trim())).toEqual(['abc', 'דהו', 'אבג', 'def'])
  })
  test('the first letter says which way a text runs where nobody else does', () => {
    expect(shapeText(context, [{ text: '12 – مرحبا', style: STYLE }], 'auto').rightToLeft).toBe(true)
    expect(shapeText(context, [{ text: '12 – hello مرحبا', style: STYLE }], 'auto').rightToLeft).toBe(false)
  })
  test('a line that is ended by hand does not turn the next around', () => {
    expect(seen('אבג\nדהו', 'rtl').flat()).toEqual(['אבג', 'דהו'])
    expect(setIn('אבג\n', 'rtl')).toHaveLength(2)
  })
})

describe('lines (Unicode Standard Annex 14)', () => {
  test('a line of more pieces than a call may have arguments is set as any other', () => {
    const piece = (level: number) => ({ text: level ? 'א' : 'a', style: STYLE, font: null, level, width: 10, isSpace: false })
    const atoms = [{ pieces: Array.from({ length: 140_000 }, (_, i) => piece(i % 2)), ends: false, endStyle: STYLE }]
    const [line] = linesOf(
      { atoms, rightToLeft: false, emptyStyle: STYLE, divide: () => null },
      Number.POSITIVE_INFINITY,
      Number.POSITIVE_INFINITY,
      1,
    )
    expect(line!.pieces).toHaveLength(140_000)
  })
  test('no Japanese line begins with a comma, a full stop or a closing bracket', () => {
    for (let width = 120; width < 600; width += 7)
      for (const line of broken('雨は、朝に測り、「毎日」記録します。夜も、昼も。', width)) expect(line).not.toMatch(/^[、。」]/)
  })
  test('Thai is broken between words, by a dictionary', () => {
    const lines = broken('เราวัดปริมาณน้ำฝนทุกเช้า', 200)
    expect(lines.length).toBeGreaterThan(2)
    const words = [...new Intl.Segmenter('th', { granularity: 'word' }).segment('เราวัดปริมาณน้ำฝนทุกเช้า')].map((w) => w.segment)
    const starts = words.map((_, i) => words.slice(0, i).join(''))
    for (let i = 1; i < lines.length; i++) expect(starts).toContain(lines.slice(0, i).join(''))
  })
  test('a line holds what there is room for, without the space at its end', () => {
    for (const line of setIn('Der Regenmesser steht frei auf der Wiese', 'ltr', 400)) {
      expect(line.width).toBeLessThanOrEqual(400)
      expect(line.pieces.at(-1)!.isSpace).toBe(false)
    }
  })
})

describe('fonts', () => {
  test('signs of Han are written as the text around them is', () => {
    expect(hanStyleOf('雨を測る')).toBe('ja')
    expect(hanStyleOf('비를 잰다 雨')).toBe('ko')
    expect(hanStyleOf('測量雨', 'zh-TW')).toBe('zh-Hant')
    expect(hanStyleOf('测量雨', 'zh-CN')).toBe('zh-Hans')
    expect(hanStyleOf('雨量', 'ja')).toBe('ja')
    expect(fontFor('雨', 'plain', 'ja')!.family.name).toBe('noto-sans-jp')
    expect(fontFor('雨', 'plain', 'zh-Hans')!.family.name).toBe('noto-sans-sc')
  })
  test('a letter and its marks come from one file', () => {
    for (const cluster of ['é', 'ộ', 'क्ष', 'น้ำ', 'שָׁ']) expect(fontFor(cluster, 'plain', 'ja')).not.toBeNull()
  })
  test('what no font has is found; what is never seen is not missed', () => {
    expect(undrawableIn('Hello, Привет, 雨, नमस्ते, ∑, 😀, \u200d\u200f\ufe0f\t\n')).toEqual([])
    expect(undrawableIn('a\u{13080}b\u{13080}\ue123')).toEqual(['\u{13080}', '\ue123'])
    expect(inWords(undrawableProblem('a\u{13080}b\ue123'))).toMatch(
      /^2 characters cannot be drawn: \u{13080} \(U\+13080\), U\+E123\./u,
    )
  })
  test('ranges of characters are written down and read back', () => {
    const codes = [0x20, 0x21, 0x22, 0x61, 0x5d0, 0x1f600]
    const read: number[] = []
    decodeRanges(encodeRanges([...codes].reverse()), (first, last) => {
      for (let code = first; code <= last; code++) read.push(code)
    })
    expect(read).toEqual(codes)
    expect(encodeRanges([])).toBe('')
  })
})

const picture = () =>
  sharp({ create: { width: 32, height: 20, channels: 3, background: '#7a9a6b' } })
    .png()
    .toBuffer()

/** Dark pixels in the left and in the right half. */
async function halves(png: Uint8Array): Promise<[number, number]> {
  const { data, info } = await sharp(png).greyscale().raw().toBuffer({ resolveWithObject: true })
  const sums: [number, number] = [0, 0]
  for (let i = 0; i < data.length; i++) if (data[i]! < 100) sums[i % info.width < info.width / 2 ? 0 : 1]++
  return sums
}

test('a text slide in Arabic begins at the right', async () => {
  const [left, right] = await halves(drawCard({ heading: 'المطر', line: 'قياس', colours: 'paper' }))
  expect(right).toBeGreaterThan(10 * left)
  const [fromLeft, other] = await halves(drawCard({ heading: 'Rain', line: 'a line', colours: 'paper' }))
  expect(fromLeft).toBeGreaterThan(10 * other)
})

describe('in the app', () => {
  let app: TestApp
  beforeAll(async () => {
    app = await openTestApp()
  })
  afterAll(() => app.end())
  const lectureOf = async (deck: File) => {
    const job = await app.addDeck(deck)
    expect(job.error).toBeNull()
    return app.read<Lecture>(`/api/lectures/${(job.result as { lectureId: string }).lectureId}`)
  }

  test('a presentation with signs that no font has says so on its slide, and before publishing', async () => {
    const parts = unzipSync(await makeDeck({ picture: await picture() }))
    const first = 'ppt/slides/slide1.xml'
    parts[first] = strToU8(strFromU8(parts[first]!).replace(/<a:t>([^<]*)<\/a:t>/, '<a:t>$1 \u{13080}\u{13081}</a:t>'))
    const lecture = await lectureOf(file('signs.pptx', zipSync(parts)))
    expect(lecture.slides[0]!.warnings.map(inWords)).toContainEqual(expect.stringMatching(/^2 characters cannot be drawn: /))
    expect(lecture.slides[1]!.warnings.map(inWords).join()).not.toContain('cannot be drawn')
    const [told] = checks(lecture).filter((c) => c.kind === 'from-deck' && c.slideId === lecture.slides[0]!.id)
    expect(told!.advice).toContain('cannot be drawn')
  })

  test('so does a text slide, until it is written otherwise', async () => {
    const lecture = await lectureOf(file('rain.md', Buffer.from('# المطر\n\nقياس المطر كل صباح')))
    expect(lecture.slides[0]!.warnings).toEqual([])
    const card = { heading: 'Sign \u{13080}', line: '', colours: 'paper' }
    const made = await app.json('POST', `/api/lectures/${lecture.id}/cards`, { afterSlideId: null, card })
    const { slideId } = (await made.json()) as { slideId: string }
    const slideNow = async () =>
      (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides.find((slide) => slide.id === slideId)!
    expect((await slideNow()).warnings.map(inWords)).toEqual([expect.stringMatching(/^1 character cannot be drawn/)])
    await app.json('PATCH', `/api/slides/${slideId}`, { card: { ...card, heading: 'Sign' } })
    expect((await slideNow()).warnings).toEqual([])
  })
})

test('captions in the picture say before publishing what cannot be drawn; beside the video they need not', async () => {
  const app = await openTestApp()
  try {
    const { id } = await app.newLecture()
    const form = new FormData()
    form.append('file', file('captions.en.vtt', 'WEBVTT\n\n00:00.500 --> 00:02.000\nThe sign \u{13080} is an eye.\n'))
    form.append('language', 'en')
    expect((await app.ask(`/api/lectures/${id}/captions`, { method: 'POST', body: form })).ok).toBe(true)
    const told = async () =>
      checks(await app.read<Lecture>(`/api/lectures/${id}`)).filter((check) => check.kind === 'undrawable-captions')
    expect(await told()).toEqual([])
    await app.json('PATCH', `/api/lectures/${id}`, { exportSettings: { presets: ['standard'], burnedIn: 'en' } })
    expect((await told()).map(({ finding }) => finding)).toEqual([
      'Captions in the picture: 1 character cannot be drawn: \u{13080} (U+13080)',
    ])
  } finally {
    await app.end()
  }
})
