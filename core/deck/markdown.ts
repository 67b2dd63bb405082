/** Decks written as text: slides between rules, CommonMark in each, what is said after `Notes:`. @see CommonMark 0.31, by marked */
import { lexer, type Token, type Tokens } from 'marked'
import { type DeckSlide, MOST_SLIDES, type Paragraph, type TextRun } from './deck.ts'
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
  serif: style.serif ?? false,
  mono: style.mono ?? false,
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
  lineSpacing: 1.1,
  before: 18,
  after: 0,
  rightToLeft: false,
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

function slideOf(tokens: readonly Token[], pictures: ReadonlySet<string>): DeckSlide {
  const notesAt = tokens.findIndex((t) => t.type === 'paragraph' && /^notes:/i.test(t.raw))
  const shown = notesAt < 0 ? tokens : tokens.slice(0, notesAt)
  const notes =
    notesAt < 0
      ? ''
      : tokens
          .slice(notesAt)
          .map((t) => t.raw)
          .join('')
          .replace(/^notes:/i, '')
          .trim()
  const heading = shown.find((t): t is Tokens.Heading => t.type === 'heading')
  const titleRuns = heading ? inline(heading.tokens, { size: SIZES.heading, bold: true, serif: true }) : []
  const body = shown.filter((t) => t !== heading).flatMap(block)
  const image = pictureOf(shown)
  const warnings: string[] = []
  const hasPicture = image !== null && pictures.has(image.href)
  if (image && !hasPicture)
    warnings.push(`The picture “${image.href}” is not among the files, so it is missing. Drop it together with the text.`)
  const box = (x: number, y: number, width: number, height: number, paragraphs: Paragraph[], anchor: 'top' | 'middle') => ({
    kind: 'shape' as const,
    box: { x, y, width, height, rotation: 0, flipX: false, flipY: false },
    path: [],
    fill: null,
    line: null,
    text: { paragraphs, anchor, inset: { left: 0, top: 0, right: 0, bottom: 0 }, wrap: true, scale: 1 },
  })
  const isTitle = body.length === 0 && !hasPicture
  const textWidth = hasPicture && body.length > 0 ? 820 : WIDTH - 2 * MARGIN
  const title = plain(titleRuns).trim() || plain(body[0]?.runs ?? []).trim()
  return {
    title: title.slice(0, 120),
    altText: [plain(titleRuns), ...body.map((p) => plain(p.runs)), isFileName(image?.text ?? '') ? '' : (image?.text ?? '')]
      .join(' ')
      .replace(/\s+/g, ' ')
      .trim()
      .slice(0, 1000),
    notes,
    section: '',
    hidden: false,
    advanceMs: null,
    sound: null,
    warnings,
    drawing: {
      width: WIDTH,
      height: HEIGHT,
      background: { kind: 'solid', colour: '#f8f5ee' },
      items: [
        {
          kind: 'shape',
          box: { x: MARGIN, y: isTitle ? 0 : 96, width: 96, height: 10, rotation: 0, flipX: false, flipY: false },
          path: isTitle
            ? []
            : [
                { to: 'move', x: 0, y: 0 },
                { to: 'line', x: 1, y: 0 },
                { to: 'line', x: 1, y: 1 },
                { to: 'line', x: 0, y: 1 },
                { to: 'close' },
              ],
          fill: { kind: 'solid', colour: SPRUCE },
          line: null,
          text: null,
        },
        ...(titleRuns.length > 0
          ? [
              box(
                MARGIN,
                isTitle ? 0 : 130,
                WIDTH - 2 * MARGIN,
                isTitle ? HEIGHT : 190,
                [paragraph(titleRuns)],
                isTitle ? 'middle' : 'top',
              ),
            ]
          : []),
        ...(body.length > 0
          ? [box(MARGIN, titleRuns.length > 0 ? 330 : 130, textWidth, titleRuns.length > 0 ? 640 : 840, body, 'top')]
          : []),
        ...(hasPicture
          ? [
              {
                kind: 'picture' as const,
                box: {
                  x: body.length > 0 ? 1020 : MARGIN,
                  y: 330,
                  width: body.length > 0 ? 750 : WIDTH - 2 * MARGIN,
                  height: 640,
                  rotation: 0,
                  flipX: false,
                  flipY: false,
                },
                part: image!.href,
                crop: { left: 0, top: 0, right: 0, bottom: 0 },
                opacity: 1,
                contain: true,
              },
            ]
          : []),
      ],
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
    throw new DeckProblem(`“${name}” says nothing. Write a heading for each slide, with --- between slides.`)
  if (written.length > MOST_SLIDES)
    throw new DeckProblem(`“${name}” has ${written.length} slides; the most is ${MOST_SLIDES}. Divide it.`)
  return written.map((tokens) => slideOf(tokens, pictures))
}
