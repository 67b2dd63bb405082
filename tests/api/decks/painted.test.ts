/** How presentation files are painted: text at its size, colours by styles, charts, tables, groups, drawings. Decks are made by a general library. */
import { createCanvas } from '@napi-rs/canvas'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type PptxGenJS from 'pptxgenjs'
import { describe, expect, test } from 'vitest'
import type { DeckSlide, DrawnItem, Fill, TextBox } from '#core/deck/deck.ts'
import { readOpenDocument } from '#core/deck/odf/presentation.ts'
import { readPresentation } from '#core/deck/ooxml/presentation.ts'
import { say } from '#core/words/say.ts'
import { paintChart } from '#server/import/paint-chart.ts'
import { paintDrawing, picturesOf } from '#server/import/paint-deck.ts'
import { placeText } from '#server/import/paint-text.ts'

type Shaped = DrawnItem & { kind: 'shape' }

/** A deck of one slide. @param change the XML of the slide and of what belongs to it, by their names */
async function slideOf(
  fill: (slide: PptxGenJS.Slide, deck: PptxGenJS) => void,
  change: (files: Record<string, string>) => Record<string, string | Uint8Array> = () => ({}),
): Promise<{ slide: DeckSlide; files: Map<string, Uint8Array> }> {
  const { default: Pptx } = await import('pptxgenjs')
  const deck = new (Pptx as unknown as { new (): PptxGenJS })()
  fill(deck.addSlide(), deck)
  const parts = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  const texts: Record<string, string> = Object.fromEntries(
    Object.entries(parts).map(([name, bytes]) => [name, /\.(xml|rels)$/.test(name) ? strFromU8(bytes) : '']),
  )
  for (const [name, text] of Object.entries(change(texts)))
    parts[name] = typeof text === 'string' ? strToU8(text) : new Uint8Array(text)
  const files = new Map(Object.entries(parts))
  return { slide: readPresentation(files, 'd.pptx').slides[0]!, files }
}
const SLIDE = 'ppt/slides/slide1.xml'
const shapes = (slide: DeckSlide) => slide.drawing.items.filter((item): item is Shaped => item.kind === 'shape')
const textWith = (slide: DeckSlide, words: string) =>
  shapes(slide).find((item) => item.text?.paragraphs.some((p) => p.runs.some((run) => run.text.includes(words))))!
const context = createCanvas(1, 1).getContext('2d')
const placed = ({ box, text }: Shaped) => placeText(context, text!, box.width, box.height, '')
/** How much of a colour a picture has, as a share. */
function share(rgba: Uint8Array, [r, g, b]: [number, number, number]): number {
  let count = 0
  for (let i = 0; i < rgba.length; i += 4)
    if (Math.abs(rgba[i]! - r) + Math.abs(rgba[i + 1]! - g) + Math.abs(rgba[i + 2]! - b) < 30) count++
  return count / (rgba.length / 4)
}
const paint = async (slide: DeckSlide, files: ReadonlyMap<string, Uint8Array>) =>
  (
    await paintDrawing(
      slide.drawing,
      picturesOf(async (part) => files.get(part) ?? null),
    )
  ).rgba

