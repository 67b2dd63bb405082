/** Films that come with a deck: written by a general library, with the trees of times that slide programs write. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type PptxGenJS from 'pptxgenjs'
import sharp from 'sharp'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Film } from '#core/model/moving/film.ts'
import { inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { makeFilm } from '#tests/made/film.ts'

const Pptx = createRequire(import.meta.url)('pptxgenjs') as typeof PptxGenJS

let app: TestApp
let folder: string
let poster: string
beforeAll(async () => {
  app = await openTestApp()
  folder = mkdtempSync(join(tmpdir(), 'lectern-deck-films-'))
  const picture = await sharp({ create: { width: 320, height: 180, channels: 3, background: '#a04020' } })
    .png()
    .toBuffer()
  poster = `image/png;base64,${picture.toString('base64')}`
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await app.end()
})

function film(name: string, frames: number, codec?: string[]): Buffer {
  const path = join(folder, name)
  makeFilm(path, { frames, ...(codec && { codec }) })
  return readFileSync(path)
}

interface Placed {
  name: string
  bytes: Buffer
  x?: number
}

/** @param slides the films of each @param edit changes a slide's XML */
async function deckOf(slides: readonly Placed[][], edit: (xml: string, slide: number) => string = (xml) => xml): Promise<File> {
  const deck = new Pptx()
  deck.layout = 'LAYOUT_WIDE'
  for (const [i, films] of slides.entries()) {
    const page = deck.addSlide()
    page.addText(`Slide ${i + 1}`, { x: 0.5, y: 0.3, w: 6, h: 0.6 })
    for (const { name, bytes, x = 2 } of films) {
      const extn = name.split('.').at(-1)!
      const data = `video/${extn};base64,${bytes.toString('base64')}`
      page.addMedia({ type: 'video', data, extn, x, y: 2, w: 4, h: 2.25, cover: poster, objectName: name })
    }
  }
  const parts = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  for (const i of slides.keys()) {
    const part = `ppt/slides/slide${i + 1}.xml`
    parts[part] = strToU8(edit(strFromU8(parts[part]!), i))
  }
  return new File([zipSync(parts) as BlobPart], 'films.pptx')
}
const filmsOf = (lecture: Lecture, slide: number): Film[] => lecture.slides[slide]!.steps.flatMap((step) => step.films)

/** The tree of times of a slide: so many effects one after the other, and what is said of its film. @see ECMA-376, part 1, §19.5 */
function timing(id: string, effects: string, media = ''): string {
  const main = `<p:seq concurrent="1" nextAc="seek"><p:cTn id="2" dur="indefinite" nodeType="mainSeq"><p:childTnLst>${effects}</p:childTnLst></p:cTn></p:seq>`
  const node = `<p:video><p:cMediaNode ${media.includes('across') ? 'numSld="2" ' : ''}${media.includes('mute') ? 'mute="1"' : 'vol="80000"'}><p:cTn id="90" ${media.includes('loop') ? 'repeatCount="indefinite"' : ''} fill="${media.includes('rewind') ? 'remove' : 'hold'}" display="0"><p:stCondLst><p:cond delay="indefinite"/></p:stCondLst></p:cTn><p:tgtEl><p:spTgt spid="${id}"/></p:tgtEl></p:cMediaNode></p:video>`
  return `<p:timing><p:tnLst><p:par><p:cTn id="1" dur="indefinite" restart="never" nodeType="tmRoot"><p:childTnLst>${main}${node}</p:childTnLst></p:cTn></p:par></p:tnLst></p:timing>`
}
/** A film is begun, by a click or when the slide appears. */
const plays = (id: string, nodeType: 'clickEffect' | 'afterEffect') =>
  `<p:par><p:cTn id="3" fill="hold"><p:stCondLst><p:cond delay="indefinite"/>${nodeType === 'afterEffect' ? '<p:cond evt="onBegin" delay="0"><p:tn val="2"/></p:cond>' : ''}</p:stCondLst><p:childTnLst><p:par><p:cTn id="4" fill="hold"><p:stCondLst><p:cond delay="0"/></p:stCondLst><p:childTnLst><p:par><p:cTn id="5" presetID="1" presetClass="mediacall" presetSubtype="0" fill="hold" nodeType="${nodeType}"><p:stCondLst><p:cond delay="0"/></p:stCondLst><p:childTnLst><p:cmd type="call" cmd="playFrom(0.0)"><p:cBhvr><p:cTn id="6" dur="1000" fill="hold"/><p:tgtEl><p:spTgt spid="${id}"/></p:tgtEl></p:cBhvr></p:cmd></p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn></p:par>`
const idIn = (xml: string, name: string) => new RegExp(`<p:cNvPr id="(\\d+)" name="${name}`).exec(xml)![1]!
const withTiming = (xml: string, name: string, effects: (id: string) => string, media = '') => {
  const id = idIn(xml, name)
  return xml.replace('</p:sld>', `${timing(id, effects(id), media)}</p:sld>`)
}

