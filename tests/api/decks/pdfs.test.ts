/** PDFs, through the app: labels, outlines, forms, notes, pages that build up. */

import sharp from 'sharp'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { checks } from '#core/edition/checks/checks.ts'
import { file, openTestApp, type TestApp } from '#tests/api/harness.ts'

let app: TestApp
beforeAll(async () => {
  app = await openTestApp()
})
afterAll(() => app.end())

const imported = (...files: File[]) => app.imported(...files)

test('a page without words is called by its label', async () => {
  const object = (n: number, body: string) => `${n} 0 obj\n${body}\nendobj\n`
  const page = '<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]>>'
  const labels = '/PageLabels<</Nums[0<</S/r>>2<</S/D/P(A-)>>]>>'
  const pdf = (catalog: string) =>
    `%PDF-1.4\n${object(1, `<</Type/Catalog/Pages 2 0 R${catalog}>>`)}${object(2, '<</Type/Pages/Kids[3 0 R 4 0 R 5 0 R]/Count 3>>')}${[3, 4, 5].map((n) => object(n, page)).join('')}trailer<</Root 1 0 R>>\n`
  const titles = async (catalog: string) =>
    (await imported(file('labelled.pdf', pdf(catalog)))).lecture.slides.map((s) => s.title)
  expect(await titles(labels)).toEqual(['Page i', 'Page ii', 'Page A-1'])
  expect(await titles('')).toEqual(['', '', ''])
})

test('the outline of a PDF divides its lecture, unless it names nearly every page; its own title is that of the lecture', async () => {
  const object = (n: number, body: string) => `${n} 0 obj\n${body}\nendobj\n`
  const pages = [10, 11, 12, 13]
  const pdf = (headings: [title: string, page: number][]) => {
    const entries = headings.map(([title, page], i) => {
      const next = i + 1 < headings.length ? `/Next ${21 + i} 0 R` : ''
      return object(20 + i, `<</Title(${title})/Parent 5 0 R/Dest[${pages[page]} 0 R/Fit]${next}>>`)
    })
    const outline = object(5, `<</Type/Outlines/First 20 0 R/Last ${19 + headings.length} 0 R/Count ${headings.length}>>`)
    return `%PDF-1.4\n${object(1, '<</Type/Catalog/Pages 2 0 R/Outlines 5 0 R>>')}${object(2, `<</Type/Pages/Kids[${pages.map((n) => `${n} 0 R`).join(' ')}]/Count 4>>`)}${outline}${entries.join('')}${pages.map((n) => object(n, '<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]>>')).join('')}${object(6, '<</Title(Rain and its gauges)>>')}trailer<</Root 1 0 R/Info 6 0 R>>\n`
  }
  const { lecture } = await imported(
    file(
      'out.pdf',
      pdf([
        ['The gauge', 0],
        ['In the garden', 2],
      ]),
    ),
  )
  expect(lecture.title).toBe('Rain and its gauges')
  expect(lecture.slides.map((slide) => slide.section)).toEqual(['The gauge', '', 'In the garden', ''])
  const every = await imported(file('every.pdf', pdf([0, 1, 2, 3].map((page) => [`Page ${page}`, page]))))
  expect(every.lecture.slides.map((slide) => slide.section)).toEqual(['', '', '', ''])
})

test('what was filled into a form of a PDF is drawn (ISO 32000-1, §12.7.4)', async () => {
  const object = (n: number, body: string) => `${n} 0 obj\n${body}\nendobj\n`
  const filled = (value: string) =>
    `%PDF-1.4\n${object(1, '<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[4 0 R]/NeedAppearances true/DR<</Font<</Helv 5 0 R>>>>/DA(/Helv 40 Tf 0 g)>>>>')}${object(2, '<</Type/Pages/Kids[3 0 R]/Count 1>>')}${object(3, '<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]/Annots[4 0 R]>>')}${object(4, `<</Type/Annot/Subtype/Widget/FT/Tx/T(rain)/V(${value})/Rect[100 200 800 300]/P 3 0 R/F 4/DA(/Helv 40 Tf 0 g)>>`)}${object(5, '<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>')}trailer<</Root 1 0 R>>\n`
  const { lecture } = await imported(file('form.pdf', filled('61 mm in May')))
  const answer = await app.ask(`/api/files/${lecture.slides[0]!.steps[0]!.picture}.png`)
  const { channels } = await sharp(Buffer.from(await answer.arrayBuffer())).stats()
  expect(channels[0]!.min).toBeLessThan(60)
})

test('notes on the pages of a PDF become scripts, and their signs are not drawn', async () => {
  const object = (n: number, body: string) => `${n} 0 obj\n${body}\nendobj\n`
  const noted = (note: string) =>
    `%PDF-1.4\n${object(1, '<</Type/Catalog/Pages 2 0 R>>')}${object(2, '<</Type/Pages/Kids[3 0 R]/Count 1>>')}${object(3, `<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]/Annots[${note}]>>`)}trailer<</Root 1 0 R>>\n`
  const sign = '<</Type/Annot/Subtype/Text/Rect[100 400 124 424]/Contents(Say this first.)/Name/Note/C[1 0 0]>>'
  const { lecture } = await imported(file('noted.pdf', noted(sign)))
  expect(lecture.slides[0]!.script).toBe('Say this first.')
  const plain = await imported(file('plain.pdf', noted('')))
  expect(lecture.slides[0]!.steps[0]!.picture).toBe(plain.lecture.slides[0]!.steps[0]!.picture)
})

test('pages that build up are told of, and become steps of one slide', async () => {
  const object = (n: number, body: string) => `${n} 0 obj\n${body}\nendobj\n`
  const contents = [
    '100 400 400 60 re f',
    '100 400 400 60 re f 100 250 300 40 re f',
    '100 400 400 60 re f 100 250 300 40 re f 100 150 300 40 re f',
    '600 100 200 300 re f',
  ]
  const pages = contents.map(
    (c, i) =>
      object(10 + i, `<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]/Contents ${20 + i} 0 R>>`) +
      object(20 + i, `<</Length ${c.length}>>stream\n${c}\nendstream`),
  )
  const pdf = `%PDF-1.4\n${object(1, '<</Type/Catalog/Pages 2 0 R>>')}${object(2, `<</Type/Pages/Kids[${contents.map((_, i) => `${10 + i} 0 R`).join(' ')}]/Count 4>>`)}${pages.join('')}trailer<</Root 1 0 R>>\n`
  const { lecture } = await imported(file('built.pdf', pdf))
  expect(lecture.slides.map((s) => s.buildsOn)).toEqual([false, true, true, false])
  const check = checks(lecture).find((c) => c.kind === 'builds-up')!
  expect(check.finding).toBe('Slides 1 to 3 build up one picture')
  expect(check.fix!.join).toEqual({ into: lecture.slides[0]!.id, from: [lecture.slides[1]!.id, lecture.slides[2]!.id] })
})
