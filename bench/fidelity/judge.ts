/**
 * The text boxes of slides as Chromium sets them with HarfBuzz, in the same faces, by the sizes that their files say: an independent layout. What
 * a box inherits is read by us; how its lines are shaped, broken, spaced and placed is not.
 */
import { readdirSync, readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { createCanvas } from '@napi-rs/canvas'
import { type Browser, chromium, type Page } from '@playwright/test'
import type { Drawing, TextBox } from '#core/deck/deck.ts'
import type { Face } from '#core/deck/faces.ts'
import { placeText } from '#server/import/paint-text.ts'
import { FACES } from '#server/text/families.ts'
import { fontFor } from '#server/text/fonts.ts'
import { BROWSER } from '#tests/support/browser.ts'

/** Shares of the slide's sides, and of the size of letters. */
const [PLACE, SIZE] = [0.02, 0.03]

const lacksLetters = (face: Face, text: string) =>
  [...new Set(text)].some((sign) => sign.trim() !== '' && fontFor(sign, face, 'ja')?.family !== FACES[face])

/** What a box holds and where it stands, as the page is told of it. */
interface Told {
  text: TextBox
  width: number
  height: number
}
interface Extent {
  left: number
  right: number
  top: number
  bottom: number
  lines: number
  scale: number
}

function styles(): string {
  const require = createRequire(import.meta.url)
  return Object.entries(FACES)
    .flatMap(([face, family]) => {
      const folder = join(dirname(require.resolve(`${family.package}/package.json`)), 'files')
      const name = family.package.split('/')[1]!
      const told = JSON.parse(readFileSync(join(folder, '../unicode.json'), 'utf8')) as Record<string, string>
      return readdirSync(folder)
        .filter((file) => /\.woff2$/.test(file) && /-(400|700|wght)-(normal|italic)\./.test(file))
        .flatMap((file) => {
          const [, subset, weight, style] = new RegExp(`^${name}-(.+)-(400|700|wght)-(normal|italic)\\.woff2$`).exec(file) ?? []
          const range = subset && (told[subset] ?? told[`[${subset}]`])
          if (!range) return []
          const data = readFileSync(join(folder, file)).toString('base64')
          const weights = weight === 'wght' ? '100 900' : weight
          return `@font-face{font-family:"${face}";src:url(data:font/woff2;base64,${data});font-weight:${weights};font-style:${style};unicode-range:${range}}`
        })
    })
    .join('\n')
}

/** Runs in the page: sets one box, and says where its letters are. */
function setInPage({ text, width, height }: Told, lines: Record<string, number>): Extent {
  const { inset, paragraphs, wrap, anchor } = text
  // boxes are often as wide as their text, to the last digit of a program that rounds otherwise
  const roomX = width - inset.left - inset.right + (wrap ? 0.5 : 0)
  const roomY = height - inset.top - inset.bottom
  const box = document.createElement('div')
  document.body.append(box)
  const fill = (scale: number) => {
    box.replaceChildren()
    box.style.cssText = `position:absolute;left:0;top:0;${wrap ? `width:${roomX}px` : 'width:max-content'};white-space:${wrap ? 'pre-wrap' : 'pre'};overflow-wrap:anywhere`
    for (const [i, one] of paragraphs.entries()) {
      const p = document.createElement('p')
      const spacing = one.lineSpacing
      const high = (size: number, face: string) => (spacing < 0 ? -spacing * scale : size * scale * lines[face]! * spacing)
      p.dir = one.rightToLeft ? 'rtl' : 'ltr'
      const side = one.rightToLeft ? 'right' : 'left'
      p.style.cssText = `margin:0;font-size:0;line-height:0;padding-${side}:${one.left * scale}px;text-indent:${one.indent * scale}px;text-align:${one.align === 'left' && one.rightToLeft ? 'right' : one.align}`
      // no margins: those of neighbours would not be added
      p.style.paddingTop = `${i === 0 ? 0 : one.before * scale}px`
      p.style.paddingBottom = `${one.after * scale}px`
      const span = (words: string, run: (typeof one.runs)[number], size: number) => {
        const made = document.createElement('span')
        made.textContent = words
        made.style.cssText = `font:${run.italic ? 'italic' : 'normal'} ${run.bold ? 700 : 400} ${size * scale}px "${run.face}";line-height:${high(size, run.face)}px`
        return made
      }
      const [first] = one.runs
      if (one.bullet !== null && first) {
        const sign = span(one.bullet, { ...first, italic: false }, first.size * one.bulletSize)
        sign.className = 'sign'
        sign.style.display = 'inline-block'
        sign.style.textIndent = '0'
        sign.style.minWidth = `${Math.max(0, -one.indent * scale)}px`
        p.append(sign)
        // where it has no room of its own, the text follows it
        const free = sign.getBoundingClientRect().width
        if (free >= -one.indent * scale - 0.01) sign.style.paddingInlineEnd = `${0.35 * first.size * one.bulletSize * scale}px`
      }
      for (const [k, run] of one.runs.entries()) {
        // a line that nothing follows on is one all the same
        const isLast = k === one.runs.length - 1
        p.append(
          span(run.text === '' ? '\u200b' : isLast && run.text.endsWith('\n') ? `${run.text}\u200b` : run.text, run, run.size),
        )
      }
      box.append(p)
      const sign = p.querySelector<HTMLElement>('.sign')
      if (sign && first) {
        sign.style.minWidth = '0'
        const own = sign.getBoundingClientRect().width
        const gap = 0.35 * first.size * one.bulletSize * scale
        sign.style.paddingInlineEnd = '0'
        const bare = Math.min(own, sign.getBoundingClientRect().width)
        sign.style.width = `${Math.max(-one.indent * scale, bare + gap)}px`
      }
    }
  }
  let scale = text.scale
  fill(scale)
  while (
    text.shrinks &&
    scale > 0.25 * text.scale &&
    (box.scrollHeight > roomY * 1.02 || (wrap && box.scrollWidth > roomX * 1.01))
  ) {
    scale *= 0.99
    fill(scale)
  }
  const whole = box.getBoundingClientRect()
  const rects = [...box.querySelectorAll('span:not(.sign)')].flatMap((one) => {
    const node = one.firstChild
    if (!node) return []
    // spaces at the end of a line hang over it
    return [...(one.textContent ?? '').matchAll(/[^\s\u200b]+/g)].flatMap(({ 0: word, index }) => {
      const range = document.createRange()
      range.setStart(node, index)
      range.setEnd(node, index + word.length)
      return [...range.getClientRects()].filter(({ width: w }) => w > 0.5)
    })
  })
  const offset = anchor === 'top' ? 0 : anchor === 'bottom' ? roomY - whole.height : (roomY - whole.height) / 2
  const align = paragraphs[0]?.align
  const across = wrap ? 0 : align === 'center' ? (roomX - whole.width) / 2 : align === 'right' ? roomX - whole.width : 0
  box.remove()
  const middles = rects.map(({ top, bottom }) => (top + bottom) / 2).sort((a, b) => a - b)
  const smallest = Math.min(...paragraphs.flatMap((one) => one.runs.map((run) => run.size))) * scale
  return {
    left: Math.min(...rects.map((r) => r.left)) + inset.left + across,
    right: Math.max(...rects.map((r) => r.right)) + inset.left + across,
    top: inset.top + offset,
    bottom: inset.top + offset + whole.height,
    lines: middles.filter((middle, i) => i === 0 || middle - middles[i - 1]! > smallest * 0.5).length,
    scale,
  }
}

const context = createCanvas(1, 1).getContext('2d')

/** Where our own layout puts the letters of a box. */
function ours({ text, width, height }: Told): Extent {
  const { lines, scale } = placeText(context, text, width, height, '')
  const seen = lines.filter(({ line }) => line.pieces.some((piece) => !piece.isSpace))
  const last = lines.at(-1)!
  return {
    left: Math.min(...seen.map(({ x }) => x)),
    right: Math.max(...seen.map(({ x, line }) => x + line.width)),
    top: lines[0]!.top,
    bottom: last.top + last.high + last.paragraph.paragraph.after * scale,
    lines: seen.length,
    scale,
  }
}

export interface BoxJudged {
  ok: boolean
  ours: Extent
  theirs: Extent
  words: string
}

export class Judge {
  readonly #browser: Browser
  readonly #page: Page
  readonly #lines = Object.fromEntries(Object.entries(FACES).map(([face, family]) => [face, family.line.height]))

  private constructor(browser: Browser, page: Page) {
    this.#browser = browser
    this.#page = page
  }

  static async open(): Promise<Judge> {
    const browser = await chromium.launch(BROWSER)
    const page = await browser.newPage({ viewport: { width: 1920, height: 1080 } })
    await page.setContent(
      `<!doctype html><style>${styles()} body{margin:0;font-kerning:normal;text-rendering:geometricPrecision}</style>`,
    )
    await page.evaluate(() => Promise.all([...document.fonts].map((font) => font.load())))
    return new Judge(browser, page)
  }

  /** Text boxes of a slide with letters of the faces that both have. */
  async boxes(drawing: Drawing): Promise<BoxJudged[]> {
    const told = drawing.items.flatMap((item): Told[] => {
      if (item.kind !== 'shape' || !item.text) return []
      const { text, box } = item
      const words = text.paragraphs.flatMap((p) => p.runs.map((run) => run.text)).join('')
      // letters that a face lacks come from other families, and from others there than here
      if (/\t/.test(words) || text.paragraphs.some((p) => p.runs.some((run) => lacksLetters(run.face, run.text)))) return []
      const isOnSide = Math.abs(text.turn % 180) === 90
      return [{ text, width: isOnSide ? box.height : box.width, height: isOnSide ? box.width : box.height }]
    })
    const theirs: Extent[] = await this.#page.evaluate(
      ({ list, lines, run }) => {
        const set = new Function('__name', `return ${run}`)((made: unknown) => made) as (
          one: Told,
          lines: Record<string, number>,
        ) => Extent
        return list.map((one) => set(one, lines))
      },
      { list: told, lines: this.#lines, run: setInPage.toString() },
    )
    return told.map((one, i) => {
      const [own, other] = [ours(one), theirs[i]!]
      const near = (a: number, b: number, side: number) => Math.abs(a - b) <= PLACE * side
      return {
        ok:
          near(own.left, other.left, drawing.width) &&
          near(own.right, other.right, drawing.width) &&
          near(own.top, other.top, drawing.height) &&
          near(own.bottom, other.bottom, drawing.height) &&
          Math.abs(own.scale / other.scale - 1) <= SIZE,
        ours: own,
        theirs: other,
        words: one.text.paragraphs
          .flatMap((p) => p.runs.map((run) => run.text))
          .join(' ')
          .slice(0, 60),
      }
    })
  }

  async close() {
    await this.#browser.close()
  }
}