test('a deck with three films is brought in with each at its place, ready to be shown, whatever its kind', async () => {
  const deck = await deckOf([
    [{ name: 'one.mp4', bytes: film('one.mp4', 30) }],
    [
      {
        name: 'two.webm',
        bytes: film('two.webm', 30, ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-f', 'webm']),
      },
    ],
    [{ name: 'three.avi', bytes: film('three.avi', 30, ['-c:v', 'mpeg4', '-f', 'avi']), x: 7 }],
  ])
  const { lecture } = await app.imported(deck)
  for (const [slide, [name, x]] of [
    ['one.mp4', 2],
    ['two.webm', 2],
    ['three.avi', 7],
  ].entries() as IterableIterator<[number, [string, number]]>) {
    const [found, ...others] = filmsOf(lecture, slide)
    expect(others).toEqual([])
    expect(found!.name.endsWith(name.split('.')[1]!)).toBe(true)
    expect(found).toMatchObject({ hasPoster: true, problem: null, voice: 'before', shown: { frames: 30, rate: [25, 1] } })
    expect(found!.place!.x).toBeCloseTo(x / 13.333, 2)
    expect(found!.place!.width).toBeCloseTo(4 / 13.333, 2)
    expect(lecture.slides[slide]!.warnings.map(inWords)).toEqual([])
  }
})

test('what the deck says of a film is kept: at once or with a click, again and again, silent, from the beginning again, over more than its slide', async () => {
  const bytes = film('said.mp4', 20)
  const deck = await deckOf(
    [[{ name: 'auto', bytes }], [{ name: 'click', bytes }], [{ name: 'loop', bytes }], [{ name: 'across', bytes }]].map((films) =>
      films.map((one) => ({ ...one, name: `${one.name}.mp4` })),
    ),
    (xml, slide) =>
      slide === 0
        ? withTiming(xml, 'auto', (id) => plays(id, 'afterEffect'), 'mute')
        : slide === 1
          ? withTiming(xml, 'click', (id) => plays(id, 'clickEffect'), 'rewind')
          : slide === 2
            ? withTiming(xml, 'loop', (id) => plays(id, 'afterEffect'), 'loop')
            : withTiming(xml, 'across', (id) => plays(id, 'afterEffect'), 'across'),
  )
  const { lecture } = await app.imported(deck)
  expect(lecture.slides[0]!.steps).toHaveLength(1)
  expect(filmsOf(lecture, 0)[0]).toMatchObject({ voice: 'over', isMuted: true, loops: false, waits: true })
  // a click that begins a film is a step of its own, with the same picture
  expect(lecture.slides[1]!.steps.map((step) => step.films.length)).toEqual([0, 1])
  expect(lecture.slides[1]!.steps[0]!.picture).toBe(lecture.slides[1]!.steps[1]!.picture)
  expect(filmsOf(lecture, 1)[0]).toMatchObject({ voice: 'over', afterwards: 'slide' })
  expect(filmsOf(lecture, 2)[0]).toMatchObject({ loops: true, waits: false })
  expect(filmsOf(lecture, 3)[0]).toMatchObject({ runsOn: true, waits: false })
})

test('a new version of a deck with another film changes its slide; what was set and put in here stays', async () => {
  const bytes = { kept: film('kept.mp4', 20), old: film('old.mp4', 30), new: film('new.mp4', 40) }
  const deck = (second: Buffer) =>
    deckOf([
      [
        { name: 'kept.mp4', bytes: bytes.kept, x: 1 },
        { name: 'second.mp4', bytes: second, x: 7 },
      ],
      [{ name: 'same.mp4', bytes: bytes.kept }],
    ])
  const { lecture } = await app.imported(await deck(bytes.old))
  const [slide] = lecture.slides
  await app.json('PATCH', `/api/films/${filmsOf(lecture, 0)[0]!.id}`, { description: 'Rain fills a gauge.' })
  const form = new FormData()
  form.append('file', new File([film('by-hand.mp4', 10) as BlobPart], 'by-hand.mp4'))
  await app.ask(`/api/slides/${slide!.id}/films`, { method: 'POST', body: form })
  await app.idle()

  const decks = new FormData()
  decks.append('files', await deck(bytes.new))
  const answer = await app.ask(`/api/lectures/${lecture.id}/decks`, { method: 'POST', body: decks })
  const { job } = (await answer.json()) as { job: { id: string } }
  const { replacementId } = (await app.ended(job.id)).result as { replacementId: string }
  const found = await app.read<FoundReplacement>(`/api/lectures/replacements/${replacementId}`)
  expect(found.changed).toMatchObject([{ slideId: slide!.id, hasNewPicture: true }])
  const taken = await app.json('POST', `/api/lectures/replacements/${replacementId}`, { changed: [slide!.id], added: [] })
  const { steps } = (await taken.json()) as { steps: { stepIds: string[] }[] }
  await app.json('PUT', '/api/slides/steps', { slides: [{ id: slide!.id, steps: steps[0]!.stepIds, deleted: false }] })
  await app.idle()
  const now = filmsOf(await app.read<Lecture>(`/api/lectures/${lecture.id}`), 0)
  const seen = now.map(({ shown, description }) => [shown!.frames, description]).toSorted()
  expect(seen).toEqual([
    [10, ''],
    [20, 'Rain fills a gauge.'],
    [40, ''],
  ])
})

test('what is cut off at a film’s ends stays cut off', async () => {
  const bytes = film('trimmed.mp4', 100)
  const deck = await deckOf([[{ name: 'trimmed.mp4', bytes }]], (xml) =>
    xml.replace(/<p14:media ([^>]*)\/>/, '<p14:media $1><p14:trim st="1000" end="500"/></p14:media>'),
  )
  const { lecture } = await app.imported(deck)
  expect(filmsOf(lecture, 0)[0]).toMatchObject({ fromSeconds: 1, toSeconds: 3.5 })
})

test('a film that is linked from elsewhere is told by its name', async () => {
  const deck = await deckOf([[{ name: 'away.mp4', bytes: film('away.mp4', 10) }]])
  const parts = unzipSync(new Uint8Array(await deck.arrayBuffer()))
  const part = 'ppt/slides/_rels/slide1.xml.rels'
  parts[part] = strToU8(
    strFromU8(parts[part]!).replaceAll(
      /Target="\.\.\/media\/[^"]*\.mp4"/g,
      'Target="file:///C:/films/My%20film.mp4" TargetMode="External"',
    ),
  )
  const { lecture } = await app.imported(new File([zipSync(parts) as BlobPart], 'linked.pptx'))
  expect(filmsOf(lecture, 0)).toEqual([])
  expect(lecture.slides[0]!.warnings.map(inWords)).toEqual([
    'Its film “My film.mp4” is not in the deck: it is linked from the computer the deck was made on. Drop that file onto this slide.',
  ])
})

