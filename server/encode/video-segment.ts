/** The pictures of one slide as a piece of video. */
import { join } from 'node:path'
import { formName } from '#core/edition/estimate.ts'
import { type FrozenFilm, filmsAt, frozenFilms } from '#core/edition/films.ts'
import { type EncodedFrame, type SlideFrames, slideFrames } from '#core/edition/frames/frames.ts'
import type { PlannedSlide } from '#core/edition/plan.ts'
import type { VideoForm } from '#core/edition/video-form.ts'
import type { Crest } from '#core/model/export-settings.ts'
import { TRANSITIONS } from '#core/model/transition.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import { videoPackets } from '#server/media/video-packets.ts'
import type { Lend } from '#server/storage/file-store.ts'
import { type Layer, layerChains, layersOf, pictureWithFilms } from './film-layers.ts'
import { finishedPictures } from './pictures.ts'
import { type SegmentRecipe, segmentKey } from './segment.ts'

const prepare = ({ width, height }: VideoForm) =>
  [
    `scale=${width}:${height}:force_original_aspect_ratio=decrease:flags=lanczos:out_color_matrix=bt709:out_range=tv`,
    `pad=${width}:${height}:(ow-iw)/2:(oh-ih)/2:color=black`,
    'setsar=1',
    'format=yuv420p',
  ].join(',')

/** Repeats of pictures are skipped; of a transition, whose frames are seen for a thirtieth of a second, less is tried out. */
const zonesOf = (frames: readonly EncodedFrame[]) =>
  frames
    .flatMap((frame, i) => {
      if (frame.repeat) return [`${i},${i},q=51`]
      return frame.picture === -1 ? [`${i},${i},subme=0,trellis=0`] : []
    })
    .join('/')

/** The filter that makes the frames of a slide in order; the first input is what it changes from when there is a transition. */
function videoFilter(
  slide: PlannedSlide,
  made: SlideFrames,
  form: VideoForm,
  first: number,
  label: string,
  layers: readonly Layer[],
): string {
  const { transition, pictures } = slide
  const { encoded: frames, runs } = made
  const still = (from: string, count: number, to: string) =>
    // after the conversion, or each one is converted again
    `[${label}${from}]loop=loop=${count - 1}:size=1,setpts=N/30/TB[${label}${to}]`
  // what a transition leads to is a picture of its own where a film is seen in it
  const hasInto = transition !== null && seenAtFirst(slide).length > 0
  const firstInput = first + (transition ? 1 : 0) + (hasInto ? 1 : 0)
  const changing = frames.filter((frame) => frame.picture === -1).length
  const chains: string[] = []
  const pieces: string[] = []
  if (transition) chains.push(`[${first}:v]${prepare(form)}[${label}from]`)
  if (hasInto) chains.push(`[${first + 1}:v]${prepare(form)}[${label}into]`)
  for (const [i] of pictures.entries()) {
    const count = frames.filter((frame) => frame.picture === i).length
    const changes = i === 0 && transition
    chains.push(
      `[${i + firstInput}:v]${prepare(form)}${changes && !hasInto ? `,split[${label}into][${label}p0]` : `[${label}p${i}]`}`,
    )
    if (changes) {
      const made = `trim=end_frame=${changing},setpts=N/30/TB[${label}x]`
      const { filter } = TRANSITIONS[transition.kind]
      if (filter === null) {
        // one picture, then the other: what lies between them is filled in, five times faster than by the filter for transitions
        const both = `[${label}from][${label}into]concat=n=2:v=1:a=0,settb=1/30,setpts=N*${changing}`
        chains.push(`${both},framerate=fps=30:interp_start=0:interp_end=255:flags=0,${made}`)
      } else {
        chains.push(still('from', changing + 1, 'a'), still('into', changing + 1, 'b'))
        chains.push(`[${label}a][${label}b]xfade=transition=${filter}:duration=${changing / 30}:offset=0,format=yuv420p,${made}`)
      }
      pieces.push(`[${label}x]`)
    }
    if (count === 0) chains.push(`[${label}p${i}]nullsink`)
    else {
      chains.push(still(`p${i}`, count, `s${i}`))
      pieces.push(`[${label}s${i}]`)
    }
  }
  const join = pieces.length > 1 ? `${pieces.join('')}concat=n=${pieces.length}:v=1:a=0,` : pieces[0]!
  if (layers.length === 0) return [...chains, `${join}format=yuv420p,settb=1/48000,setpts=N*1600[${label}]`].join(';')
  const under = `${label}under`
  const count = { runs, count: frames.length }
  const over = layerChains(layers, under, count, firstInput + pictures.length, label)
  return [...chains, `${join}format=yuv420p[${under}]`, ...over].join(';')
}

/** Films that are seen with the slide's first frame. */
const seenAtFirst = ({ films }: PlannedSlide) => filmsAt(films, 0)

const COLOUR = ['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709']

/** Frames with which playing can begin. The filter gives frame after frame a thirtieth of a second apart; times are rounded down, so that none is missed. */
const keyFrames = (frames: readonly EncodedFrame[]) => {
  const keys = frames.flatMap((frame, i) => (frame.key ? [(Math.floor((i / 30) * 1e6) / 1e6).toFixed(6)] : []))
  return ['-force_key_frames', keys.join(',')]
}

/** What moves is sought for further, and is looked at for a moment only. */
const MOVING = {
  h264: ['-c:v', 'libx264', '-profile:v', 'high', '-preset', 'veryfast', '-crf', '23'],
  vp9: ['-deadline', 'realtime', '-cpu-used', '7'],
}

