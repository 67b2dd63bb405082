/** Text of DrawingML with all it inherits: from the deck, its master, its layout, its shape. @see ECMA-376, part 1, §21.1.2 */
import type { Paragraph, TextBox, TextRun } from '../deck.ts'
import { faceOf } from '../faces.ts'
import { numeral } from '../numeral.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { colourIn, type Theme } from './colours.ts'

/** What text is drawn with; lengths are pixels. */
export interface TextContext {
  theme: Theme
  /** Pixels of an English Metric Unit. */
  scale: number
  /** List styles from the farthest to the nearest: each has `lvl1pPr` … `lvl9pPr`. */
  styles: (XmlNode | undefined)[]
  /** What text is when nothing says otherwise, CSS. */
  colour: string
  /** Of a field such as the slide's number. */
  slideNumber: number
}

const EMU_A_POINT = 12_700
const USUAL_POINTS = 18

/** @see ECMA-376, part 1, §20.1.10.61 (ST_TextAutonumberScheme) */
function numberText(scheme: string, n: number): string {
  const bare = numeral(/^alpha/.test(scheme) ? 'letters' : /^roman/.test(scheme) ? 'roman' : 'digits', n)
  const cased = /Uc/.test(scheme) ? bare.toUpperCase() : bare
  if (/ParenBoth$/.test(scheme)) return `(${cased})`
  if (/ParenR$/.test(scheme)) return `${cased})`
  return /Plain$/.test(scheme) ? cased : `${cased}.`
}

/** Symbol fonts put pictures where letters are: the usual ones, as letters everybody has. */
const SYMBOLS: Record<string, string> = { '§': '▪', ü: '✓', Ø: '➢', q: '❑', v: '❖', à: '→', l: '●', n: '■', o: '○' }

/** One property, by the nearest that says it. */
const nearest = <T>(levels: readonly (XmlNode | undefined)[], read: (node: XmlNode) => T | null | undefined): T | null => {
  for (let i = levels.length - 1; i >= 0; i--) {
    const level = levels[i]
    const value = level && read(level)
    if (value !== null && value !== undefined) return value
  }
  return null
}

function runOf(text: string, own: XmlNode | undefined, levels: (XmlNode | undefined)[], context: TextContext): TextRun {
  const all = [...levels.map((level) => child(level, 'defRPr')), own]
  const attr = (name: string) => nearest(all, (node) => node.attrs[name])
  const points = (numberOf(attr('sz') ?? undefined) ?? USUAL_POINTS * 100) / 100
  const face = nearest(all, (node) => child(node, 'latin'))
  const family = face?.attrs.typeface ?? ''
  const named = family.startsWith('+mj')
    ? context.theme.major
    : family.startsWith('+mn') || family === ''
      ? context.theme.minor
      : family
  const baseline = (numberOf(attr('baseline') ?? undefined) ?? 0) / 100_000
  const { panose, pitchFamily } = face?.attrs ?? {}
  const caps = attr('cap') === 'all'
  return {
    text: caps ? text.toUpperCase() : text,
    size: points * EMU_A_POINT * context.scale * (baseline === 0 ? 1 : 0.66),
    bold: attr('b') === '1' || attr('b') === 'true',
    italic: attr('i') === '1' || attr('i') === 'true',
    underline: (attr('u') ?? 'none') !== 'none',
    strike: (attr('strike') ?? 'noStrike') !== 'noStrike',
    colour:
      nearest(
        all,
        (node) =>
          colourIn(child(node, 'solidFill'), context.theme) ?? colourIn(at(node, 'gradFill', 'gsLst', 'gs'), context.theme),
      ) ?? context.colour,
    face: faceOf(named, { panose, pitchFamily }),
    raise: baseline,
  }
}