test('a picture that moves by itself moves, for as long as its slide is shown', async () => {
  const frames = await Promise.all(
    ['#ff0000', '#00ff00', '#0000ff'].map((background) =>
      sharp({ create: { width: 64, height: 36, channels: 3, background } })
        .png()
        .toBuffer(),
    ),
  )
  const gif = await sharp(frames, { join: { animated: true } })
    .gif({ delay: [200, 200, 200], loop: 0 })
    .toBuffer()
  const pptx = new Pptx()
  pptx.layout = 'LAYOUT_WIDE'
  pptx.addSlide().addImage({ data: `image/gif;base64,${gif.toString('base64')}`, x: 1, y: 1, w: 4, h: 2.25 })
  const { lecture } = await app.imported(new File([(await pptx.write({ outputType: 'nodebuffer' })) as BlobPart], 'gif.pptx'))
  expect(filmsOf(lecture, 0)[0]).toMatchObject({
    loops: true,
    waits: false,
    hasPoster: true,
    shown: { frames: 3, rate: [5, 1] },
  })
})

test('a film of an OpenDocument page is found by its frame, and so is what begins it', async () => {
  const bytes = film('page.mp4', 20)
  const content = `<?xml version="1.0" encoding="UTF-8"?>
<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" xmlns:presentation="urn:oasis:names:tc:opendocument:xmlns:presentation:1.0" xmlns:anim="urn:oasis:names:tc:opendocument:xmlns:animation:1.0" xmlns:smil="urn:oasis:names:tc:opendocument:xmlns:smil-compatible:1.0" office:version="1.3"><office:body><office:presentation><draw:page draw:name="p1"><draw:frame xml:id="film" svg:x="7cm" svg:y="5cm" svg:width="14cm" svg:height="7.875cm"><draw:plugin xlink:href="Media/page.mp4" draw:mime-type="application/vnd.sun.star.media"><draw:param draw:name="Loop" draw:value="false"/><draw:param draw:name="Mute" draw:value="true"/></draw:plugin></draw:frame><anim:par presentation:node-type="timing-root"><anim:seq presentation:node-type="main-sequence"><anim:par smil:begin="next"><anim:par smil:begin="0s"><anim:par smil:begin="0s" presentation:node-type="on-click" presentation:preset-class="media-call"><anim:command smil:targetElement="film" anim:command="play"/></anim:par></anim:par></anim:par></anim:seq></anim:par></draw:page></office:presentation></office:body></office:document-content>`
  const parts = {
    mimetype: [strToU8('application/vnd.oasis.opendocument.presentation'), { level: 0 }],
    'content.xml': strToU8(content),
    'Media/page.mp4': new Uint8Array(bytes),
  } as Parameters<typeof zipSync>[0]
  const { lecture } = await app.imported(new File([zipSync(parts) as BlobPart], 'films.odp'))
  expect(lecture.slides[0]!.steps.map((step) => step.films.length)).toEqual([0, 1])
  const [found] = filmsOf(lecture, 0)
  expect(found).toMatchObject({ name: 'page.mp4', isMuted: true, hasPoster: false, shown: { frames: 20 } })
  expect(found!.place!.x).toBeCloseTo(0.25, 2)
  expect(found!.place!.width).toBeCloseTo(0.5, 2)
})
