/** OpenDocument presentations, through the app. */

import { strToU8, zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { say } from '#core/words/say.ts'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'

let app: TestApp
let picture: Buffer
beforeAll(async () => {
  app = await openTestApp()
  picture = await sharp({ create: { width: 320, height: 200, channels: 3, background: '#7a9a6b' } })
    .png()
    .toBuffer()
})
afterAll(() => app.end())

const imported = (deck: File) => app.imported(deck)

const odp = (content: string, more: Record<string, Uint8Array> = {}) =>
  zipSync({
    mimetype: strToU8('application/vnd.oasis.opendocument.presentation'),
    'content.xml': strToU8(
      `<?xml version="1.0"?><office:document-content xmlns:office="o" xmlns:draw="d" xmlns:text="t" xmlns:presentation="p" xmlns:style="s" xmlns:svg="v" xmlns:fo="f" xmlns:xlink="x" xmlns:table="b" xmlns:anim="a">
<office:automatic-styles><style:style style:name="dp1" style:family="drawing-page"><style:drawing-page-properties presentation:transition-type="automatic" presentation:duration="PT00H00M07S"/></style:style>
<style:style style:name="dp2" style:family="drawing-page"><style:drawing-page-properties presentation:visibility="hidden"/></style:style></office:automatic-styles>
<office:body><office:presentation>${content}</office:presentation></office:body></office:document-content>`,
    ),
    ...more,
  })
const page = (title: string, notes: string, style: string) =>
  `<draw:page draw:name="p" draw:style-name="${style}"><draw:frame presentation:class="title" svg:x="1cm" svg:y="1cm" svg:width="20cm" svg:height="3cm"><draw:text-box><text:p>Hold <text:span>it</text:span> ${title}</text:p></draw:text-box></draw:frame>
<presentation:notes><draw:frame presentation:class="notes"><draw:text-box><text:p>${notes}</text:p></draw:text-box></draw:frame></presentation:notes></draw:page>`
test('titles, notes, hidden slides and times come with it', async () => {
  const { lecture } = await imported(file('deck.odp', odp(page('upright', 'Say this.', 'dp1') + page('again', '', 'dp2'))))
  expect(lecture.slides.map((s) => [s.title, s.script, s.hidden, s.timing.holdSeconds])).toEqual([
    ['Hold it upright', 'Say this.', false, 7],
    ['Hold it again', '', true, undefined],
  ])
})
test('a slide has the size of its own master, and not of what is handed out (part 3, §16.5 and §16.9)', async () => {
  const layout = (name: string, width: number, height: number) =>
    `<style:page-layout style:name="${name}"><style:page-layout-properties fo:page-width="${width}cm" fo:page-height="${height}cm"/></style:page-layout>`
  const styles = strToU8(
    `<?xml version="1.0"?><office:document-styles xmlns:office="o" xmlns:style="s" xmlns:fo="f"><office:automatic-styles>${layout('handed', 21, 29.7)}${layout('shown', 32, 18)}</office:automatic-styles><office:master-styles><style:handout-master style:page-layout-name="handed"/><style:master-page style:name="Plain" style:page-layout-name="shown"/></office:master-styles></office:document-styles>`,
  )
  const content = page('upright', '', 'dp1').replace('<draw:page ', '<draw:page draw:master-page-name="Plain" ')
  // a slide that names no master has the first one's
  const without = page('again', '', 'dp1')
  const { lecture } = await imported(file('wide.odp', odp(content + without, { 'styles.xml': styles })))
  for (const { steps } of lecture.slides) expect(steps[0]).toMatchObject({ width: 1920, height: 1080 })
})
test('a table is drawn itself, of pictures the one that can be read; what cannot be drawn and what is not played are told', async () => {
  const emf = new Uint8Array(60)
  emf.set([1, 0, 0, 0])
  emf.set(strToU8(' EMF'), 40)
  const frame = (y: number, inside: string) =>
    `<draw:frame svg:x="1cm" svg:y="${y}cm" svg:width="9cm" svg:height="3cm">${inside}</draw:frame>`
  const image = (part: string) => `<draw:image xlink:href="${part}"/>`
  const cell = '<table:table-cell><text:p>rain</text:p></table:table-cell>'
  const pages = [
    frame(4, `<table:table><table:table-row>${cell}${cell}</table:table-row></table:table>${image('Pictures/preview.svm')}`),
    frame(4, `${image('Pictures/drawing.emf')}${image('Pictures/drawing.png')}`),
    frame(4, `<draw:plugin draw:mime-type="video/mp4"/>${image('Pictures/drawing.png')}`) +
      frame(8, '<draw:plugin draw:mime-type="audio/mpeg"/>'),
    frame(4, image('Pictures/drawing.emf')) + frame(8, image('Pictures/elsewhere.png')) + frame(12, image('Pictures/broken.png')),
    frame(4, `<draw:object xlink:href="./Object 1"/>${image('ObjectReplacements/Object 1')}`),
    '<anim:par presentation:node-type="timing-root"><anim:par presentation:preset-class="entrance"/><anim:par presentation:preset-class="exit"/></anim:par>',
  ]
  const content = pages.map((inside) => `<draw:page draw:name="p">${inside}</draw:page>`).join('')
  const files = {
    'Pictures/drawing.emf': emf,
    'Pictures/drawing.png': new Uint8Array(picture),
    'Pictures/broken.png': new Uint8Array(picture).subarray(0, 30),
    'ObjectReplacements/Object 1': emf,
  }
  const { lecture } = await imported(file('frames.odp', odp(content, files)))
  expect(lecture.slides.map((slide) => slide.warnings.map((warning) => say(warning)))).toEqual([
    [],
    [],
    ['A film on this slide is shown as its first picture only.', 'An embedded object could not be drawn.'],
    [
      'A picture is not in the deck but linked from elsewhere, so it is missing. Put it into the deck, or add the PDF of it.',
      'A drawing (EMF) could not be drawn.',
      'A picture (PNG) could not be read, so it is missing.',
    ],
    ['A chart or an embedded object could not be drawn.'],
    [
      '2 animations of this slide are not shown: a movement that leaves nothing behind, or something to be pressed. Where it matters, add a picture for each step.',
    ],
  ])
  const inked = async (slide: number) => {
    const drawn = await app.ask(`/api/files/${lecture.slides[slide]!.steps[0]!.picture}.png`)
    return (await sharp(await drawn.arrayBuffer()).stats()).channels.some(({ min }) => min < 200)
  }
  expect([await inked(0), await inked(1)]).toEqual([true, true])
})
