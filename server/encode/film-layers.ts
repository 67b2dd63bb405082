/** What lies over the pictures of a slide that moves: its films, and over them the teacher's crest and captions. */
import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import type { FilmRun, FrozenFilm, PlannedFilm } from '#core/edition/films.ts'
import type { FrameRun } from '#core/edition/frames/frames.ts'
import type { PictureSpan, PlannedSlide } from '#core/edition/plan.ts'
import type { Crest } from '#core/model/export-settings.ts'
import { SQUARE_CORNER } from '#core/model/moving/small-picture.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import type { Lend } from '#server/storage/file-store.ts'
import { drawCaption } from './draw-caption.ts'
import { captionsAtTop, crestLayer, framed, MARGIN } from './pictures.ts'
import { sumOf } from './sum-expression.ts'

interface Size {
  width: number
  height: number
}

/** A film, or a picture, over what is under it. */
export interface Layer {
  input: string[]
  /** From its input to frames that stand at the slide's own moments. */
  filter: string
  /** An input that says where it is seen: white there. */
  mask?: string[]
  x: number
  y: number
  /** Samples of the slide between which it is seen; `until` null to its end. */
  from: number
  until: number | null
}

/** Chroma has half the resolution: places and sizes are even. */
const even = (value: number) => 2 * Math.round(value / 2)

export function pixels({ place }: Pick<PlannedFilm, 'place'>, { width, height }: Size) {
  return {
    x: even(place.x * width),
    y: even(place.y * height),
    width: Math.max(2, even(place.width * width)),
    height: Math.max(2, even(place.height * height)),
  }
}

const file = (path: string) => ['-protocol_whitelist', 'file', '-f', 'mov', '-i', path]
/** Half a frame before it, so that rounding never takes the one before. */
export const seekTo = (frame: number, [count, per]: [number, number]) =>
  frame > 0 ? ['-ss', (((frame - 0.5) * per) / count).toFixed(6)] : []

/** What of a film is shown again and again, as a file of its own where that is not all of it. */
async function loopInput(media: Ffmpeg, film: PlannedFilm, path: string, folder: string, signal: AbortSignal): Promise<string[]> {
  const again = ['-stream_loop', '-1']
  if (film.from === 0 && film.to === film.frames) return [...again, ...file(path)]
  const cut = join(folder, `loop-${film.filmId}.mp4`)
  const plain = ['-c:v', 'libx264', '-preset', 'ultrafast', '-qp', '8', '-bf', '0', '-f', 'mp4']
  await media.run([...seekTo(film.from, film.rate), ...file(path), '-frames:v', String(film.to - film.from), ...plain, cut], {
    signal,
    timeoutSeconds: 3600,
  })
  return [...again, ...file(cut)]
}

async function filmLayer(
  media: Ffmpeg,
  film: PlannedFilm,
  lend: Lend,
  size: Size,
  folder: string,
  signal: AbortSignal,
): Promise<Layer> {
  const path = await lend(film.proxy)
  if (film.runs) return runLayer(film, film.runs, path, size, folder)
  const step = (SAMPLE_RATE * film.rate[1]) / film.rate[0]
  const once = film.to - film.from
  const frames = Math.ceil((film.endSamples - film.startSamples - 0.5) / step)
  const input =
    frames > once ? await loopInput(media, film, path, folder, signal) : [...seekTo(film.from, film.rate), ...file(path)]
  const { x, y, width, height } = pixels(film, size)
  const moment = `if(eq(N,0),${film.seenSamples},floor(${film.startSamples}+N*${step}+0.01))`
  return {
    input,
    filter: `trim=end_frame=${Math.max(1, frames)},settb=1/48000,setpts=${moment.replaceAll(',', '\\,')},scale=${width}:${height}:flags=bicubic,setsar=1,format=yuv420p`,
    x,
    y,
    from: film.seenSamples,
    until: film.stays ? null : film.endSamples,
  }
}

/** Common practice, no published source: where a speaker's picture was cut, it dissolves for about an eighth of a second. */
const DISSOLVED_FRAMES = 4

/**
 * Which frames of a footage are seen, and the moments of the slide at which they are.
 *
 * @param step samples between its frames
 * @returns expressions, and a filter for where it was cut: each of the last frames before a cut is mixed with those that follow it
 */
