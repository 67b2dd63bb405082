/** OpenDocument presentations: order, titles, notes, hidden slides, times, text boxes, pictures and simple shapes. @see OASIS OpenDocument 1.3, part 3, §9 and §10 */

import { strFromU8 } from 'fflate'
import { mostSaid } from '#core/script/detect-language.ts'
import { message } from '#core/words/say.ts'
import {
  type Deck,
  type DeckSlide,
  type DrawnItem,
  type Fill,
  type Line,
  MOST_SLIDES,
  type Paragraph,
  type TextRun,
  type Transform,
} from '../deck.ts'
import { presetPath } from '../ooxml/shapes.ts'
import { DeckProblem } from '../problem.ts'
import { isFileName } from '../title.ts'
import { WARN, Warnings } from '../warnings.ts'
import { at, below, child, children, numberOf, parseXml, TEXT, type XmlNode } from '../xml.ts'
import { countEffects } from './effects.ts'
import { inches, pageSizes, property, type Styles, stylesOf } from './styles.ts'

const PRESENTATION = 'application/vnd.oasis.opendocument.presentation'

export const isOpenDocument = (files: ReadonlyMap<string, Uint8Array>) => {
  const type = files.get('mimetype')
  return type !== undefined && strFromU8(type).startsWith('application/vnd.oasis.opendocument')
}

interface Drawer {
  styles: Styles
  /** Pixels of an inch. */
  scale: number
  files: ReadonlyMap<string, Uint8Array>
  warnings: Warnings
  altTexts: string[]
}

function runsOf(node: XmlNode, chains: readonly XmlNode[], d: Drawer): TextRun[] {
  const own = [...chains, ...d.styles.chain('text', node.attrs['text:style-name'])]
  const textProperty = (name: string) => property(own, 'text-properties', name)
  const size = (inches(textProperty('fo:font-size')) ?? 18 / 72) * d.scale
  const run = (text: string): TextRun => ({
    text,
    size,
    bold: textProperty('fo:font-weight') === 'bold' || Number(textProperty('fo:font-weight')) >= 600,
    italic: textProperty('fo:font-style') === 'italic',
    underline: (textProperty('style:text-underline-style') ?? 'none') !== 'none',
    strike: (textProperty('style:text-line-through-style') ?? 'none') !== 'none',
    colour: textProperty('fo:color') ?? '#000000',
    serif: /serif|roman|times|georgia/i.test(
      (textProperty('style:font-name') ?? textProperty('fo:font-family') ?? '').replace(/sans.?serif/i, ''),
    ),
    mono: /mono|courier|code/i.test(textProperty('style:font-name') ?? ''),
    raise: 0,
  })
  const runs = node.children.flatMap((c): TextRun[] => {
    if (c.name === TEXT) return c.text === '' ? [] : [run(c.text.replace(/\s+/g, ' '))]
    if (c.name === 'span' || c.name === 'a') return runsOf(c, own, d)
    if (c.name === 'line-break') return [run('\n')]
    if (c.name === 's') return [run(' '.repeat(numberOf(c.attrs['text:c']) ?? 1))]
    return c.name === 'tab' ? [run('\t')] : []
  })
  return runs.length > 0 ? runs : [run('')]
}

function paragraphsOf(box: XmlNode, chains: readonly XmlNode[], d: Drawer, level = 0, bullet = false): Paragraph[] {
  return box.children.flatMap((node): Paragraph[] => {
    if (node.name === 'list') return children(node, 'list-item').flatMap((item) => paragraphsOf(item, chains, d, level + 1, true))
    if (node.name !== 'p' && node.name !== 'h') return []
    const own = [...chains, ...d.styles.chain('paragraph', node.attrs['text:style-name'])]
    const align = property(own, 'paragraph-properties', 'fo:text-align')
    const runs = runsOf(node, own, d)
    const indent = bullet ? 0.3 * d.scale : 0
    const hasText = runs.some((r) => r.text.trim() !== '')
    return [
      {
        runs,
        align: align === 'center' ? 'center' : align === 'end' || align === 'right' ? 'right' : 'left',
        left: indent * level,
        indent: -indent,
        bullet: bullet && hasText ? '•' : null,
        bulletColour: null,
        lineSpacing: 1,
        before: (inches(property(own, 'paragraph-properties', 'fo:margin-top')) ?? 0) * d.scale,
        after: (inches(property(own, 'paragraph-properties', 'fo:margin-bottom')) ?? 0) * d.scale,
        rightToLeft: property(own, 'paragraph-properties', 'style:writing-mode')?.startsWith('rl') ?? false,
      },
    ]
  })
}

const textOf = (node: XmlNode): string =>
  node.children
    .map((c) => (c.name === TEXT ? c.text : c.name === 's' ? ' ' : c.name === 'line-break' ? '\n' : textOf(c)))
    .join('')