describe('text', () => {
  const LONG = 'A gauge stands in the open, twice as far from a tree as the tree is high, and level. '.repeat(6)
  const fitted = async (fit: string) => {
    const { slide } = await slideOf(
      (one) => one.addText(LONG, { x: 1, y: 1, w: 4, h: 1, fontSize: 20 }),
      (files) => ({
        [SLIDE]: files[SLIDE]!.replace(/<a:bodyPr([^>]*)>.*?<\/a:bodyPr>|<a:bodyPr([^>]*)\/>/, `<a:bodyPr$1$2>${fit}</a:bodyPr>`),
      }),
    )
    return textWith(slide, 'gauge')
  }
  test('is as large as its file says, though it runs over its box', async () => {
    for (const fit of ['<a:noAutofit/>', '<a:spAutoFit/>', '']) expect(placed(await fitted(fit)).scale).toBe(1)
  })
  test('is as small as its writer made it, and no smaller', async () =>
    expect(placed(await fitted('<a:normAutofit fontScale="62500" lnSpcReduction="20000"/>')).scale).toBe(0.625))
  test('is made to fit where its writer left that to the reader', async () => {
    const item = await fitted('<a:normAutofit/>')
    const { lines, scale } = placed(item)
    expect(scale).toBeLessThan(0.9)
    const last = lines.at(-1)!
    expect(last.top + last.high).toBeLessThan(item.box.height * 1.03)
  })
  test('stands after its bullet where the bullet has no room of its own, and in the middle with it', async () => {
    const { slide } = await slideOf(
      (one) => {
        one.addText([{ text: 'Funnel', options: { bullet: { indent: 0 } } }], { x: 1, y: 1, w: 4, h: 1 })
        one.addText([{ text: 'Middle', options: { bullet: { indent: 0 }, align: 'center' } }], { x: 1, y: 2, w: 4, h: 1 })
      },
      (files) => ({ [SLIDE]: files[SLIDE]!.replace(/marL="\d+" indent="-?\d+"/g, 'marL="0" indent="0"') }),
    )
    const item = textWith(slide, 'Funnel')
    const [line] = placed(item).lines
    expect(line!.x).toBeGreaterThan(item.text!.inset.left + 10)
    const middle = textWith(slide, 'Middle')
    const [own] = placed(middle).lines
    const ends = own!.x + own!.line.width
    // the sign before it takes as much room on the left as is free on the right
    expect(own!.x).toBeGreaterThan(middle.box.width - ends)
  })
  test('takes the colour of its shape’s style before that of the deck', async () => {
    const style =
      '<p:style><a:lnRef idx="0"><a:schemeClr val="accent1"/></a:lnRef><a:fillRef idx="1"><a:schemeClr val="accent1"/></a:fillRef><a:effectRef idx="0"><a:schemeClr val="accent1"/></a:effectRef><a:fontRef idx="minor"><a:srgbClr val="FFFFFF"/></a:fontRef></p:style>'
    const { slide } = await slideOf(
      (one) => one.addText('On a ground', { x: 1, y: 1, w: 4, h: 1 }),
      (files) => ({
        [SLIDE]: files[SLIDE]!.replace('</p:spPr>', `</p:spPr>${style}`).replace(
          /<a:solidFill>.*?<\/a:solidFill>(?=<\/a:rPr>|<a:latin)/g,
          '',
        ),
      }),
    )
    expect(textWith(slide, 'ground').text!.paragraphs[0]!.runs[0]!.colour).toBe('rgba(255, 255, 255, 1)')
  })
  test('upright text is turned, and set along the height of its shape', async () => {
    const { slide } = await slideOf((one) => one.addText('Upright', { x: 1, y: 1, w: 1, h: 4, vert: 'vert270' }))
    expect(textWith(slide, 'Upright').text!.turn).toBe(-90)
  })
  test('a word longer than its box goes on in the next line; two words at a stroke stay together', () => {
    const run = {
      size: 20,
      bold: false,
      italic: false,
      underline: false,
      strike: false,
      colour: '#000',
      face: 'arimo' as const,
      raise: 0,
    }
    const textOf = (text: string): TextBox => ({
      paragraphs: [
        {
          runs: [{ ...run, text }],
          align: 'left',
          left: 0,
          indent: 0,
          bullet: null,
          bulletColour: null,
          bulletSize: 1,
          lineSpacing: 1,
          before: 0,
          after: 0,
          rightToLeft: false,
        },
      ],
      anchor: 'top',
      inset: { left: 0, top: 0, right: 0, bottom: 0 },
      wrap: true,
      scale: 1,
      shrinks: false,
      turn: 0,
    })
    const linesOf = (text: string, width: number) =>
      placeText(context, textOf(text), width, 100, '').lines.map(({ line }) => line.pieces.map((piece) => piece.text).join(''))
    const broken = linesOf('Regenmessgerätehalterung', 100)
    expect(broken.length).toBeGreaterThan(1)
    expect(broken.join('')).toBe('Regenmessgerätehalterung')
    expect(linesOf('rain and/or snow', 90)).toEqual(['rain', 'and/or', 'snow'])
  })
})

