/** Decks written as text: slides between rules, CommonMark in each, what is said after `Notes:`. @see CommonMark 0.31, by marked */

import { lexer, type Token, type Tokens } from 'marked'
import { isRightToLeft } from '#core/script/direction.ts'
import { message } from '#core/words/say.ts'
import { type DeckSlide, type DrawnItem, MOST_SLIDES, type Paragraph, type TextRun, type Transform } from './deck.ts'
import { DeckProblem } from './problem.ts'
import { isFileName } from './title.ts'

const [WIDTH, HEIGHT] = [1920, 1080]
const MARGIN = 150
const INK = '#1d2a2e'
const SPRUCE = '#17594a'
const SIZES = { heading: 76, text: 42, code: 34 }

interface Style {
  size: number
  bold?: boolean
  italic?: boolean
  mono?: boolean
  serif?: boolean
  colour?: string
}

const run = (text: string, style: Style): TextRun => ({
  text,
  size: style.size,
  bold: style.bold ?? false,
  italic: style.italic ?? false,
  underline: false,
  strike: false,
  colour: style.colour ?? INK,
  face: style.mono ? 'mono' : style.serif ? 'reading' : 'plain',
  raise: 0,
})

const unescaped = (text: string) =>
  text.replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&quot;', '"').replaceAll('&#39;', "'").replaceAll('&amp;', '&')

function inline(tokens: readonly Token[], style: Style): TextRun[] {
  return tokens.flatMap((token): TextRun[] => {
    const inner = 'tokens' in token && token.tokens ? token.tokens : null
    switch (token.type) {
      case 'strong':
        return inline(inner ?? [], { ...style, bold: true })
      case 'em':
        return inline(inner ?? [], { ...style, italic: true })
      case 'codespan':
        return [run(unescaped((token as Tokens.Codespan).text), { ...style, mono: true, size: style.size * 0.9 })]
      case 'br':
        return [run('\n', style)]
      case 'image':
        return []
      default:
        return inner ? inline(inner, style) : [run(unescaped('text' in token ? String(token.text) : token.raw), style)]
    }
  })
}

const paragraph = (runs: TextRun[], more: Partial<Paragraph> = {}): Paragraph => ({
  // a line on which nothing stands, such as an empty point of a list, is as high as the text
  runs: runs.length > 0 ? runs : [run('', { size: SIZES.text })],
  align: 'left',
  left: 0,
  indent: 0,
  bullet: null,
  bulletColour: SPRUCE,
  bulletSize: 1,
  lineSpacing: 1.1,
  before: 18,
  after: 0,
  rightToLeft: isRightToLeft(runs.map((r) => r.text).join('')),
  ...more,
})

function listItems(list: Tokens.List, level: number): Paragraph[] {
  const number = typeof list.start === 'number' ? list.start : 1
  return list.items.flatMap((item, i) => {
    const text = item.tokens.filter((t) => t.type !== 'list')
    const runs = inline(text, { size: SIZES.text - level * 4 })
    const bullet = list.ordered ? `${number + i}.` : level === 0 ? '•' : '–'
    const left = 56 * (level + 1)
    const deeper = item.tokens.filter((t): t is Tokens.List => t.type === 'list').flatMap((inner) => listItems(inner, level + 1))
    return [paragraph(runs, { left, indent: -44, bullet }), ...deeper]
  })
}

function block(token: Token): Paragraph[] {
  switch (token.type) {
    case 'heading':
      return [paragraph(inline((token as Tokens.Heading).tokens, { size: 56, bold: true, serif: true }))]
    case 'paragraph': {
      const runs = inline((token as Tokens.Paragraph).tokens, { size: SIZES.text })
      return runs.some((r) => r.text.trim()) ? [paragraph(runs)] : []
    }
    case 'list':
      return listItems(token as Tokens.List, 0)
    case 'blockquote':
      return ((token as Tokens.Blockquote).tokens ?? []).flatMap(block).map((p) => ({
        ...p,
        left: p.left + 50,
        runs: p.runs.map((r) => ({ ...r, italic: true, serif: true })),
      }))
    case 'code':
      return [paragraph([run((token as Tokens.Code).text, { size: SIZES.code, mono: true })], { lineSpacing: 1 })]
    case 'table': {
      const table = token as Tokens.Table
      return [table.header, ...table.rows].map((row, i) =>
        paragraph([run(row.map((cell) => cell.text).join('   ·   '), { size: SIZES.text - 6, bold: i === 0 })]),
      )
    }
    default:
      return []
  }
}

const pictureOf = (tokens: readonly Token[]): Tokens.Image | null => {
  for (const token of tokens) {
    if (token.type === 'image') return token as Tokens.Image
    const inner = 'tokens' in token && token.tokens ? pictureOf(token.tokens) : null
    if (inner) return inner
  }
  return null
}

const plain = (runs: readonly TextRun[]) => runs.map((r) => r.text).join('')

/** What stands after "Notes:" is spoken and not shown. */
function notesOf(tokens: readonly Token[]): { shown: readonly Token[]; notes: string } {
  const at = tokens.findIndex((t) => t.type === 'paragraph' && /^notes:/i.test(t.raw))
  if (at < 0) return { shown: tokens, notes: '' }
  const raw = tokens
    .slice(at)
    .map((t) => t.raw)
    .join('')
  return { shown: tokens.slice(0, at), notes: raw.replace(/^notes:/i, '').trim() }
}