const plain = (node: XmlNode | undefined): string =>
  [...below(node, 'p'), ...below(node, 'h')]
    .map((p) => textOf(p))
    .filter(Boolean)
    .join('\n')
    .trim()

const SHAPES: Record<string, string> = {
  rect: 'rect',
  'custom-shape': 'rect',
  ellipse: 'ellipse',
  circle: 'ellipse',
  line: 'line',
  connector: 'line',
}
const PRESETS: Record<string, string> = {
  rectangle: 'rect',
  'round-rectangle': 'roundRect',
  ellipse: 'ellipse',
  'isosceles-triangle': 'triangle',
  'right-triangle': 'rtTriangle',
  diamond: 'diamond',
  parallelogram: 'parallelogram',
  trapezoid: 'trapezoid',
  pentagon: 'pentagon',
  hexagon: 'hexagon',
  octagon: 'octagon',
  'right-arrow': 'rightArrow',
  'left-arrow': 'leftArrow',
  'up-arrow': 'upArrow',
  'down-arrow': 'downArrow',
  'left-right-arrow': 'leftRightArrow',
  chevron: 'chevron',
  'pentagon-right': 'homePlate',
  star5: 'star5',
  can: 'can',
  cross: 'plus',
}

function boxOf(node: XmlNode, d: Drawer): Transform | null {
  if (node.attrs['svg:x1'] !== undefined) {
    const [x1, y1, x2, y2] = ['x1', 'y1', 'x2', 'y2'].map((k) => (inches(node.attrs[`svg:${k}`]) ?? 0) * d.scale) as [
      number,
      number,
      number,
      number,
    ]
    return {
      x: Math.min(x1, x2),
      y: Math.min(y1, y2),
      width: Math.abs(x2 - x1),
      height: Math.abs(y2 - y1),
      rotation: 0,
      flipX: x2 < x1,
      flipY: y2 < y1,
    }
  }
  const [width, height] = [inches(node.attrs['svg:width']), inches(node.attrs['svg:height'])]
  if (width === null || height === null) return null
  const transform = node.attrs['draw:transform'] ?? ''
  const turn = Number(/rotate\s*\((-?[\d.]+)\)/.exec(transform)?.[1] ?? 0)
  const moved = /translate\s*\((\S+)\s+(\S+)\)/.exec(transform)
  let [x, y] = [inches(node.attrs['svg:x']) ?? inches(moved?.[1]) ?? 0, inches(node.attrs['svg:y']) ?? inches(moved?.[2]) ?? 0]
  if (turn !== 0) {
    // it turns about its corner, against the clock
    const [cx, cy] = [
      (width / 2) * Math.cos(turn) + (height / 2) * Math.sin(turn),
      (-width / 2) * Math.sin(turn) + (height / 2) * Math.cos(turn),
    ]
    x += cx - width / 2
    y += cy - height / 2
  }
  return {
    x: x * d.scale,
    y: y * d.scale,
    width: width * d.scale,
    height: height * d.scale,
    rotation: (-turn * 180) / Math.PI,
    flipX: false,
    flipY: false,
  }
}

/** Files of drawing orders, which are no pictures. What has no ending is known when it is read. */
const METAFILE = /\.(emf|wmf|svm)$/i

