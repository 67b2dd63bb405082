/** A deck that builds up by clicks: from its file to a published video, by voice alone. */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { stepStarts } from '#core/timing/steps.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { demoFile, file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { click, enters, leaves, moved, onShape, paragraphs, timing } from '#tests/made/clicks.ts'
import { meanDifference } from '#tests/support/difference.ts'
import { framesOf } from '#tests/support/frames.ts'

const POINTS = ['A funnel, eight inches across', 'An inner tube', 'A measuring stick']
const SCRIPT = [
  'This is what a rain gauge is made of.',
  'On top there is a funnel, and it is eight inches across.',
  'Below the funnel stands an inner tube.',
  'And at last you need a measuring stick.',
]

/** A deck by a general library, with time nodes put in by hand. */
async function deckWithClicks(words = POINTS): Promise<Uint8Array> {
  const { default: Pptx } = await import('pptxgenjs')
  const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
  const first = deck.addSlide()
  first.addText('What is inside', { x: 0.5, y: 0.3, w: 9, h: 0.8, fontSize: 32 })
  first.addText(
    words.map((text) => ({ text, options: { bullet: true, breakLine: true } })),
    { x: 0.5, y: 1.3, w: 9, h: 3, fontSize: 24 },
  )
  first.addNotes(SCRIPT.join('\n'))
  const second = deck.addSlide()
  second.addText('Yes', { x: 1, y: 1, w: 3, h: 1, fontSize: 40 })
  second.addText('versus', { x: 1, y: 1, w: 3, h: 1, fontSize: 40 })
  second.addShape('rect', { x: 6, y: 3, w: 1, h: 1, fill: { color: '17594A' } })
  const parts = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  /** The number of the shape that holds a text, or of the last one. */
  const put = (slide: number, nodes: (idOf: (text: string) => number) => string) => {
    const name = `ppt/slides/slide${slide}.xml`
    const xml = strFromU8(parts[name]!)
    const idOf = (text: string) =>
      Number(/<p:cNvPr id="(\d+)"/.exec(xml.split('<p:sp>').find((shape) => shape.includes(text))!)![1])
    parts[name] = strToU8(xml.replace('</p:sld>', `${nodes(idOf)}</p:sld>`))
  }
  put(1, (idOf) => timing([0, 1, 2].map((n) => click(enters(onShape(idOf('funnel'), paragraphs(n)))))))
  put(2, (idOf) => {
    const square = onShape(idOf('17594A'))
    return timing([
      click(leaves(onShape(idOf('Yes'))), { ...enters(onShape(idOf('versus'))), when: 'withEffect' }),
      click(moved(square, 'M 0 0 L 0.2 0 E')),
    ])
  })
  return zipSync(parts)
}

/** Sentences, read by the synthesiser; and when each of their words begins, seconds. */
async function readAloud(sentences: readonly string[]) {
  const voice = (await openSynthesiser('en'))!
  const when: Record<string, number> = {}
  const pieces: Float32Array[] = []
  let [at, hertz] = [0, 0]
  for (const sentence of sentences) {
    const { samples, rate, words } = voice.speak(sentence)
    const pause = new Float32Array(rate / 2)
    hertz = rate
    at += pause.length / rate
    for (const { seconds, character } of words) when[/^\w*/.exec(sentence.slice(character))![0]] = at + seconds
    at += samples.length / rate
    pieces.push(pause, samples)
  }
  return { wav: writeWav(toInt16(Float32Array.from(pieces.flatMap((piece) => [...piece]))), hertz), when }
}

let app: TestApp
let lecture: Lecture
let when: Record<string, number>
beforeAll(async () => {
  app = await openTestApp()
  const read = await readAloud(SCRIPT)
  when = read.when
  ;({ lecture } = await app.imported(file('gauge.pptx', await deckWithClicks()), file('slide 1.wav', read.wav)))
})
afterAll(() => app.end())

const picture = async (name: string, width: number, height: number) =>
  sharp(Buffer.from(await (await app.ask(`/api/files/${name}.png`)).arrayBuffer()))
    .resize(width, height)
    .removeAlpha()
    .raw()
    .toBuffer()

test('each click is a picture, with the words that it brings; nothing is told as missing', () => {
  const [first, second] = lecture.slides
  expect(first!.steps.map((step) => step.text)).toEqual(['', ...POINTS])
  expect(new Set(first!.steps.map((step) => step.picture)).size).toBe(4)
  expect(second!.steps.map((step) => step.text)).toEqual(['', 'versus', ''])
  expect(lecture.slides.flatMap((slide) => slide.warnings)).toEqual([])
})