describe('charts', () => {
  test.each([
    ['bar', 'bar'],
    ['line', 'line'],
    ['area', 'area'],
    ['pie', 'pie'],
    ['doughnut', 'doughnut'],
    ['radar', 'radar'],
    ['scatter', 'scatter'],
    ['bubble', 'bubble'],
  ] as const)('%s: its values, names and colours are read, and it is drawn', async (made, kind) => {
    const values = [4, 7, 2]
    const data =
      made === 'scatter' || made === 'bubble'
        ? [
            { name: 'X', values: [1, 2, 3] },
            { name: 'Rain', values, ...(made === 'bubble' ? { sizes: [1, 4, 9] } : {}) },
          ]
        : [{ name: 'Rain', labels: ['Spring', 'Summer', 'Autumn'], values }]
    const { slide } = await slideOf((one) =>
      one.addChart(made as PptxGenJS.CHART_NAME, data, {
        x: 1,
        y: 1,
        w: 6,
        h: 4,
        chartColors: ['A93428', '17594A', '3D5A73'],
        showLegend: true,
      }),
    )
    const item = slide.drawing.items.find((one) => one.kind === 'chart')!
    expect(slide.warnings).toEqual([])
    expect(item.chart.series.at(-1)).toMatchObject({ kind, name: 'Rain', values })
    if (kind === 'bubble') expect(item.chart.series[0]!.sizes).toEqual([1, 4, 9])
    const canvas = paintChart(item.chart, item.box.width, item.box.height)
    // one that reaches far beyond its slide takes no more room than can be seen
    expect(paintChart(item.chart, 1e6, 300)).toMatchObject({ width: 4096, height: 300 })
    const { data: pixels } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height)
    let inked = 0
    for (let i = 3; i < pixels.length; i += 4) if (pixels[i]! > 128) inked++
    expect(inked / (canvas.width * canvas.height)).toBeGreaterThan(0.002)
  })
  test('bars stand as high as their values', async () => {
    const { slide, files } = await slideOf((one) =>
      one.addChart('bar' as PptxGenJS.CHART_NAME, [{ name: 'Rain', labels: ['a', 'b'], values: [8, 2] }], {
        ...{ x: 0, y: 0, w: 10, h: 5.6, chartColors: ['A93428'], valAxisMaxVal: 10, valAxisMinVal: 0 },
      }),
    )
    const rgba = await paint(slide, files)
    const { width, height } = slide.drawing
    const redIn = (from: number, to: number) => {
      let count = 0
      for (let y = 0; y < height; y++)
        for (let x = from; x < to; x++)
          if (Math.abs(rgba[4 * (y * width + x)]! - 0xa9) + rgba[4 * (y * width + x) + 1]! < 90) count++
      return count
    }
    expect(redIn(0, width / 2) / redIn(width / 2, width)).toBeCloseTo(4, 0)
  })
})