/** The picture of a frame that can be drawn: of several that show the same the first. What cannot be is told. */
function pictureIn(frame: XmlNode, d: Drawer): string | null {
  const parts = children(frame, 'image').flatMap((image) => image.attrs['xlink:href']?.replace(/^\.\//, '') ?? [])
  const kept = parts.filter((part) => d.files.has(part))
  const drawable = kept.find((part) => !METAFILE.test(part))
  const media = child(frame, 'plugin')
  // a film is seen by its picture; a sound that lies on a slide is not brought in yet
  if (media)
    d.warnings.add(drawable && !/^audio/.test(media.attrs['draw:mime-type'] ?? '') ? WARN.firstPictureOnly : WARN.embeddedObject)
  if (drawable || media) return drawable ?? null
  if (child(frame, 'object') || child(frame, 'object-ole')) d.warnings.add(WARN.chartOrObject)
  else if (kept[0]) d.warnings.add(WARN.drawing(METAFILE.exec(kept[0])![1]!.toUpperCase()))
  else if (parts.length > 0) d.warnings.add(WARN.linkedPicture)
  return null
}

function drawNode(node: XmlNode, d: Drawer): DrawnItem[] {
  if (node.name === 'g') return node.children.flatMap((inner) => drawNode(inner, d))
  if (node.name === 'notes') return []
  const box = boxOf(node, d)
  const described = child(node, 'desc')?.text ?? child(node, 'title')?.text
  if (described && !isFileName(described)) d.altTexts.push(described)
  if (!box) return []
  const styles = [
    ...d.styles.chain('presentation', node.attrs['presentation:style-name']),
    ...d.styles.chain('graphic', node.attrs['draw:style-name']),
  ]
  const graphic = (name: string) => property(styles, 'graphic-properties', name)
  if (node.name === 'frame') {
    const text = child(node, 'text-box')
    const table = child(node, 'table')
    // its picture is for programs that draw no tables
    if (table) return drawTable(table, box, styles, d)
    if (text) return [shapeItem(text, 'rect', box, styles, graphic, d)]
    const part = pictureIn(node, d)
    return part === null ? [] : [{ kind: 'picture', box, part, crop: { left: 0, top: 0, right: 0, bottom: 0 }, opacity: 1 }]
  }
  const shape = SHAPES[node.name]
  if (shape) {
    const preset = PRESETS[child(node, 'enhanced-geometry')?.attrs['draw:type'] ?? ''] ?? shape
    return [shapeItem(node, preset, box, styles, graphic, d)]
  }
  if (/^(polygon|polyline|path|caption|measure)$/.test(node.name))
    d.warnings.add(message('A drawn line or shape of its own form could not be drawn.'))
  return []
}

function shapeItem(
  node: XmlNode,
  preset: string,
  box: Transform,
  styles: XmlNode[],
  graphic: (name: string) => string | undefined,
  d: Drawer,
): DrawnItem {
  const fill: Fill | null =
    graphic('draw:fill') === 'solid' && graphic('draw:fill-color') ? { kind: 'solid', colour: graphic('draw:fill-color')! } : null
  const stroke = graphic('draw:stroke')
  const isLine = preset === 'line'
  const line: Line | null =
    stroke === 'none' || (stroke === undefined && !isLine)
      ? null
      : {
          colour: graphic('svg:stroke-color') ?? '#000000',
          width: Math.max(1.5, (inches(graphic('svg:stroke-width')) ?? 0) * d.scale),
          dash: stroke === 'dash' ? [8, 6] : [],
          head: graphic('draw:marker-start') !== undefined,
          tail: graphic('draw:marker-end') !== undefined,
        }
  const paragraphs = paragraphsOf(node, styles, d)
  const anchor = graphic('draw:textarea-vertical-align')
  const pad = (side: string, usual: number) => (inches(graphic(`fo:padding-${side}`) ?? graphic('fo:padding')) ?? usual) * d.scale
  return {
    kind: 'shape',
    box,
    path: presetPath(preset, new Map(), box.width, box.height) ?? [],
    fill,
    line,
    text: paragraphs.some((p) => p.runs.some((r) => r.text.trim() !== ''))
      ? {
          paragraphs,
          anchor: anchor === 'middle' ? 'middle' : anchor === 'bottom' ? 'bottom' : 'top',
          inset: { left: pad('left', 0.1), right: pad('right', 0.1), top: pad('top', 0.05), bottom: pad('bottom', 0.05) },
          wrap: true,
          scale: 1,
        }
      : null,
  }
}

function drawTable(table: XmlNode, box: Transform, styles: XmlNode[], d: Drawer): DrawnItem[] {
  const rows = below(table, 'table-row')
  const count = Math.max(1, ...rows.map((row) => children(row, 'table-cell').length))
  const [width, height] = [box.width / count, box.height / Math.max(1, rows.length)]
  return rows.flatMap((row, r) =>
    children(row, 'table-cell').map((cell, c): DrawnItem => {
      const place = {
        ...box,
        x: box.x + c * width,
        y: box.y + r * height,
        width: width * (numberOf(cell.attrs['table:number-columns-spanned']) ?? 1),
        height,
      }
      const item = shapeItem(cell, 'rect', place, styles, () => undefined, d)
      return {
        ...item,
        line: { colour: 'rgba(120, 120, 120, 0.9)', width: 1.5, dash: [], head: false, tail: false },
      } as DrawnItem
    }),
  )
}

/** `PT00H00M05S` in milliseconds; null for none. @see XML Schema part 2, duration */
function durationMs(text: string | undefined): number | null {
  const match = /^PT(?:(\d+)H)?(?:(\d+)M)?(?:([\d.]+)S)?$/.exec(text ?? '')
  if (!match) return null
  return Math.round(((Number(match[1] ?? 0) * 60 + Number(match[2] ?? 0)) * 60 + Number(match[3] ?? 0)) * 1000)
}

/** The language of its usual text. @see OpenDocument 1.3, part 3, §20.199 fo:language, §20.188 fo:country */
function languageOf(styles: XmlNode): string | null {
  const letters = new Map<string, number>()
  for (const style of below(styles, 'default-style')) {
    const { 'fo:language': language, 'fo:country': country } = child(style, 'text-properties')?.attrs ?? {}
    if (!language || language === 'none') continue
    const tag = country && country !== 'none' ? `${language}-${country}` : language
    letters.set(tag, (letters.get(tag) ?? 0) + 1)
  }
  return mostSaid(letters)
}

/** @throws DeckProblem when it cannot be read, has no slide or too many */
export function readOpenDocument(files: ReadonlyMap<string, Uint8Array>, name: string): Deck {
  if (!strFromU8(files.get('mimetype')!).startsWith(PRESENTATION))
    throw new DeckProblem(message('“{name}” is a document of another kind and no presentation. Choose another file.', { name }))
  const content = files.get('content.xml')
  if (!content) throw new DeckProblem(message('“{name}” is damaged: its content is missing. Save the deck again.', { name }))
  const root = parseXml(content, 'content.xml')
  const styleFile = files.get('styles.xml')
  const styleRoot = styleFile ? parseXml(styleFile, 'styles.xml') : null
  const pages = children(at(root, 'body', 'presentation'), 'page')
  if (pages.length === 0)
    throw new DeckProblem(message('“{name}” has no slides. Save the deck again and check that it shows its slides.', { name }))
  if (pages.length > MOST_SLIDES)
    throw new DeckProblem(
      message('“{name}” has {pages} slides; the most is {most}. Divide it and add the parts as lectures of their own.', {
        name,
        pages: pages.length,
        most: MOST_SLIDES,
      }),
    )
  const styles = stylesOf([...(styleRoot ? [styleRoot] : []), root])
  const sizeOf = pageSizes(styleRoot)
  const masters = new Map(below(styleRoot ?? undefined, 'master-page').map((m) => [m.attrs['style:name'], m]))
  const slides = pages.map((page): DeckSlide => {
    const { width: pageWidth, height: pageHeight } = sizeOf(masters.get(page.attrs['draw:master-page-name']))
    const scale = Math.min(1920 / pageWidth, 1080 / pageHeight)
    const d: Drawer = { styles, scale, files, warnings: new Warnings(), altTexts: [] }
    const look = styles.chain('drawing-page', page.attrs['draw:style-name'])
    const master = masters.get(page.attrs['draw:master-page-name'])
    const masterLook = styles.chain('drawing-page', master?.attrs['draw:style-name'])
    const drawing = (property_: string) =>
      property(look, 'drawing-page-properties', property_) ?? property(masterLook, 'drawing-page-properties', property_)
    const behind = (master?.children ?? [])
      .filter((n) => n.attrs['presentation:class'] === undefined)
      .flatMap((n) => drawNode(n, d))
    d.altTexts.length = 0
    const items = [...behind, ...page.children.flatMap((node) => drawNode(node, d))]
    const titled = children(page, 'frame').find((frame) => frame.attrs['presentation:class'] === 'title')
    const texts = page.children
      .filter((n) => n.name !== 'notes')
      .map((n) => plain(n))
      .filter(Boolean)
    const sound = below(page, 'sound')
      .map((s) => s.attrs['xlink:href']?.replace(/^\.\//, ''))
      .find(Boolean)
    if (sound && !files.has(sound)) d.warnings.add(WARN.soundElsewhere(sound.split('/').at(-1)!))
    const effects = countEffects(page)
    if (effects > 0) d.warnings.add(WARN.animations(effects))
    const fill = drawing('draw:fill')
    return {
      title: (titled ? plain(titled) : (texts[0] ?? '')).replace(/\s+/g, ' ').slice(0, 120),
      altText: [...texts, ...d.altTexts].join(' ').replace(/\s+/g, ' ').trim().slice(0, 1000),
      isAltTextDraft: texts.length > 0,
      notes: children(child(page, 'notes'), 'frame')
        .filter((f) => f.attrs['presentation:class'] === 'notes')
        .map((f) => plain(f))
        .join('\n')
        .trim(),
      section: '',
      hidden: drawing('presentation:visibility') === 'hidden',
      advanceMs:
        property(look, 'drawing-page-properties', 'presentation:transition-type') === 'automatic'
          ? durationMs(property(look, 'drawing-page-properties', 'presentation:duration'))
          : null,
      sound: sound && files.has(sound) ? sound : null,
      warnings: d.warnings.list(),
      drawing: {
        width: Math.round(pageWidth * scale),
        height: Math.round(pageHeight * scale),
        background: { kind: 'solid', colour: (fill === 'solid' ? drawing('draw:fill-color') : undefined) ?? '#ffffff' },
        items,
      },
    }
  })
  const meta = files.get('meta.xml')
  const title = meta ? (below(parseXml(meta, 'meta.xml'), 'title')[0]?.text.trim() ?? '') : ''
  return { title, language: languageOf(styleRoot ?? root), slides }
}