const NO_INSET = { left: 0, top: 0, right: 0, bottom: 0 }
const boxAt = (x: number, y: number, width: number, height: number) => ({
  ...{ x, y, width, height },
  ...{ rotation: 0, flipX: false, flipY: false },
})

const textBox = (box: Transform, paragraphs: Paragraph[], anchor: 'top' | 'middle'): DrawnItem => ({
  kind: 'shape',
  box,
  path: [],
  fill: null,
  line: null,
  text: { paragraphs, anchor, inset: NO_INSET, wrap: true, scale: 1, shrinks: true, turn: 0 },
})

const RULE: DrawnItem = {
  kind: 'shape',
  box: boxAt(MARGIN, 96, 96, 10),
  path: [
    { to: 'move', x: 0, y: 0 },
    { to: 'line', x: 1, y: 0 },
    { to: 'line', x: 1, y: 1 },
    { to: 'line', x: 0, y: 1 },
    { to: 'close' },
  ],
  fill: { kind: 'solid', colour: SPRUCE },
  line: null,
  text: null,
}

/** @param picture its name among the files; null where there is none */
function drawSlide(titleRuns: TextRun[], body: Paragraph[], picture: string | null): DrawnItem[] {
  const hasTitle = titleRuns.length > 0
  const hasBody = body.length > 0
  const wide = WIDTH - 2 * MARGIN
  // a slide that is only a heading has it in its middle
  if (!hasBody && picture === null)
    return hasTitle ? [textBox(boxAt(MARGIN, 0, wide, HEIGHT), [paragraph(titleRuns)], 'middle')] : []
  const items = [RULE]
  if (hasTitle) items.push(textBox(boxAt(MARGIN, 130, wide, 190), [paragraph(titleRuns)], 'top'))
  const bodyWidth = picture === null ? wide : 820
  if (hasBody) items.push(textBox(boxAt(MARGIN, hasTitle ? 330 : 130, bodyWidth, hasTitle ? 640 : 840), body, 'top'))
  if (picture !== null)
    items.push({
      kind: 'picture',
      box: hasBody ? boxAt(1020, 330, 750, 640) : boxAt(MARGIN, 330, wide, 640),
      part: picture,
      crop: NO_INSET,
      opacity: 1,
      contain: true,
    })
  return items
}

function slideOf(tokens: readonly Token[], pictures: ReadonlySet<string>): DeckSlide {
  const { shown, notes } = notesOf(tokens)
  const heading = shown.find((t): t is Tokens.Heading => t.type === 'heading')
  const titleRuns = heading ? inline(heading.tokens, { size: SIZES.heading, bold: true, serif: true }) : []
  const body = shown.filter((t) => t !== heading).flatMap(block)
  const image = pictureOf(shown)
  const picture = image !== null && pictures.has(image.href) ? image.href : null
  const isMissing = image !== null && picture === null
  const title = plain(titleRuns).trim() || plain(body[0]?.runs ?? []).trim()
  const described = isFileName(image?.text ?? '') ? '' : (image?.text ?? '')
  return {
    title: title.slice(0, 120),
    altText: [plain(titleRuns), ...body.map((p) => plain(p.runs)), described]
      .join(' ')
      .replace(/\s+/g, ' ')
      .trim()
      .slice(0, 1000),
    isAltTextDraft: [plain(titleRuns), ...body.map((p) => plain(p.runs))].some((words) => words.trim() !== ''),
    notes,
    section: '',
    hidden: false,
    advanceMs: null,
    transition: null,
    steps: [],
    films: [],
    sound: null,
    warnings: isMissing
      ? [
          message('The picture “{name}” is not among the files, so it is missing. Drop it together with the text.', {
            name: image.href,
          }),
        ]
      : [],
    drawing: {
      width: WIDTH,
      height: HEIGHT,
      background: { kind: 'solid', colour: '#f8f5ee' },
      items: drawSlide(titleRuns, body, picture),
    },
  }
}

/** Parts between lines of `---`, even right under a line of text, where CommonMark alone would see a heading. */
function divided(text: string): string[] {
  const parts: string[][] = [[]]
  let fenced = false
  for (const line of text.split(/\r?\n/)) {
    if (/^\s*(```|~~~)/.test(line)) fenced = !fenced
    if (!fenced && /^---+\s*$/.test(line)) parts.push([])
    else parts.at(-1)!.push(line)
  }
  return parts.map((lines) => lines.join('\n'))
}

/**
 * @param text CommonMark; a rule begins a new slide
 * @param pictures names of the pictures that came with it
 * @throws DeckProblem when nothing is written, or too much
 */
export function readMarkdown(text: string, name: string, pictures: ReadonlySet<string>): DeckSlide[] {
  const written = divided(text.replace(/^\uFEFF/, ''))
    .map((part) => lexer(part).filter((token) => token.type !== 'space'))
    .filter((tokens) => tokens.length > 0)
  if (written.length === 0)
    throw new DeckProblem(message('“{name}” says nothing. Write a heading for each slide, with --- between slides.', { name }))
  if (written.length > MOST_SLIDES)
    throw new DeckProblem(
      message('“{name}” has {slides} slides; the most is {most}. Divide it.', {
        name,
        slides: written.length,
        most: MOST_SLIDES,
      }),
    )
  return written.map((tokens) => slideOf(tokens, pictures))
}