test('a table has the look that its style in the deck gives it', async () => {
  const id = '{11111111-2222-3333-4444-555555555555}'
  const fill = (colour: string) =>
    `<a:tcStyle><a:tcBdr/><a:fill><a:solidFill><a:srgbClr val="${colour}"/></a:solidFill></a:fill></a:tcStyle>`
  const style = `<a:tblStyle styleId="${id}" styleName="Ours"><a:wholeTbl><a:tcTxStyle><a:srgbClr val="1D2A2E"/></a:tcTxStyle>${fill('F4F1E8')}</a:wholeTbl><a:band1H>${fill('DDE7E2')}</a:band1H><a:firstRow><a:tcTxStyle b="on"><a:srgbClr val="FFFFFF"/></a:tcTxStyle>${fill('17594A')}</a:firstRow></a:tblStyle>`
  const { slide } = await slideOf(
    (one) =>
      one.addTable(
        [
          [{ text: 'Month' }, { text: 'Rain' }],
          [{ text: 'May' }, { text: '61' }],
          [{ text: 'June' }, { text: '48' }],
        ],
        { x: 1, y: 1, w: 6 },
      ),
    (files) => ({
      [SLIDE]: files[SLIDE]!.replace(
        /<a:tblPr[^>]*\/?>(.*?<\/a:tblPr>)?/,
        `<a:tblPr firstRow="1" bandRow="1"><a:tableStyleId>${id}</a:tableStyleId></a:tblPr>`,
      ).replace(/<a:rPr[^>]*>.*?<\/a:rPr>|<a:rPr[^>]*\/>/g, ''),
      'ppt/tableStyles.xml': `<a:tblStyleLst xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" def="${id}">${style}</a:tblStyleLst>`,
    }),
  )
  const cell = (words: string) => {
    const { fill: ground, text } = textWith(slide, words)
    const [run] = text!.paragraphs[0]!.runs
    return { ground: ground?.kind === 'solid' ? ground.colour : null, letters: run!.colour, bold: run!.bold }
  }
  expect(cell('Month')).toEqual({ ground: 'rgba(23, 89, 74, 1)', letters: 'rgba(255, 255, 255, 1)', bold: true })
  expect(cell('May')).toEqual({ ground: 'rgba(221, 231, 226, 1)', letters: 'rgba(29, 42, 46, 1)', bold: false })
  expect(cell('June')).toMatchObject({ ground: 'rgba(244, 241, 232, 1)' })
})

test('a group is turned and mirrored as one', async () => {
  const { slide } = await slideOf(
    (one) => one.addShape('rect' as PptxGenJS.SHAPE_NAME, { x: 1, y: 1, w: 2, h: 1, fill: { color: '17594A' } }),
    (files) => {
      const [shape] = /<p:sp>.*?<\/p:sp>/s.exec(files[SLIDE]!)!
      const inch = 914_400
      const group = (turn: string) =>
        `<p:grpSp><p:nvGrpSpPr><p:cNvPr id="90" name="g"/><p:cNvGrpSpPr/><p:nvPr/></p:nvGrpSpPr><p:grpSpPr><a:xfrm ${turn}><a:off x="${inch}" y="${inch}"/><a:ext cx="${4 * inch}" cy="${inch}"/><a:chOff x="${inch}" y="${inch}"/><a:chExt cx="${4 * inch}" cy="${inch}"/></a:xfrm></p:grpSpPr>${shape}</p:grpSp>`
      return { [SLIDE]: files[SLIDE]!.replace(shape, `${group('rot="5400000"')}${group('flipH="1"')}`) }
    },
  )
  const [turned, mirrored] = shapes(slide).map(({ box }) => ({ ...box, x: box.x / 192, y: box.y / 192 }))
  // at the left of a group four inches wide; a quarter turn brings it above the middle
  expect(turned).toMatchObject({ rotation: 90, x: expect.closeTo(2), y: expect.closeTo(0) })
  expect(mirrored).toMatchObject({ flipX: true, x: expect.closeTo(3), y: expect.closeTo(1) })
})