test('a picture shows what stands there then: what is gone is gone, what moved is where it went', async () => {
  const [before, after, last] = await Promise.all(lecture.slides[1]!.steps.map((step) => picture(step.picture, 192, 108)))
  /** Darkness of a part of the slide, in inches of 10 by 5.625. */
  const ink = (pixels: Buffer, x: number, y: number, w: number, h: number) => {
    let sum = 0
    for (let row = Math.round(y * 19.2); row < (y + h) * 19.2; row++)
      for (let column = Math.round(x * 19.2); column < (x + w) * 19.2; column++) sum += 255 - pixels[3 * (row * 192 + column)]!
    return sum
  }
  // "versus" is longer than "Yes", and only one of them is there
  expect(ink(before!, 1, 1, 3, 1)).toBeGreaterThan(0)
  expect(ink(after!, 1, 1, 3, 1)).toBeGreaterThan(ink(before!, 1, 1, 3, 1))
  expect(ink(after!, 6, 3, 1, 1)).toBeGreaterThan(10 * ink(last!, 6, 3, 1, 1))
  // two tenths of ten inches to the right
  expect(ink(last!, 8, 3, 1, 1)).toBeCloseTo(ink(after!, 6, 3, 1, 1), -4)
})

test('from a file of sound alone the pictures come where their words are said', () => {
  const [first] = lecture.slides
  const { slides } = schedule(lecture)
  const starts = stepStarts(first!, slides[0]!)
  expect(starts.map(({ by }) => by)).toEqual(['hand', 'words', 'words', 'words'])
  const take = first!.takes[0]!
  const heard = first!.steps.slice(1).map((step) => take.heardMoments[step.id]!)
  // the funnel is spoken of twice; it is the first time that counts
  const said = [when.there, when.inner, when.measuring]
  for (const [i, moment] of heard.entries()) expect(Math.abs(moment - said[i]!)).toBeLessThan(0.35)
})

test('the published video shows each picture in its time', async () => {
  const answer = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: { id: string } }
  const job = await app.ended(answer.job.id)
  expect(job.state).toBe('done')
  const { editionId } = job.result as { editionId: string }
  const [first] = lecture.slides
  const scheduled = schedule(lecture).slides[0]!
  const starts = stepStarts(first!, scheduled)
  const middles = starts.map(({ at }, i) => (at + (starts[i + 1]?.at ?? toSeconds(scheduled.lengthSamples))) / 2)
  const path = join(app.dataFolder, 'seen.mp4')
  writeFileSync(path, Buffer.from(await (await app.ask(`/api/editions/${editionId}/files/video.mp4`)).arrayBuffer()))
  const frames = framesOf(path, middles)
  for (const [i, { data, info }] of frames.entries()) {
    const wanted = await picture(first!.steps[i]!.picture, info.width, info.height)
    expect(meanDifference(data, wanted)).toBeLessThan(1.5)
  }
})

test('a lecture with steps goes out and comes in again with their words', async () => {
  const bytes = new Uint8Array(await (await app.ask(`/api/lectures/${lecture.id}/bundle`)).arrayBuffer())
  const { lecture: again } = await app.imported(file('again.lectern.zip', bytes))
  expect(again.slides[0]!.steps.map(({ text, afterSeconds }) => ({ text, afterSeconds }))).toEqual(
    lecture.slides[0]!.steps.map(({ text, afterSeconds }) => ({ text, afterSeconds })),
  )
  expect(Object.values(again.slides[0]!.takes[0]!.heardMoments)).toEqual(Object.values(lecture.slides[0]!.takes[0]!.heardMoments))
})

test('a new version of the deck brings the pictures of its clicks as well', async () => {
  const form = new FormData()
  form.append(
    'files',
    file('gauge.pptx', await deckWithClicks(['A funnel, eight inches across', 'An outer can', 'A measuring stick'])),
  )
  const { job } = (await (await app.ask(`/api/lectures/${lecture.id}/decks`, { method: 'POST', body: form })).json()) as {
    job: { id: string }
  }
  const { result } = await app.ended(job.id)
  const { replacementId } = result as { replacementId: string }
  const found = await app.read<FoundReplacement>(`/api/lectures/replacements/${replacementId}`)
  expect(found.changed.map(({ slideId }) => slideId)).toEqual([lecture.slides[0]!.id])
  const made = (await (
    await app.json('POST', `/api/lectures/replacements/${replacementId}`, { changed: [lecture.slides[0]!.id], added: [] })
  ).json()) as { steps: { slideId: string; stepIds: string[] }[] }
  expect(made.steps).toEqual([{ slideId: lecture.slides[0]!.id, stepIds: Array(4).fill(expect.any(String)) }])
})

test('where a PDF has the pages, the clicks that it does not show are told', async () => {
  const { default: Pptx } = await import('pptxgenjs')
  const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
  deck.addSlide().addText('Clouds by their shapes', { x: 1, y: 1, w: 8, h: 1 })
  const parts = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  const name = 'ppt/slides/slide1.xml'
  const [, shape] = /<p:sp>.*?<p:cNvPr id="(\d+)"/s.exec(strFromU8(parts[name]!))!
  parts[name] = strToU8(strFromU8(parts[name]!).replace('</p:sld>', `${timing([click(enters(onShape(Number(shape))))])}</p:sld>`))
  const pdf = file('clouds.pdf', demoFile('clouds-by-their-shapes.pdf'))
  const { lecture: both } = await app.imported(file('clouds.pptx', zipSync(parts)), pdf)
  expect(both.slides[0]!.steps).toHaveLength(1)
  expect(both.slides[0]!.warnings.map(inWords).join(' ')).toContain('1 click of this slide is not shown')
})
