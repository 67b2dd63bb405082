/** A made-up presentation file with the things that teachers' decks have, written by a general library. */
import { createRequire } from 'node:module'
import type PptxGenJS from 'pptxgenjs'

const Pptx = createRequire(import.meta.url)('pptxgenjs') as typeof PptxGenJS

export const DECK_TITLE = 'How a rain gauge works'

/** @param pictures data of a PNG, for the slides with pictures; @param sound data of an M4A or WAV, embedded on the second slide */
export async function makeDeck({
  picture,
  sound,
}: {
  picture: Buffer
  sound?: { bytes: Buffer; extension: 'wav' | 'm4a' | 'mp3' }
}): Promise<Uint8Array> {
  const deck = new Pptx()
  deck.layout = 'LAYOUT_WIDE'
  deck.title = DECK_TITLE
  deck.theme = { headFontFace: 'Georgia', bodyFontFace: 'Arial' }
  deck.defineSlideMaster({
    title: 'PLAIN',
    background: { color: 'FBFAF6' },
    objects: [
      { rect: { x: 0, y: 0, w: '100%', h: 0.14, fill: { color: '17594A' } } },
      {
        placeholder: {
          options: { name: 'title', type: 'title', x: 0.7, y: 0.5, w: 11.9, h: 1, fontSize: 36, bold: true, color: '1D2A2E' },
          text: '',
        },
      },
      {
        placeholder: {
          options: { name: 'body', type: 'body', x: 0.7, y: 1.7, w: 11.9, h: 5, fontSize: 24, color: '1D2A2E' },
          text: '',
        },
      },
    ],
    slideNumber: { x: 12.4, y: 7, fontSize: 12, color: '5B6669' },
  })
  deck.addSection({ title: 'The gauge' })
  deck.addSection({ title: 'In the garden' })
  const data = `image/png;base64,${picture.toString('base64')}`
  const page = (title: string, notes: string) => {
    const slide = deck.addSlide({
      masterName: 'PLAIN',
      sectionTitle: title === DECK_TITLE || /inside/.test(title) ? 'The gauge' : 'In the garden',
    })
    slide.addText(title, { placeholder: 'title' })
    if (notes) slide.addNotes(notes)
    return slide
  }
  page(DECK_TITLE, 'Good evening, and welcome.').addText('An evening for volunteer observers', { placeholder: 'body' })

  const points = page('What is inside', 'The gauge has four parts.')
  points.addText(
    [
      { text: 'A funnel, eight inches across', options: { bullet: true, breakLine: true } },
      { text: 'An inner tube', options: { bullet: true, breakLine: true } },
      { text: 'a tenth of the area', options: { bullet: true, indentLevel: 1, breakLine: true } },
      { text: 'An outer can', options: { bullet: true, breakLine: true } },
      { text: 'A measuring stick', options: { bullet: true } },
    ],
    { placeholder: 'body' },
  )
  if (sound)
    points.addMedia({
      type: 'audio',
      data: `audio/${sound.extension};base64,${sound.bytes.toString('base64')}`,
      extn: sound.extension,
      x: 12,
      y: 6.5,
      w: 0.5,
      h: 0.5,
    })

  page('Reading it', '').addText(
    [
      { text: 'Wait until the water stands still', options: { bullet: { type: 'number' }, breakLine: true } },
      { text: 'Hold the stick ', options: { bullet: { type: 'number' } } },
      { text: 'upright', options: { bold: true, italic: true, color: 'A93428' } },
      { text: ' and read the ', options: {} },
      { text: 'bottom', options: { underline: { style: 'sng' } } },
      { text: ' of the curve', options: { breakLine: true } },
      { text: 'Write it down at once', options: { bullet: { type: 'number' } } },
    ],
    { placeholder: 'body' },
  )

  const shapes = page('Shapes and arrows', 'Every shape is in its place.')
  const kinds = [
    'rect',
    'roundRect',
    'ellipse',
    'triangle',
    'diamond',
    'hexagon',
    'chevron',
    'rightArrow',
    'star5',
    'can',
  ] as const
  kinds.forEach((kind, i) => {
    shapes.addShape(kind as PptxGenJS.SHAPE_NAME, {
      x: 0.8 + (i % 5) * 2.4,
      y: 1.9 + Math.floor(i / 5) * 2.4,
      w: 1.9,
      h: 1.5,
      fill: { color: i % 2 ? 'A8660F' : '3D5A73' },
      line: { color: '1D2A2E', width: 1 },
    })
    shapes.addText(kind, {
      x: 0.8 + (i % 5) * 2.4,
      y: 3.45 + Math.floor(i / 5) * 2.4,
      w: 1.9,
      h: 0.4,
      fontSize: 14,
      align: 'center',
    })
  })
  shapes.addShape('line', {
    x: 0.8,
    y: 6.9,
    w: 11.6,
    h: 0,
    line: { color: 'A93428', width: 3, endArrowType: 'triangle', dashType: 'dash' },
  })

  const table = page('A week of readings', 'Monday was wet.')
  table.addTable(
    [
      [
        { text: 'Day', options: { bold: true, color: 'FFFFFF', fill: { color: '17594A' } } },
        { text: 'Inches', options: { bold: true, color: 'FFFFFF', fill: { color: '17594A' } } },
        { text: 'Remark', options: { bold: true, color: 'FFFFFF', fill: { color: '17594A' } } },
      ],
      [{ text: 'Monday' }, { text: '0.42' }, { text: 'rain until noon' }],
      [{ text: 'Tuesday' }, { text: '0.00' }, { text: 'dry, a strong wind from the west that nobody expected' }],
      [{ text: 'Wednesday', options: { colspan: 2 } }, { text: 'two readings' }],
    ],
    { x: 0.8, y: 1.9, w: 11.6, colW: [3, 2.6, 6], fontSize: 20, border: { type: 'solid', color: 'B9B2A2', pt: 1 } },
  )

  const chart = page('What seven weeks tell', '')
  chart.addChart(
    deck.ChartType.bar,
    [
      { name: 'This year', labels: ['Jan', 'Feb', 'Mar', 'Apr'], values: [3.2, 2.1, 4.4, 1.2] },
      { name: 'Last year', labels: ['Jan', 'Feb', 'Mar', 'Apr'], values: [2.2, 2.9, 3.4, 2.2] },
    ],
    { x: 0.8, y: 1.7, w: 11.6, h: 5.3, showLegend: true, legendPos: 'b', chartColors: ['17594A', 'A8660F'] },
  )
  const pies = page('Where it goes', '')
  pies.addChart(deck.ChartType.pie, [{ name: 'Water', labels: ['Ground', 'River', 'Air'], values: [50, 30, 20] }], {
    x: 0.5,
    y: 1.7,
    w: 6,
    h: 5.2,
    showLegend: true,
    legendPos: 'b',
  })
  pies.addChart(deck.ChartType.line, [{ name: 'Level', labels: ['1', '2', '3', '4', '5'], values: [1, 3, 2, 5, 4] }], {
    x: 6.7,
    y: 1.7,
    w: 6,
    h: 5.2,
  })

  const photo = page('Where it stands', 'Stand it in the open.')
  photo.addImage({ data, x: 0.8, y: 1.8, w: 5, h: 3, altText: 'A gauge on a lawn' })
  photo.addImage({ data, x: 7, y: 1.8, w: 4, h: 3, rotate: 15, sizing: { type: 'crop', x: 0.5, y: 0.2, w: 3, h: 2.4 } })
  photo.addText('Twice as far from a tree as the tree is tall', { x: 0.8, y: 5.2, w: 11, h: 0.8, fontSize: 20, italic: true })

  const skipped = page('Not for learners', 'This slide is hidden.')
  skipped.hidden = true

  const long = page('A great deal of text', '')
  long.addText('Nobody should write so much on one slide, and yet everybody has seen it done. '.repeat(14), {
    x: 0.8,
    y: 1.7,
    w: 11.6,
    h: 4.8,
    fontSize: 24,
    fit: 'shrink',
  })

  const columns = page('Two boxes, turned text', '')
  columns.addText('Left, at the top', { x: 0.8, y: 1.8, w: 5.5, h: 3, fontSize: 24, valign: 'top', fill: { color: 'EFEADF' } })
  columns.addText('Right, at the bottom', {
    x: 6.9,
    y: 1.8,
    w: 5.5,
    h: 3,
    fontSize: 24,
    valign: 'bottom',
    align: 'right',
    fill: { color: 'DCE6E2' },
  })
  columns.addText('Turned', {
    x: 5.2,
    y: 5.3,
    w: 3,
    h: 0.8,
    fontSize: 28,
    rotate: 340,
    align: 'center',
    color: 'A93428',
    bold: true,
  })

  const dark = deck.addSlide({ sectionTitle: 'In the garden' })
  dark.background = { color: '134A3D' }
  dark.addText('Thank you', { x: 1, y: 2.6, w: 11.3, h: 1.6, fontSize: 54, color: 'FFFFFF', align: 'center', bold: true })
  dark.addText('H₂O and E = mc²: Ünïcödé, Ελληνικά, Кириллица', {
    x: 1,
    y: 4.3,
    w: 11.3,
    h: 0.8,
    fontSize: 22,
    color: 'DDE8E1',
    align: 'center',
  })
  return new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer)
}