function h264(frames: readonly EncodedFrame[], moves: boolean): string[] {
  // one reference: a repeat refers to the frame before it, whichever that is
  const zones = zonesOf(frames)
  const sought = moves ? 'me=hex' : 'me=dia'
  const x264 = `ref=1:mbtree=0:scenecut=0:rc-lookahead=0:sync-lookahead=0:${sought}${zones ? `:zones=${zones}` : ''}`
  return [
    ...(moves
      ? MOVING.h264
      : ['-c:v', 'libx264', '-profile:v', 'high', '-preset', 'veryfast', '-tune', 'stillimage', '-crf', '23']),
    ...['-bf', '0', '-g', '99999', '-forced-idr', '1', '-x264-params', x264],
  ]
}

// every packet a frame that is shown: no frames that are only referred to, no looking ahead; and none that remembers how earlier ones
// were coded, so that a repeat can stand there more than once
const VP9 = [
  ...['-c:v', 'libvpx-vp9', '-deadline', 'good', '-cpu-used', '5', '-crf', '31', '-b:v', '0', '-g', '99999'],
  ...['-auto-alt-ref', '0', '-lag-in-frames', '0', '-error-resilient', 'default', '-static-thresh', '100'],
]

/**
 * The pictures of a slide. Only the order of frames counts; their moments are given when the segments are joined.
 *
 * Its file is an MP4 with one H.264 track (High, 4:2:0, BT.709 limited range) or a WebM with one VP9 track, with one packet for
 * each frame that `slideFrames` has encoded.
 */
export function videoSegment(slide: PlannedSlide, form: VideoForm, crest: Crest | null): SegmentRecipe {
  const { pictures, transition, films = [] } = slide
  const made = slideFrames(slide, form.rate)
  const { encoded: frames } = made
  const moves = films.length > 0
  const shown = pictures.map((p) => [p.picture, p.caption ?? ''])
  const counted = frames.map((f) => [f.picture, f.repeat, f.key])
  // what moves is drawn as it is at the moments of its frames
  const seen = films.map(({ filmId: _, isMuted: __, ...film }) => film)
  const moving = moves ? [[seen, made.runs, pictures.map((p) => p.atSamples)]] : []
  const newFrames = frames.filter((frame) => !frame.repeat).length
  const name = `${formName(form)}${moves ? ' film' : ''}`
  const ending = form.container === 'webm' ? '.webm' : '.mp4'
  return {
    order: { kind: 'video', slide, form, crest },
    key: segmentKey('video', shown, counted, transition, crest, form.container, form.height, form.rate, ...moving),
    ending,
    form: name,
    work: newFrames,
    runsAlone: moves,
    async call({ media }, folder, lend, signal) {
      const { inputs, layers } = await drawn({ media, lend }, slide, form, crest, folder, signal)
      const codec = form.container === 'webm' ? [...VP9, ...(moves ? MOVING.vp9 : [])] : h264(frames, moves)
      return {
        inputs: [
          ...inputs.map((path) => ['-protocol_whitelist', 'file', '-f', 'png_pipe', '-framerate', '30', '-i', path]),
          ...layers.flatMap(({ input, mask }) => (mask ? [input, mask] : [input])),
        ],
        filter: (first, label) => videoFilter(slide, made, form, first, label, layers),
        output: [
          ...['-fps_mode', 'passthrough', ...codec, ...keyFrames(frames)],
          ...['-threads', moves ? '2' : '1', ...COLOUR],
          ...(form.container === 'webm'
            ? ['-f', 'webm']
            : ['-enc_time_base', '1/48000', '-video_track_timescale', '48000', '-f', 'mp4']),
        ],
        async facts(out) {
          const frameBytes = (await videoPackets(out)).map(({ bytes }) => bytes)
          if (frameBytes.length !== frames.length)
            throw new Error(`The encoder wrote ${frameBytes.length} of ${frames.length} frames`)
          return { kind: 'video', form: name, lengthSamples: slide.lengthSamples, frameBytes, newFrames }
        },
      }
    },
  }
}

/** The files that a segment is made of: its pictures, what its transition begins with first, and what lies over them. */
async function drawn(
  tools: { media: Ffmpeg; lend: Lend },
  slide: PlannedSlide,
  form: VideoForm,
  crest: Crest | null,
  folder: string,
  signal: AbortSignal,
): Promise<{ inputs: string[]; layers: Layer[] }> {
  const { pictures, transition, films = [] } = slide
  const still = (picture: string, over: readonly FrozenFilm[], name: string, mark: Crest | null) =>
    pictureWithFilms(tools, picture, over, mark, form, join(folder, `${name}.png`), signal)
  const before = transition?.films ?? []
  if (films.length === 0) {
    if (before.length === 0)
      return { inputs: await finishedPictures(tools.lend, pictures, transition?.from ?? null, crest, form, folder), layers: [] }
    const own = await finishedPictures(tools.lend, pictures, null, crest, form, folder)
    return { inputs: [await still(transition!.from, before, 'from', crest), ...own], layers: [] }
  }
  const own = await Promise.all(pictures.map(({ picture }) => tools.lend(picture)))
  const first = frozenFilms(films, 0)
  const changing = transition
    ? [
        await still(transition.from, before, 'from', null),
        ...(first.length > 0 ? [await still(pictures[0]!.picture, first, 'into', null)] : []),
      ]
    : []
  return { inputs: [...changing, ...own], layers: await layersOf(tools, slide, crest, form, folder, signal) }
}
