/**
 * The same paragraphs as Pango sets them with HarfBuzz (Debian `pango1.0-tools`), with the same font files, line by line beside ours.
 *
 * A line is compared by its ink alone: cut out, softened so that half a pixel of another rounding does not count, and laid upon each other.
 */
import { execFile } from 'node:child_process'
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { basename, dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { createCanvas } from '@napi-rs/canvas'
import pLimit from 'p-limit'
import sharp from 'sharp'
import coverage from '#server/text/coverage.json' with { type: 'json' }
import { FAMILIES, HAN } from '#server/text/families.ts'
import type { Style } from '#server/text/fonts.ts'
import { drawLine, linesOf, shapeText } from '#server/text/layout.ts'
import type { TestParagraph } from './paragraphs.ts'

const SIZE = 40
const WIDEST = 900
/** Pango puts letters on whole pixels: it draws so many times larger. */
const FINE = 4
/** Lines so far apart that none touches the next. */
const SPREAD = 2.5
/** Families in the order in which both of us look for letters. */
const ORDER = [
  'Atkinson Hyperlegible Next',
  'Noto Sans',
  ...['Arabic', 'Hebrew', 'Devanagari', 'Bengali', 'Tamil', 'Thai', 'Armenian', 'Georgian'].map((name) => `Noto Sans ${name}`),
]
const HAN_NAMES = {
  ja: 'Noto Sans JP,Noto Sans JP Thin',
  ko: 'Noto Sans KR,Noto Sans KR Thin',
  'zh-Hans': 'Noto Sans SC,Noto Sans SC Thin',
  'zh-Hant': 'Noto Sans TC,Noto Sans TC Thin',
}

export const hasJudge = () => ['pango-view', 'woff2_decompress'].every((program) => existsSync(join('/usr/bin', program)))

/** A folder in which Pango finds the shipped files, unpacked, and no other fonts. */
export async function openJudge() {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-pango-'))
  const fonts = join(folder, 'fonts')
  mkdirSync(fonts)
  const all = FAMILIES.flatMap((family) => {
    const files = join(dirname(createRequire(import.meta.url).resolve(`${family.package}/package.json`)), 'files')
    return Object.keys((coverage as Record<string, Record<string, string>>)[family.name]!).map((file) => join(files, file))
  })
  const inTurn = pLimit(4)
  await Promise.all(
    all.map((file) =>
      inTurn(async () => {
        const packed = join(fonts, basename(file))
        copyFileSync(file, packed)
        await promisify(execFile)('woff2_decompress', [packed])
        rmSync(packed)
      }),
    ),
  )
  const settings = join(folder, 'fonts.conf')
  writeFileSync(
    settings,
    `<?xml version="1.0"?><!DOCTYPE fontconfig SYSTEM "fonts.dtd"><fontconfig><dir>${fonts}</dir><cachedir>${folder}/cache</cachedir></fontconfig>`,
  )
  return { folder, settings, close: () => rmSync(folder, { recursive: true, force: true }) }
}
export type Judge = Awaited<ReturnType<typeof openJudge>>

interface Ink {
  /** 0 to 255, dark is high. */
  data: Uint8Array
  width: number
  height: number
}

async function inkOf(png: Buffer): Promise<Ink> {
  const { data, info } = await sharp(png)
    .flatten({ background: '#ffffff' })
    .greyscale()
    .negate()
    .raw()
    .toBuffer({ resolveWithObject: true })
  return { data: new Uint8Array(data), width: info.width, height: info.height }
}

/** Lines of a picture, from top to bottom, each cut to its ink. Rows without ink stand between them. */
function linesIn(ink: Ink): Ink[] {
  const dark = (x: number, y: number) => ink.data[y * ink.width + x]! > 24
  const hasInk = Array.from({ length: ink.height }, (_, y) =>
    Array.from({ length: ink.width }, (_, x) => x).some((x) => dark(x, y)),
  )
  const bands: { top: number; bottom: number }[] = []
  for (let y = 0; y < ink.height; y++) {
    if (!hasInk[y]) continue
    const last = bands.at(-1)
    // a mark above or below a letter belongs to its line
    if (last && y - last.bottom < SIZE * 0.45) last.bottom = y
    else bands.push({ top: y, bottom: y })
  }
  return bands.map(({ top, bottom }) => {
    let [left, right] = [ink.width, 0]
    for (let y = top; y <= bottom; y++)
      for (let x = 0; x < ink.width; x++)
        if (dark(x, y)) {
          left = Math.min(left, x)
          right = Math.max(right, x)
        }
    const [width, height] = [right - left + 1, bottom - top + 1]
    const data = new Uint8Array(width * height)
    for (let y = 0; y < height; y++)
      data.set(ink.data.subarray((top + y) * ink.width + left, (top + y) * ink.width + left + width), y * width)
    return { data, width, height }
  })
}

/** As Pango sets it. */
export async function judgedLines({ folder, settings }: Judge, paragraph: TestParagraph): Promise<Ink[]> {
  const output = join(folder, 'paragraph.png')
  const hans = Object.keys(HAN) as (keyof typeof HAN)[]
  const families = [
    ...ORDER,
    HAN_NAMES[paragraph.han],
    ...hans.filter((han) => han !== paragraph.han).map((han) => HAN_NAMES[han]),
  ]
  await promisify(execFile)(
    'pango-view',
    [
      ...[
        '--no-display',
        '--backend=cairo',
        '--hinting=none',
        '--hint-metrics=off',
        '--antialias=gray',
        `--dpi=${72 * FINE}`,
        '--margin=60',
      ],
      ...[
        `--font=${families.join(',')} ${SIZE} @wght=400`,
        `--width=${widthOf(paragraph)}`,
        '--wrap=word',
        `--line-spacing=${SPREAD}`,
      ],
      ...['--no-auto-dir', ...(paragraph.direction === 'rtl' ? ['--rtl'] : [])],
      ...[`--text=${paragraph.text}`, `--output=${output}`],
    ],
    { env: { ...process.env, FONTCONFIG_FILE: settings, LC_ALL: 'C.UTF-8' } },
  )
  const { width, height } = await sharp(output).metadata()
  const size = { width: Math.round(width / FINE), height: Math.round(height / FINE) }
  return linesIn(
    await inkOf(
      await sharp(output)
        .resize({ ...size, kernel: 'cubic', fit: 'fill' })
        .png()
        .toBuffer(),
    ),
  )
}

const STYLE: Style = { size: SIZE, weight: 400, italic: false, face: 'plain' }

const setIn = ({ text, direction, han }: TestParagraph, width: number) => {
  const measure = createCanvas(1, 1).getContext('2d')
  return linesOf(shapeText(measure, [{ text, style: STYLE }], direction, han), width, width, 1)
}

/** A width at which no word ends within a hundredth of it: there a rounded pixel would decide where a line is broken. */
function widthOf(paragraph: TestParagraph): number {
  const breaks = (width: number) =>
    setIn(paragraph, width)
      .map((line) => line.pieces.length)
      .join()
  for (let width = WIDEST; ; width -= 10) if (breaks(width * 0.99) === breaks(width * 1.01)) return width
}

/** As we set it. */
export async function ourLines(paragraph: TestParagraph): Promise<Ink[]> {
  const lines = setIn(paragraph, widthOf(paragraph))
  const canvas = createCanvas(WIDEST + 120, Math.ceil((lines.length + 1) * SIZE * SPREAD))
  const context = canvas.getContext('2d')
  context.fillStyle = '#ffffff'
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.fillStyle = '#000000'
  for (const [i, line] of lines.entries()) drawLine(context, line, 60, (i + 1) * SIZE * SPREAD, 1)
  return linesIn(await inkOf(canvas.toBuffer('image/png')))
}

/** A line softened by a small Gaussian, in a picture of a size, from a place on. */
async function softened({ data, width, height }: Ink, to: { width: number; height: number }, left: number, top: number) {
  const soft = await sharp(data, { raw: { width, height, channels: 1 } })
    .extend({ left, top, right: to.width - width - left, bottom: to.height - height - top, background: '#000000' })
    .greyscale()
    .blur(1.5)
    .raw()
    .toBuffer()
  return new Uint8Array(soft)
}

const WINDOW = 8
/** Where a line's ink begins is uncertain by a pixel or two: the better of these places counts. */
const REACH = 2

/**
 * Structural similarity of two lines where either has ink: mean over windows of 8 × 8 pixels.
 *
 * @see Wang, Bovik, Sheikh & Simoncelli 2004, IEEE Trans. Image Processing 13(4): formula 13, with its constants; windows that are not weighted
 */
function similarity(x: Uint8Array, y: Uint8Array, size: { width: number; height: number }): number {
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2]
  let [sum, count] = [0, 0]
  for (let top = 0; top + WINDOW <= size.height; top += WINDOW / 2)
    for (let left = 0; left + WINDOW <= size.width; left += WINDOW / 2) {
      let [sx, sy, sxx, syy, sxy] = [0, 0, 0, 0, 0]
      for (let row = top; row < top + WINDOW; row++)
        for (let column = left; column < left + WINDOW; column++) {
          const [p, q] = [x[row * size.width + column]!, y[row * size.width + column]!]
          sx += p
          sy += q
          sxx += p * p
          syy += q * q
          sxy += p * q
        }
      const n = WINDOW * WINDOW
      const [mx, my] = [sx / n, sy / n]
      if (Math.max(mx, my) < 4) continue
      const [vx, vy, cov] = [sxx / n - mx * mx, syy / n - my * my, sxy / n - mx * my]
      sum += ((2 * mx * my + c1) * (2 * cov + c2)) / ((mx * mx + my * my + c1) * (vx + vy + c2))
      count++
    }
  return count === 0 ? 1 : sum / count
}

/** The same of two lines, wherever within a pixel or two they lie upon each other best. */
export async function likeness(a: Ink, b: Ink): Promise<number> {
  const size = { width: Math.max(a.width, b.width) + 2 * REACH, height: Math.max(a.height, b.height) + 2 * REACH }
  const still = await softened(a, size, REACH, REACH)
  let best = 0
  for (let left = 0; left <= 2 * REACH; left++)
    for (let top = 0; top <= 2 * REACH; top++) best = Math.max(best, similarity(still, await softened(b, size, left, top), size))
  return best
}

/** Lines as many as the judge's, each like its own: the least of their likenesses; 0 where their number differs. */
export async function paragraphLikeness(judge: Judge, paragraph: TestParagraph): Promise<number> {
  const [theirs, ours] = [await judgedLines(judge, paragraph), await ourLines(paragraph)]
  if (theirs.length !== ours.length) return 0
  return Math.min(...(await Promise.all(ours.map((line, i) => likeness(line, theirs[i]!)))))
}