export function runMoments(
  runs: readonly FilmRun[],
  seenSamples: number,
  step: number,
): { select: string; moment: string; dissolve: string } {
  const joins: string[] = []
  const first = runs[0]!.from
  let number = 0
  const moments = runs.map(({ startSamples, from, to, earlySamples }, i) => {
    const own = `max(${startSamples},floor(${startSamples - earlySamples}+(N-${number})*${step}+0.01))`
    const moment = `between(N,${number},${number + to - from - 1})*${own}`
    if (i > 0 && Math.abs(from - runs[i - 1]!.to) > 1) joins.push(`between(n,${number},${number + DISSOLVED_FRAMES - 1})`)
    number += to - from
    return moment
  })
  // frames are counted from where they are sought
  const select = sumOf(runs.map(({ from, to }) => `between(n,${from - first},${to - first - 1})`))
  const moment = `if(eq(N,0),${seenSamples},${sumOf(moments)})`
  const all = Array(DISSOLVED_FRAMES + 1)
    .fill(1)
    .join(' ')
  // the filter gives the oldest of those it holds: as many go in after the last one as it holds back, and the first ones are let go
  const dissolve =
    joins.length > 0
      ? `tpad=stop=${DISSOLVED_FRAMES}:stop_mode=clone,tmix=frames=${DISSOLVED_FRAMES + 1}:weights='${all}':enable='${sumOf(joins)}',trim=start_frame=${DISSOLVED_FRAMES},`
      : ''
  return { select: select.replaceAll(',', '\\,'), moment: moment.replaceAll(',', '\\,'), dissolve }
}

/** A square out of the middle where it is round, and as in a mirror where that is wanted. */
export function shapeFilter({ edge, isMirrored }: Pick<PlannedFilm, 'edge' | 'isMirrored'>, { width, height }: Size): string {
  // what is wider or higher than its place loses at both sides alike
  const cut = edge ? [`crop=min(iw\\,ih*${width}/${height}):min(ih\\,iw*${height}/${width})`] : []
  return [...cut, ...(isMirrored ? ['hflip'] : []), `scale=${width}:${height}:flags=bicubic`].join(',')
}

/** A layer of what was recorded with a take: stretches of one file, in order. */
async function runLayer(film: PlannedFilm, runs: readonly FilmRun[], path: string, size: Size, folder: string): Promise<Layer> {
  const place = pixels(film, size)
  const { x, y } = place
  const fileRate = film.fileRate ?? film.rate
  const { select, moment, dissolve } = runMoments(runs, film.seenSamples, (SAMPLE_RATE * film.rate[1]) / film.rate[0])
  const frames = runs.reduce((sum, { from, to }) => sum + to - from, 0)
  const shown = `select='${select}',trim=end_frame=${frames},${dissolve}settb=1/48000,setpts=${moment},${shapeFilter(film, place)},setsar=1,format=yuv420p`
  return {
    input: [...seekTo(runs[0]!.from, fileRate), ...file(path)],
    filter: shown,
    ...(film.edge && { mask: await maskInput(folder, film.edge, place) }),
    x,
    y,
    from: film.seenSamples,
    until: film.stays ? null : film.endSamples,
  }
}

