/** Decks of every kind, through the app. */

import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import { readPresentation } from '#core/deck/ooxml/presentation.ts'
import { checks } from '#core/edition/checks/checks.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { sweep } from '#server/maintenance/sweep.ts'
import { demoFile, file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { DECK_TITLE, makeDeck } from '#tests/made/deck-maker.ts'
import { madeTake } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let picture: Buffer
const wav = (seed: number) => Buffer.from(writeWav(toInt16(madeTake({ seed }).samples), 48_000))

beforeAll(async () => {
  app = await openTestApp()
  picture = await sharp({ create: { width: 320, height: 200, channels: 3, background: '#7a9a6b' } })
    .png()
    .toBuffer()
})
afterAll(() => app.end())

const imported = (...files: File[]) => app.imported(...files)
const refusal = async (...files: File[]) => inWords((await app.addDeck(...files)).error)

describe('presentation files', () => {
  let lecture: Lecture
  beforeAll(async () => {
    ;({ lecture } = await imported(file('gauge.pptx', await makeDeck({ picture, sound: { bytes: wav(2), extension: 'wav' } }))))
  })
  test('order, titles, notes as scripts, hidden slides and descriptions come with it', () => {
    expect(lecture.title).toBe(DECK_TITLE)
    expect(lecture.slides).toHaveLength(12)
    expect(lecture.slides.map((s) => s.title).slice(0, 3)).toEqual([DECK_TITLE, 'What is inside', 'Reading it'])
    expect(lecture.slides[0]!.script).toBe('Good evening, and welcome.')
    expect(lecture.slides.map((s) => s.hidden).indexOf(true)).toBe(8)
    expect(lecture.slides[7]!.altText).toContain('A gauge on a lawn')
    expect(lecture.slides[5]!.steps[0]).toMatchObject({ width: 1920, height: 1080 })
  })
  test('sections come with it', () => {
    const begun = lecture.slides.flatMap((s, i) => (s.section ? [[i, s.section]] : []))
    expect(begun).toEqual([
      [0, 'The gauge'],
      [2, 'In the garden'],
    ])
  })
  test('a sound inside becomes the take of its slide, tidied', () => {
    const take = keptTake(lecture.slides[1]!)!
    expect(toSeconds(take.samples)).toBeCloseTo(toSeconds(madeTake({ seed: 2 }).samples.length), 2)
    expect(take.clip).not.toBeNull()
    expect(lecture.slides.filter((s) => s.takes.length > 0)).toHaveLength(1)
  })
})

longTest('one drop of deck, PDF and sounds named by slide gives a narrated, timed, captioned lecture', async () => {
  const written = demoFile('clouds-by-their-shapes.pdf')
  const { default: Pptx } = await import('pptxgenjs')
  const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
  const titles = ['Clouds by their shapes', 'High: thin and white', 'Middle: sheets and rolls', 'Low: heaps and grey']
  for (const title of titles) {
    const slide = deck.addSlide()
    slide.addText(title, { x: 1, y: 1, w: 8, h: 1 })
    slide.addNotes(`What is said of ${title.toLowerCase()}. And one more sentence.`)
  }
  const pptx = (await deck.write({ outputType: 'nodebuffer' })) as Buffer
  const sounds = titles.map((_, i) => file(`slide ${i + 1}.wav`, wav(i + 1)))
  const { lecture, result } = await imported(file('clouds.pptx', pptx), file('clouds.pdf', written), ...sounds)
  expect(result.unmatched).toEqual([])
  expect(lecture.slides.map((s) => s.title)).toEqual(titles)
  for (const slide of lecture.slides) {
    expect(keptTake(slide)?.clip).not.toBeNull()
    expect(lecture.captionTracks[0]!.cues.some((cue) => cue.slideId === slide.id)).toBe(true)
    expect(slide.warnings).toEqual([])
  }
  // the pictures are those of the PDF: the same as when it is imported alone
  const alone = await imported(file('clouds.pdf', written))
  expect(lecture.slides.map((s) => s.steps[0]!.picture)).toEqual(alone.lecture.slides.map((s) => s.steps[0]!.picture))
  expect(checks(lecture).filter((c) => c.level === 'missing')).toEqual([])
})

test('a diagram is drawn from the shapes its writer kept beside it', async () => {
  const { default: Pptx } = await import('pptxgenjs')
  const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
  deck.addSlide().addText('The way of the rain', { x: 1, y: 0.2, w: 8, h: 0.8 })
  const files = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  const change = (name: string, from: string, to: string) => {
    const text = strFromU8(files[name]!)
    expect(text).toContain(from)
    files[name] = strToU8(text.replace(from, to))
  }
  const office = 'http://schemas.openxmlformats.org'
  const frame = `<p:graphicFrame><p:nvGraphicFramePr><p:cNvPr id="9" name="d"/></p:nvGraphicFramePr><p:xfrm><a:off x="914400" y="1828800"/><a:ext cx="5486400" cy="1828800"/></p:xfrm><a:graphic><a:graphicData uri="${office}/drawingml/2006/diagram"><dgm:relIds xmlns:dgm="${office}/drawingml/2006/diagram" r:dm="rId71"/></a:graphicData></a:graphic></p:graphicFrame>`
  change('ppt/slides/slide1.xml', '</p:spTree>', `${frame}</p:spTree>`)
  const relation = (id: string, type: string, target: string) =>
    `<Relationship Id="${id}" Type="${office}/officeDocument/2006/relationships/${type}" Target="../diagrams/${target}"/>`
  change(
    'ppt/slides/_rels/slide1.xml.rels',
    '</Relationships>',
    `${relation('rId71', 'diagramData', 'data1.xml')}${relation('rId72', 'diagramDrawing', 'drawing1.xml')}</Relationships>`,
  )
  const dsp = 'xmlns:dsp="http://schemas.microsoft.com/office/drawing/2008/diagram"'
  files['ppt/diagrams/data1.xml'] = strToU8(
    `<dgm:dataModel xmlns:dgm="${office}/drawingml/2006/diagram" xmlns:a="${office}/drawingml/2006/main"><dgm:extLst><a:ext uri="x"><dsp:dataModelExt ${dsp} relId="rId72"/></a:ext></dgm:extLst></dgm:dataModel>`,
  )
  const box = (text: string, x: number) =>
    `<dsp:sp modelId="{${text}}"><dsp:nvSpPr><dsp:cNvPr id="0" name=""/></dsp:nvSpPr><dsp:spPr><a:xfrm><a:off x="${x}" y="0"/><a:ext cx="1828800" cy="914400"/></a:xfrm><a:prstGeom prst="roundRect"/><a:solidFill><a:srgbClr val="17594A"/></a:solidFill></dsp:spPr><dsp:txBody><a:bodyPr/><a:p><a:r><a:t>${text}</a:t></a:r></a:p></dsp:txBody></dsp:sp>`
  files['ppt/diagrams/drawing1.xml'] = strToU8(
    `<dsp:drawing ${dsp} xmlns:a="${office}/drawingml/2006/main"><dsp:spTree>${box('Funnel', 0)}${box('Tube', 3_657_600)}</dsp:spTree></dsp:drawing>`,
  )
  const [slide] = readPresentation(new Map(Object.entries(files)), 'd.pptx').slides
  expect(slide!.warnings).toEqual([])
  const boxes = slide!.drawing.items.flatMap((item) =>
    item.kind === 'shape' && item.text && item.text.paragraphs[0]!.runs[0]!.text !== 'The way of the rain'
      ? [
          {
            text: item.text.paragraphs[0]!.runs[0]!.text,
            x: item.box.x / slide!.drawing.width,
            y: item.box.y / slide!.drawing.height,
          },
        ]
      : [],
  )
  // an inch and two from the corner of a slide of ten by 5.625 inches
  expect(boxes).toEqual([
    { text: 'Funnel', x: expect.closeTo(0.1, 3), y: expect.closeTo(2 / 5.625, 3) },
    { text: 'Tube', x: expect.closeTo(0.5, 3), y: expect.closeTo(2 / 5.625, 3) },
  ])
  // one that names itself is told, and ends
  const drawing = strFromU8(files['ppt/diagrams/drawing1.xml']!)
  files['ppt/diagrams/drawing1.xml'] = strToU8(
    drawing.replace(
      '</dsp:spTree>',
      `${frame.replaceAll('p:', 'dsp:').replace('<dsp:graphicFrame>', `<dsp:graphicFrame xmlns:r="${office}/officeDocument/2006/relationships">`)}</dsp:spTree>`,
    ),
  )
  files['ppt/diagrams/_rels/drawing1.xml.rels'] = files['ppt/slides/_rels/slide1.xml.rels']!
  const [again] = readPresentation(new Map(Object.entries(files)), 'd.pptx').slides
  expect(again!.warnings.map((warning) => inWords(warning))).toEqual(['A diagram could not be drawn.'])
})

longTest(
  'where PDF and presentation file differ, the pages are offered beside the drawing; one is taken, and taken back',
  async () => {
    const pdf = file('clouds.pdf', demoFile('clouds-by-their-shapes.pdf'))
    const { lecture: pages } = await imported(pdf)
    const { default: Pptx } = await import('pptxgenjs')
    const deck = new (Pptx as unknown as { new (): import('pptxgenjs').default })()
    const [, second] = pages.slides
    for (const text of [second!.altText, 'Rain, and how deep it stands in the gauge'])
      deck.addSlide().addText(text, { x: 1, y: 1, w: 8, h: 4 })
    const pptx = file('clouds.pptx', (await deck.write({ outputType: 'nodebuffer' })) as Buffer)
    const { lecture } = await imported(pptx, pdf)
    const pictureOf = (n: number) => pages.slides[n]!.steps[0]!.picture
    const [paired, drawn] = lecture.slides
    expect(paired!.steps.map((s) => s.picture)).toEqual([pictureOf(1)])
    expect(paired!.offered.map((s) => s.picture)).toEqual([pictureOf(0)])
    expect(paired!.warnings.map(inWords)).toEqual(['The PDF has more pages here than the presentation file has slides.'])
    expect(drawn!.offered.map((s) => s.picture)).toEqual([pictureOf(2), pictureOf(3)])
    expect(inWords(drawn!.warnings[0])).toContain('drawn from the presentation file')

    const arrange = async (step: string) => {
      const change = { slides: [{ id: drawn!.id, steps: [step], deleted: false }] }
      expect((await app.json('PUT', '/api/slides/steps', change)).status).toBe(200)
      return (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[1]!
    }
    const taken = await arrange(drawn!.offered[1]!.id)
    expect(taken.steps.map((s) => s.picture)).toEqual([pictureOf(3)])
    expect(taken.offered.map((s) => s.picture)).toEqual([pictureOf(2)])
    const ids = (slide: Lecture['slides'][number]) => slide.offered.map((step) => step.id).sort()
    expect(ids(await arrange(drawn!.steps[0]!.id))).toEqual(ids(drawn!))

    // a bundle carries what was not chosen
    const bundle = await app.ask(`/api/lectures/${lecture.id}/bundle`)
    const { lecture: copy } = await imported(file('copy.lectern.zip', Buffer.from(await bundle.arrayBuffer())))
    const pictures = ({ slides }: Lecture) =>
      slides.map((s) => [s.steps, s.offered].map((list) => list.map((step) => step.picture)))
    expect(pictures(copy)).toEqual(pictures(await app.read<Lecture>(`/api/lectures/${lecture.id}`)))

    // as many pages as slides, but one of them is another one
    deck.addSlide().addText(pages.slides[2]!.altText, { x: 1, y: 1, w: 8, h: 4 })
    deck.addSlide().addText(pages.slides[3]!.altText, { x: 1, y: 1, w: 8, h: 4 })
    const { lecture: four } = await imported(file('four.pptx', (await deck.write({ outputType: 'nodebuffer' })) as Buffer), pdf)
    expect(four.slides.map((s) => s.offered.length)).toEqual([1, 1, 0, 0])
    expect(four.slides[1]!.warnings.map(inWords)).toEqual([
      'Its page of the PDF reads otherwise than the slide in the presentation file.',
    ])
  },
)

longTest('the first pages of a deck are to be seen while the others are read', async () => {
  const form = new FormData()
  form.append('files', file('reading.pdf', demoFile('reading-the-rain-gauge.pdf')))
  form.append('language', 'en')
  const { job } = (await (await app.ask('/api/lectures', { method: 'POST', body: form })).json()) as { job: { id: string } }
  type Seen = { id: string; state: string; soFar: { rows: { title: string; thumbnail: string }[] } | null }
  let rows: { title: string; thumbnail: string }[] = []
  for (;;) {
    const now = (await app.read<{ jobs: Seen[] }>('/api/jobs')).jobs.find((j) => j.id === job.id)!
    if (now.state === 'done') break
    rows = now.soFar?.rows ?? rows
    await new Promise((resolve) => setTimeout(resolve, 10))
  }
  expect(rows.length).toBeGreaterThan(0)
  expect(rows[0]!.title).toBe('Reading the rain gauge')
  expect((await app.ask(`/api/files/${rows[0]!.thumbnail}.webp`)).status).toBe(200)
})

describe('text, pictures and zips', () => {
  test('a deck written as text: slides between rules, notes as scripts', async () => {
    const text = '# Rain\n\n- first\n- **second**\n\nNotes: What is said.\n---\n# How much\n\nText\n---\n```\na --- b\n---\n```\n'
    const { lecture } = await imported(file('rain.md', text))
    expect(lecture.slides.map((s) => [s.title, s.script])).toEqual([
      ['Rain', 'What is said.'],
      ['How much', ''],
      ['a --- b\n---', ''],
    ])
    expect(lecture.slides[0]!.steps[0]).toMatchObject({ width: 1920, height: 1080 })
  })
  test('points and headings on which nothing is written are drawn as empty lines', async () => {
    const { lecture } = await imported(file('gaps.md', '# Rain\n\n-\n- \n- ![](gone.png)\n\n## \n\n> -\n\n1.\n\n---\n\n#\n\n-\n'))
    expect(lecture.slides.map((s) => s.title)).toEqual(['Rain', ''])
  })
  test('a deck written as text brings its pictures in the same drop; one that is missing is named', async () => {
    const text = '# Where it stands\n\nIn the open.\n\n![A gauge on a lawn](lawn.png)\n\n---\n\n# Gone\n\n![x](nowhere.png)\n'
    const { lecture } = await imported(file('talk.md', text), file('lawn.png', picture))
    expect(lecture.slides).toHaveLength(2)
    expect(lecture.slides[0]!.warnings).toEqual([])
    expect(lecture.slides[0]!.altText).toContain('A gauge on a lawn')
    const drawn = await app.ask(`/api/files/${lecture.slides[0]!.steps[0]!.picture}.png`)
    const { data, info } = await sharp(await drawn.arrayBuffer())
      .raw()
      .toBuffer({ resolveWithObject: true })
    // the middle of the picture's place, beside the text
    const at = (650 * info.width + 1395) * info.channels
    expect([...data.subarray(at, at + 3)]).toEqual([0x7a, 0x9a, 0x6b])
    expect(inWords(lecture.slides[1]!.warnings[0])).toContain('“nowhere.png” is not among the files')
  })
  test('a zip of pictures, in the natural order of their names', async () => {
    const red = await sharp({ create: { width: 64, height: 36, channels: 3, background: '#ff0000' } })
      .png()
      .toBuffer()
    const zip = zipSync({
      'a/10 last.png': red,
      'a/2 first.png': picture,
      '__MACOSX/a/2 first.png': picture,
      'notes.txt': strToU8('x'),
    })
    const { lecture } = await imported(file('pictures.zip', zip))
    expect(lecture.slides.map((s) => s.title)).toEqual(['first', 'last'])
  })
  test('drawings without pixels, newer formats, the first picture of an animation', async () => {
    const svg =
      '<svg xmlns="http://www.w3.org/2000/svg" width="160" height="90"><script>alert(1)</script><image href="file:///etc/passwd" width="9" height="9"/><rect width="160" height="90" fill="#00aa00"/></svg>'
    const avif = await sharp(picture).avif({ effort: 0 }).toBuffer()
    const gif = await sharp(picture).gif().toBuffer()
    const { lecture } = await imported(file('1.svg', svg), file('2.avif', avif), file('3.gif', gif))
    expect(lecture.slides).toHaveLength(3)
    expect(lecture.slides[0]!.steps[0]).toMatchObject({ width: 1920, height: 1080 })
    const drawn = await app.ask(`/api/files/${lecture.slides[0]!.steps[0]!.picture}.png`)
    const { dominant } = await sharp(await drawn.arrayBuffer()).stats()
    expect(dominant.g).toBeGreaterThan(150)
  })
})

describe('bad files get a sentence, and nothing is left behind', () => {
  test('decks', async () => {
    const good = await makeDeck({ picture })
    expect(await refusal(file('cut.pptx', good.subarray(0, good.length - 400)))).toMatch(/“cut.pptx” is (cut short|damaged)/)
    expect(await refusal(file('half.pptx', good.subarray(0, 4000)))).toMatch(/cut short/)
    expect(await refusal(file('other.pptx', zipSync({ 'readme.txt': strToU8('hello') })))).toMatch(/neither a deck/)
    expect(
      await refusal(
        file('notes.docx', zipSync({ '[Content_Types].xml': strToU8('<a/>'), '_rels/.rels': strToU8('<Relationships/>') })),
      ),
    ).toMatch(/no presentation, whatever its name says/)
    expect(
      await refusal(file('a.pdf', demoFile('clouds-by-their-shapes.pdf')), file('b.pptx', good), file('c.pptx', good)),
    ).toMatch(/one deck/)
    expect(await refusal(file('alone.wav', wav(1)))).toMatch(/sounds alone/)
    expect(await refusal(file('empty.md', '\n\n'))).toMatch(/says nothing/)
  })
  test('zips that climb out of their folder, burst, or bring entities', async () => {
    expect(await refusal(file('up.zip', zipSync({ '../../x.png': new Uint8Array(picture) })))).toMatch(/outside its folder/)
    const burst = zipSync({ 'a.png': new Uint8Array(60_000_000) }, { level: 9 })
    expect(await refusal(file('burst.zip', burst))).toMatch(/would burst/)
    const files = {
      '[Content_Types].xml': strToU8('<a/>'),
      '_rels/.rels': strToU8('<!DOCTYPE x [<!ENTITY a "b">]><Relationships>&a;</Relationships>'),
    }
    expect(await refusal(file('entity.pptx', zipSync(files)))).toMatch(/entities of its own/)
  })
  test('a sound that is linked and not inside is named as missing', async () => {
    const { unzipSync } = await import('fflate')
    const parts = unzipSync(await makeDeck({ picture, sound: { bytes: wav(1), extension: 'wav' } }))
    const rels = 'ppt/slides/_rels/slide2.xml.rels'
    parts[rels] = strToU8(
      Buffer.from(parts[rels]!)
        .toString()
        .replace(/Target="\.\.\/media\/media-2-1\.wav"/g, 'Target="file:///C:/My%20voice.wav" TargetMode="External"'),
    )
    const { lecture } = await imported(file('linked.pptx', zipSync(parts)))
    expect(inWords(lecture.slides[1]!.warnings[0])).toContain('“My voice.wav” is not in the deck')
    expect(checks(lecture).find((c) => c.kind === 'from-deck')!.advice).toContain('Drop that file onto this slide')
    expect(lecture.slides[1]!.takes).toEqual([])
  })
})

test('a new version of the deck: changed pictures, new and missing slides are told; taken over, the voice stays', async () => {
  const deckOf = (...slides: [string, string][]) =>
    file('deck.md', slides.map(([title, text]) => `# ${title}\n\n${text}\n`).join('\n---\n\n'))
  const { lecture } = await imported(
    deckOf(
      ['Rain', 'falls on the hills'],
      ['Gauges', 'are made of copper'],
      ['Snow', 'melts in spring'],
      ['Thanks', 'for your patience'],
    ),
  )
  const take = await app.record(lecture.slides[1]!.id, madeTake().samples)
  await app.json('PATCH', `/api/slides/${lecture.slides[1]!.id}`, { script: 'Copper it is.' })
  const form = new FormData()
  form.append('files', file('README.txt', 'About this deck.'))
  form.append(
    'files',
    deckOf(
      ['Rain', 'falls on the hills'],
      ['Gauges', 'are made of copper or of glass'],
      ['Hail', 'breaks windows'],
      ['Thanks', 'for your patience'],
    ),
  )
  const { job } = (await (await app.ask(`/api/lectures/${lecture.id}/decks`, { method: 'POST', body: form })).json()) as {
    job: { id: string }
  }
  const { replacementId, unmatched } = (await app.ended(job.id)).result as { replacementId: string; unmatched: string[] }
  expect(unmatched).toEqual(['README.txt'])
  const found = await app.read<FoundReplacement>(`/api/lectures/replacements/${replacementId}`)
  expect(found.changed.map((c) => c.slideId)).toEqual([lecture.slides[1]!.id])
  expect(found.added).toEqual([{ page: 2, afterSlideId: lecture.slides[1]!.id }])
  expect(found.removed).toEqual([lecture.slides[2]!.id])
  // nothing has changed before somebody decided
  expect((await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides.map((s) => s.title)).toEqual([
    'Rain',
    'Gauges',
    'Snow',
    'Thanks',
  ])

  const answer = await app.json('POST', `/api/lectures/replacements/${replacementId}`, {
    changed: [lecture.slides[1]!.id],
    added: [2],
  })
  const made = (await answer.json()) as { steps: { slideId: string; stepIds: string[] }[]; slideIds: string[] }
  await app.json('PUT', '/api/slides/steps', {
    slides: made.steps.map((s) => ({ id: s.slideId, steps: s.stepIds, deleted: false })),
  })
  for (const id of made.slideIds) await app.json('PUT', `/api/slides/${id}/deleted`, { deleted: false })
  await app.json('PUT', `/api/slides/${lecture.slides[2]!.id}/deleted`, { deleted: true })
  await app.idle()
  const now = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  expect(now.slides.map((s) => s.title)).toEqual(['Rain', 'Gauges', 'Hail', 'Thanks'])
  expect(now.slides[1]!.keptTakeId).toBe(take)
  expect(now.slides[1]!.script).toBe('Copper it is.')
  expect(now.slides[1]!.steps[0]!.picture).not.toBe(lecture.slides[1]!.steps[0]!.picture)

  // after a month its pictures are let go: then it is not offered any more, rather than without them
  const days = (count: number) => Date.now() + count * 24 * 3600_000
  await sweep(app.context, undefined, days(29))
  expect((await app.ask(`/api/lectures/replacements/${replacementId}`)).status).toBe(200)
  for (const page of found.pages) expect(await app.context.store.has(page.picture)).toBe(true)
  await sweep(app.context, undefined, days(31))
  const late = await app.ask(`/api/lectures/replacements/${replacementId}`)
  expect(late.status).toBe(404)
  expect(await late.json()).toMatchObject({ error: 'The new deck is not there any more. Drop it once more.' })
})