const spacing = (node: XmlNode | undefined, context: TextContext): number | null => {
  const percent = numberOf(child(node, 'spcPct')?.attrs.val?.replace('%', '000'))
  if (percent !== null) return percent / 100_000
  const points = numberOf(child(node, 'spcPts')?.attrs.val)
  return points === null ? null : -(points / 100) * EMU_A_POINT * context.scale
}

/** @param body `txBody` of a shape; @param counters numbers of lists so far, by level */
function paragraphsOf(body: XmlNode, context: TextContext): Paragraph[] {
  const counters: number[] = []
  return children(body, 'p').map((p): Paragraph => {
    const own = child(p, 'pPr')
    const level = Number(own?.attrs.lvl ?? 0)
    const levels = [...context.styles.map((style) => child(style, `lvl${level + 1}pPr`)), own]
    const px = (name: string) => (numberOf(nearest(levels, (node) => node.attrs[name]) ?? undefined) ?? 0) * context.scale
    const runs: TextRun[] = p.children.flatMap((piece): TextRun[] => {
      if (piece.name === 'br') return [runOf('\n', child(piece, 'rPr'), levels, context)]
      if (piece.name === 'm' || piece.name === 'oMath' || piece.name === 'oMathPara') {
        // an equation whose writer kept no picture of it is read as its words (ECMA-376, part 1, §22.1)
        const words = below(piece, 't')
          .map((t) => t.text)
          .join('')
        return words === '' ? [] : [runOf(words, undefined, levels, context)]
      }
      if (piece.name !== 'r' && piece.name !== 'fld') return []
      const text =
        piece.name === 'fld' && piece.attrs.type === 'slidenum' ? String(context.slideNumber) : (child(piece, 't')?.text ?? '')
      return text === '' ? [] : [runOf(text, child(piece, 'rPr'), levels, context)]
    })
    // an empty paragraph is as high as its end mark
    if (runs.length === 0) runs.push(runOf('', child(p, 'endParaRPr'), levels, context))
    const mark = nearest(levels, (node) => node.children.find((c) => /^bu(None|Char|AutoNum|Blip)$/.test(c.name)))
    const isBlank = runs.every((run) => run.text.trim() === '')
    let bullet: string | null = null
    if (mark?.name === 'buAutoNum' && !isBlank) {
      counters.length = Math.max(counters.length, level + 1)
      counters.splice(level + 1)
      counters[level] = counters[level] === undefined ? Number(mark.attrs.startAt ?? 1) : counters[level]! + 1
      bullet = numberText(mark.attrs.type ?? 'arabicPeriod', counters[level]!)
    } else if (mark?.name === 'buChar' && !isBlank) {
      const character = mark.attrs.char ?? '•'
      const symbolic = /wingdings|symbol/i.test(nearest(levels, (node) => child(node, 'buFont')?.attrs.typeface) ?? '')
      bullet = symbolic ? (SYMBOLS[character] ?? '•') : character
    } else if (mark?.name === 'buBlip' && !isBlank) bullet = '•'
    else if (!isBlank) counters.splice(level)
    const align = nearest(levels, (node) => node.attrs.algn)
    const size = Math.max(...runs.map((run) => run.size))
    const gap = (name: string) => {
      const value = nearest(levels, (node) => spacing(child(node, name), context))
      return value === null ? 0 : value < 0 ? -value : value * size
    }
    return {
      runs,
      align: align === 'ctr' ? 'center' : align === 'r' ? 'right' : 'left',
      left: px('marL'),
      indent: px('indent'),
      bullet,
      bulletColour: nearest(levels, (node) => colourIn(child(node, 'buClr'), context.theme)),
      bulletSize:
        (numberOf(nearest(levels, (node) => child(node, 'buSzPct')?.attrs.val)?.replace('%', '000')) ?? 100_000) / 100_000,
      lineSpacing: nearest(levels, (node) => spacing(child(node, 'lnSpc'), context)) ?? 1,
      before: gap('spcBef'),
      after: gap('spcAft'),
      rightToLeft: nearest(levels, (node) => node.attrs.rtl) === '1',
    }
  })
}