/** White where the picture is seen: a circle, or a square with round corners. */
const maskPng = (edge: NonNullable<PlannedFilm['edge']>, { width, height }: Size) => {
  const corner = edge === 'round' ? Math.min(width, height) / 2 : Math.min(width, height) * SQUARE_CORNER
  const shape = `<rect width="${width}" height="${height}" rx="${corner}" fill="#fff"/>`
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${shape}</svg>`
  return sharp(Buffer.from(svg)).flatten({ background: '#000' }).toColourspace('b-w').png()
}

async function maskInput(folder: string, edge: NonNullable<PlannedFilm['edge']>, size: Size): Promise<string[]> {
  const path = join(folder, `mask-${edge}-${size.width}x${size.height}.png`)
  await writeFile(path, await maskPng(edge, size).toBuffer())
  return picture(path)
}

const picture = (path: string) => ['-protocol_whitelist', 'file', '-f', 'png_pipe', '-framerate', '30', '-i', path]
// the picture's transparency is kept, and its colours are those of the video
const OVER = 'settb=1/48000,scale=out_color_matrix=bt709:out_range=tv,format=yuva420p'

async function pictureLayer(
  folder: string,
  name: string,
  png: Buffer,
  place: Pick<Layer, 'x' | 'y' | 'from' | 'until'>,
): Promise<Layer> {
  const path = join(folder, `${name}.png`)
  await writeFile(path, png)
  return { input: picture(path), filter: OVER, ...place }
}

/** Films first, so that crest and captions lie over them. */
export async function layersOf(
  { media, lend }: { media: Ffmpeg; lend: Lend },
  slide: PlannedSlide,
  crest: Crest | null,
  size: Size,
  folder: string,
  signal: AbortSignal,
): Promise<Layer[]> {
  const layers: Layer[] = []
  for (const film of slide.films ?? []) layers.push(await filmLayer(media, film, lend, size, folder, signal))
  if (crest) {
    const { input, left, top } = await crestLayer(lend, crest, size)
    layers.push(await pictureLayer(folder, 'crest', input as Buffer, { x: left!, y: top!, from: 0, until: null }))
  }
  const tops = new Map<string, boolean>()
  for (const [i, { picture: under, caption, atSamples }] of slide.pictures.entries()) {
    if (caption === undefined) continue
    if (!tops.has(under)) tops.set(under, await captionsAtTop(await framed(await lend(under), size), size))
    const drawn = drawCaption(caption, size.width, size.height)
    const margin = Math.round(size.height * MARGIN.caption)
    const place = {
      x: Math.round((size.width - drawn.width) / 2),
      y: tops.get(under) ? margin : size.height - margin - drawn.height,
      from: atSamples,
      until: slide.pictures[i + 1]?.atSamples ?? null,
    }
    layers.push(await pictureLayer(folder, `caption-${i}`, drawn.png, place))
  }
  return layers
}

/** When a run's frames are shown, as an expression of their number. A sample later than films count: theirs is there already. */
function momentOf(runs: readonly FrameRun[], frames: number): string {
  const parts = runs.map(({ first, at, step }, i) => {
    const last = (runs[i + 1]?.first ?? frames) - 1
    return `between(N,${first},${last})*floor(${at}+(N-${first})*${step}+0.01)`
  })
  return `1+${sumOf(parts)}`.replaceAll(',', '\\,')
}

/**
 * Lays films and pictures over the frames of a slide.
 *
 * @param base label of its frames in their order
 * @param firstInput number of the first layer's input
 * @returns chains of filters; the last ends in `label`
 */
export function layerChains(
  layers: readonly Layer[],
  base: string,
  frames: { runs: readonly FrameRun[]; count: number },
  firstInput: number,
  label: string,
): string[] {
  const chains = [`[${base}]settb=1/48000,setpts=${momentOf(frames.runs, frames.count)}[${label}y0]`]
  const run = frames.runs.at(-1)!
  const last = Math.floor(run.at + (frames.count - 1 - run.first) * run.step)
  let input = firstInput
  for (const [i, { filter, mask, x, y, from, until }] of layers.entries()) {
    const seconds = (samples: number) => (samples / SAMPLE_RATE).toFixed(6)
    const ends = until === null ? '' : `*lt(t,${seconds(until)})`
    // a frame after the last of those under it would be one more
    chains.push(`[${input++}:v]${filter},trim=end_pts=${last + 2}[${label}${mask ? 'm' : 'z'}${i}]`)
    if (mask) {
      // the last picture of a mask stays for all frames
      chains.push(`[${input++}:v]format=gray,settb=1/48000[${label}k${i}]`)
      chains.push(`[${label}m${i}][${label}k${i}]alphamerge[${label}z${i}]`)
    }
    const enabled = `gte(t,${seconds(from)})${ends}`.replaceAll(',', '\\,')
    chains.push(`[${label}y${i}][${label}z${i}]overlay=x=${x}:y=${y}:format=yuv420:enable=${enabled}[${label}y${i + 1}]`)
  }
  chains.push(`[${label}y${layers.length}]settb=1/48000,setpts=N*1600[${label}]`)
  return chains
}

/** A picture with films over it that stand still, as a file in the folder. */
export async function pictureWithFilms(
  { media, lend }: { media: Ffmpeg; lend: Lend },
  under: PictureSpan['picture'],
  films: readonly FrozenFilm[],
  crest: Crest | null,
  size: Size,
  path: string,
  signal: AbortSignal,
): Promise<string> {
  let raw = await framed(await lend(under), size)
  for (const film of films) {
    const { x, y, width, height } = pixels(film, size)
    const png = await media.run(
      [
        ...[...seekTo(film.frame, film.rate), ...file(await lend(film.proxy)), '-frames:v', '1'],
        ...['-vf', `${shapeFilter(film, { width, height })}:in_color_matrix=bt709`, '-c:v', 'png', '-f', 'image2pipe', 'pipe:1'],
      ],
      { signal },
    )
    // one that sticks out is cut off at the picture's edge
    const [left, top] = [Math.max(0, -x), Math.max(0, -y)]
    const seen = {
      left,
      top,
      width: Math.min(width - left, size.width - Math.max(0, x)),
      height: Math.min(height - top, size.height - Math.max(0, y)),
    }
    if (seen.width < 1 || seen.height < 1) continue
    const drawn = sharp(png).removeAlpha()
    // a picture joins what it masks in a second turn of the library
    const whole = film.edge
      ? await sharp(await drawn.png().toBuffer())
          .joinChannel(await maskPng(film.edge, { width, height }).toBuffer())
          .png()
          .toBuffer()
      : await drawn.png().toBuffer()
    const cut = await sharp(whole).extract(seen).png().toBuffer()
    raw = await sharp(raw, { raw: { ...size, channels: 3 } })
      .composite([{ input: cut, left: Math.max(0, x), top: Math.max(0, y) }])
      .removeAlpha()
      .raw()
      .toBuffer()
  }
  const over = crest ? [await crestLayer(lend, crest, size)] : []
  const image = sharp(raw, { raw: { ...size, channels: 3 } }).composite(over)
  await writeFile(path, await image.removeAlpha().png({ compressionLevel: 1 }).toBuffer())
  return path
}