/** A drawing in orders: one filled square, after [MS-EMF], §2.3. */
function madeEmf(more: number[][] = []): Uint8Array {
  const records: number[][] = [
    // a solid red brush (39), chosen (37), and a rectangle (43) from 20 to 80 of 100
    [39, 24, 1, 0, 0x000000ff, 0],
    [37, 12, 1],
    [43, 24, 20, 20, 80, 80],
    ...more,
    [14, 20, 0, 16, 20],
  ]
  const header = [1, 88, 0, 0, 100, 100, 0, 0, 2646, 2646, 0x464d4520, 0x10000]
  const size = 88 + records.reduce((sum, record) => sum + record[1]!, 0)
  const words = [...header, size, records.length + 1, 2, 0, 0, 0, 1920, 1080, 508, 286, ...records.flat()]
  return new Uint8Array(Int32Array.from(words).buffer)
}

test('a drawing in orders is drawn; what of it cannot be is told', async () => {
  const picture =
    'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='
  const made = (bytes: Uint8Array) =>
    slideOf(
      (one) => one.addImage({ data: picture, x: 0, y: 0, w: 5, h: 5 }),
      (files) => {
        const rels = 'ppt/slides/_rels/slide1.xml.rels'
        return { [rels]: files[rels]!.replace(/media\/[^"]+\.png/, 'media/drawing.emf'), 'ppt/media/drawing.emf': bytes }
      },
    )
  const good = await made(madeEmf())
  const red = share(await paint(good.slide, good.files), [255, 0, 0])
  // 0.6 by 0.6 of five by five inches, of ten by 5.625
  expect(red).toBeCloseTo((3 * 3) / (10 * 5.625), 1)
  expect(
    (
      await paintDrawing(
        good.slide.drawing,
        picturesOf(async (part) => good.files.get(part) ?? null),
      )
    ).partial,
  ).toEqual([])
  // a gradient (118) is passed over
  const half = await made(madeEmf([[118, 36, 0, 0, 9, 9, 0, 0, 0]]))
  const seen = await paintDrawing(
    half.slide.drawing,
    picturesOf(async (part) => half.files.get(part) ?? null),
  )
  expect(seen).toMatchObject({ missing: [], partial: ['ppt/media/drawing.emf'] })
  const bad = await made(madeEmf().subarray(0, 60))
  const { missing } = await paintDrawing(
    bad.slide.drawing,
    picturesOf(async (part) => bad.files.get(part) ?? null),
  )
  expect(missing).toEqual(['ppt/media/drawing.emf'])
})

test('tiles repeat at their size, over a shape of any size', async () => {
  const tile = createCanvas(2, 1)
  tile.getContext('2d').fillStyle = '#17594a'
  tile.getContext('2d').fillRect(0, 0, 1, 1)
  const box = { x: 0, y: 0, width: 1e7, height: 1e7, rotation: 0, flipX: false, flipY: false }
  const fill: Fill = { kind: 'picture', part: 't.png', tile: { width: 40, height: 20, pixel: 1 } }
  const path = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ].map(([x, y], i) => ({ to: i === 0 ? ('move' as const) : ('line' as const), x: x!, y: y! }))
  const { rgba } = await paintDrawing(
    {
      width: 100,
      height: 10,
      background: { kind: 'solid', colour: '#ffffff' },
      items: [{ kind: 'shape', box, path, fill, line: null, text: null }],
    },
    Object.assign(async () => tile, { partial: new Set<string>() }),
  )
  const isInked = (x: number) => rgba[4 * (5 * 100 + x)]! < 128
  expect([5, 35, 45, 75, 85].map(isInked)).toEqual([true, false, true, false, true])
})

describe('OpenDocument', () => {
  const odp = (page: string, styles = '', files: Record<string, string> = {}) => {
    const spaces = ['office', 'style', 'draw', 'text', 'table', 'fo', 'svg', 'presentation', 'xlink', 'chart']
      .map((name) => `xmlns:${name}="urn:oasis:names:tc:opendocument:xmlns:${name}:1.0"`)
      .join(' ')
    const content = `<office:document-content ${spaces}><office:automatic-styles>${styles}</office:automatic-styles><office:body><office:presentation><draw:page draw:style-name="dp">${page}</draw:page></office:presentation></office:body></office:document-content>`
    const wrapped = Object.fromEntries(
      Object.entries(files).map(([name, text]) => [
        name,
        strToU8(text.replace('<office:document-content>', `<office:document-content ${spaces}>`)),
      ]),
    )
    return unzipped({
      mimetype: strToU8('application/vnd.oasis.opendocument.presentation'),
      'content.xml': strToU8(content),
      ...wrapped,
    })
  }
  const unzipped = (files: Record<string, Uint8Array>) =>
    readOpenDocument(new Map(Object.entries(unzipSync(zipSync(files)))), 'd.odp').slides[0]!
  const frame = (inside: string) => `<draw:frame svg:x="1cm" svg:y="1cm" svg:width="10cm" svg:height="6cm">${inside}</draw:frame>`

  test('signs of lists are those of their style, numbers are counted', () => {
    const lists =
      '<text:list-style style:name="L1"><text:list-level-style-number text:level="1" style:num-format="a" style:num-suffix=")"><style:list-level-properties text:space-before="0.5cm" text:min-label-width="1cm"/></text:list-level-style-number><text:list-level-style-bullet text:level="2" text:bullet-char="–"><style:list-level-properties text:space-before="1.5cm" text:min-label-width="1cm"/></text:list-level-style-bullet></text:list-style>'
    const list =
      '<text:list text:style-name="L1"><text:list-item><text:p>Funnel</text:p><text:list><text:list-item><text:p>of copper</text:p></text:list-item></text:list></text:list-item><text:list-item><text:p>Tube</text:p></text:list-item></text:list>'
    const slide = odp(frame(`<draw:text-box>${list}</draw:text-box>`), lists)
    const { paragraphs } = textWith(slide, 'Funnel').text!
    const centimetres = 1080 / (6.2 * 2.54)
    expect(paragraphs.map(({ bullet }) => bullet)).toEqual(['a)', '–', 'b)'])
    expect(paragraphs.map(({ left }) => Math.round((left / centimetres) * 10) / 10)).toEqual([1.5, 2.5, 1.5])
  })
  test('numbers may be Roman ones', () => {
    const lists =
      '<text:list-style style:name="L1"><text:list-level-style-number text:level="1" style:num-format="I" style:num-suffix="."/></text:list-style>'
    const items = ['One', 'Two', 'Three', 'Four'].map((word) => `<text:list-item><text:p>${word}</text:p></text:list-item>`)
    const slide = odp(
      frame(`<draw:text-box><text:list text:style-name="L1">${items.join('')}</text:list></draw:text-box>`),
      lists,
    )
    expect(textWith(slide, 'One').text!.paragraphs.map(({ bullet }) => bullet)).toEqual(['I.', 'II.', 'III.', 'IV.'])
  })
  test('a gradient fills a page and a shape', () => {
    const styles =
      '<draw:gradient draw:name="G" draw:style="linear" draw:start-color="#ffffff" draw:end-color="#17594a" draw:angle="900"/><style:style style:name="dp" style:family="drawing-page"><style:drawing-page-properties draw:fill="gradient" draw:fill-gradient-name="G"/></style:style>'
    expect(odp('<draw:rect svg:x="0cm" svg:y="0cm" svg:width="1cm" svg:height="1cm"/>', styles).drawing.background).toMatchObject(
      {
        kind: 'gradient',
        stops: [{ colour: '#ffffff' }, { colour: '#17594a' }],
      },
    )
  })
  test('a spreadsheet in it is drawn as far as it is written, a text as text', () => {
    const row = (...cells: string[]) =>
      `<table:table-row>${cells.map((cell) => `<table:table-cell><text:p>${cell}</text:p></table:table-cell>`).join('')}<table:table-cell table:number-columns-repeated="1000"/></table:table-row>`
    const sheet = `<office:document-content><office:body><office:spreadsheet><table:table>${row('Month', 'Rain')}${row('May', '61')}</table:table></office:spreadsheet></office:body></office:document-content>`
    const text =
      '<office:document-content><office:body><office:text><text:p>A page of its own</text:p></office:text></office:body></office:document-content>'
    const slide = odp(frame('<draw:object xlink:href="./Object 1"/>') + frame('<draw:object xlink:href="./Object 2"/>'), '', {
      'Object 1/content.xml': sheet,
      'Object 2/content.xml': text,
    })
    expect(slide.warnings.map((warning) => say(warning))).toEqual([])
    expect(shapes(slide).filter((item) => item.line !== null)).toHaveLength(4)
    expect(textWith(slide, 'A page of its own')).toBeDefined()
  })
  test('of a long spreadsheet the rest is told, and gaps in it stay', () => {
    const row = (cell: string, repeated = 1) =>
      `<table:table-row table:number-rows-repeated="${repeated}"><table:table-cell>${cell && `<text:p>${cell}</text:p>`}</table:table-cell></table:table-row>`
    const withSheet = (rows: string) =>
      odp(frame('<draw:object xlink:href="./Object 1"/>'), '', {
        'Object 1/content.xml': `<office:document-content><office:body><office:spreadsheet><table:table>${rows}</table:table></office:spreadsheet></office:body></office:document-content>`,
      })
    const gap = withSheet(`${row('May')}${row('', 3)}${row('June')}${row('', 1_000_000)}`)
    expect(shapes(gap).filter((item) => item.line !== null)).toHaveLength(5)
    expect(gap.warnings).toEqual([])
    const long = withSheet(Array.from({ length: 61 }, (_, i) => row(`Day ${i}`)).join(''))
    expect(long.warnings.map((warning) => say(warning))).toEqual([
      'Of a table from a spreadsheet only the first 60 rows are drawn.',
    ])
  })
  test('a drawing that lies in itself is told, and ends', () => {
    const page = `<office:document-content><office:body><office:drawing><draw:page>${frame('<draw:object xlink:href="./Object 1"/>')}</draw:page></office:drawing></office:body></office:document-content>`
    const slide = odp(frame('<draw:object xlink:href="./Object 1"/>'), '', { 'Object 1/content.xml': page })
    expect(slide.warnings.map((warning) => say(warning))).toEqual(['A chart or an embedded object could not be drawn.'])
  })
  test('a chart in it is read with its values', () => {
    const cell = (value: number) =>
      `<table:table-cell office:value-type="float" office:value="${value}"><text:p>${value}</text:p></table:table-cell>`
    const name = (text: string) => `<table:table-cell><text:p>${text}</text:p></table:table-cell>`
    const chart = `<office:document-content><office:body><office:chart><chart:chart chart:class="chart:bar"><chart:title><text:p>Rain</text:p></chart:title><chart:legend chart:legend-position="bottom"/><chart:plot-area><chart:axis chart:dimension="x"/><chart:axis chart:dimension="y"><chart:grid/></chart:axis><chart:series/><chart:series/></chart:plot-area><table:table><table:table-header-rows><table:table-row>${name('')}${name('Hills')}${name('Valley')}</table:table-row></table:table-header-rows><table:table-rows><table:table-row>${name('May')}${cell(3)}${cell(1)}</table:table-row><table:table-row>${name('June')}${cell(5)}${cell(2)}</table:table-row></table:table-rows></table:table></chart:chart></office:chart></office:body></office:document-content>`
    const slide = odp(frame('<draw:object xlink:href="./Object 1"/>'), '', { 'Object 1/content.xml': chart })
    const item = slide.drawing.items.find((one) => one.kind === 'chart')!
    expect(item.chart).toMatchObject({ title: 'Rain', categories: ['May', 'June'], legend: 'bottom' })
    expect(item.chart.series.map(({ name: own, values }) => [own, values])).toEqual([
      ['Hills', [3, 5]],
      ['Valley', [1, 2]],
    ])
  })
})