/** What a shape's own style says of its letters, as a list style that says it on every level. @param attrs such as `b` */
export function fontStyle(fontRef: XmlNode | undefined, attrs: Record<string, string> = {}): XmlNode | undefined {
  if (!fontRef) return undefined
  const node = (name: string, inside: XmlNode[], own: Record<string, string> = {}): XmlNode => ({
    name,
    attrs: own,
    children: inside,
    text: '',
  })
  const colour = fontRef.children.some((c) => /Clr$/.test(c.name)) ? [node('solidFill', fontRef.children)] : []
  const family = { major: '+mj-lt', minor: '+mn-lt' }[fontRef.attrs.idx ?? '']
  const letters = node('defRPr', [...colour, ...(family ? [node('latin', [], { typeface: family })] : [])], attrs)
  return node(
    'lstStyle',
    Array.from({ length: 9 }, (_, i) => node(`lvl${i + 1}pPr`, [letters])),
  )
}

/** Quarter turns of text in its shape; other ways of standing upright are drawn lying. @see ECMA-376, part 1, §20.1.10.83, ST_TextVerticalType */
const TURNS: Record<string, number> = { vert: 90, eaVert: 90, vert270: -90 }

/** @param bodies `bodyPr` from the farthest to the nearest */
export function textBox(body: XmlNode, bodies: (XmlNode | undefined)[], context: TextContext): TextBox | null {
  const paragraphs = paragraphsOf(body, context)
  if (paragraphs.every((p) => p.runs.every((run) => run.text.trim() === ''))) return null
  const px = (name: string, usual: number) =>
    (numberOf(nearest(bodies, (node) => node.attrs[name]) ?? undefined) ?? usual) * context.scale
  const anchor = nearest(bodies, (node) => node.attrs.anchor)
  const fit = nearest(bodies, (node) => node.children.find((c) => /^(no|norm|sp)Auto[fF]it$/.test(c.name)))
  const percent = (name: string) => numberOf(fit?.attrs[name]?.replace('%', '000'))
  const shrinksTo = fit?.name === 'normAutofit' ? percent('fontScale') : null
  const closer = fit?.name === 'normAutofit' ? (percent('lnSpcReduction') ?? 0) / 100_000 : 0
  return {
    paragraphs: paragraphs.map((p) => ({ ...p, lineSpacing: p.lineSpacing > 0 ? p.lineSpacing - closer : p.lineSpacing })),
    anchor: anchor === 'ctr' ? 'middle' : anchor === 'b' ? 'bottom' : 'top',
    inset: { left: px('lIns', 91_440), top: px('tIns', 45_720), right: px('rIns', 91_440), bottom: px('bIns', 45_720) },
    wrap: nearest(bodies, (node) => node.attrs.wrap) !== 'none',
    scale: shrinksTo === null ? 1 : shrinksTo / 100_000,
    // writers that lay nothing out leave it to the reader to find how small the letters must be
    shrinks: fit?.name === 'normAutofit' && shrinksTo === null,
    turn:
      (TURNS[nearest(bodies, (node) => node.attrs.vert) ?? ''] ?? 0) +
      (numberOf(nearest(bodies, (node) => node.attrs.rot) ?? undefined) ?? 0) / 60_000,
  }
}

/** Plain text of a text body, a line a paragraph. */
export function plainText(body: XmlNode | undefined): string {
  return children(body, 'p')
    .map((p) =>
      p.children
        .map((piece) =>
          piece.name === 'br'
            ? '\n'
            : /^(r|fld)$/.test(piece.name)
              ? (child(piece, 't')?.text ?? '')
              : /^(m|oMath|oMathPara)$/.test(piece.name)
                ? below(piece, 't')
                    .map((t) => t.text)
                    .join('')
                : '',
        )
        .join(''),
    )
    .join('\n')
    .trim()
}
