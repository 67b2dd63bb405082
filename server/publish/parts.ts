/**
 * Encoded parts of one slide: its pictures as a video segment and its sound, each encoded alone and cached by the hash
 * of all that goes in. Publishing joins them.
 */
import { createHash } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { eq } from 'drizzle-orm'
import type { BedPortion } from '#core/audio/bed.ts'
import { type PlannedSlide, PRE_ROLL_SAMPLES, videoFrames } from '#core/edition/plan.ts'
import { AAC_FRAME } from '#core/timing/clocks.ts'
import { parts } from '#server/db/schema.ts'
import { bytesOf, decodeBedStretch, decodeFlac } from '#server/media/sound-files.ts'
import type { Tools } from '#server/tools.ts'

/** Raise it when the same input would be encoded otherwise. */
const ENCODER_VERSION = 2

/** Packets before the first of the slide: those of the pre-roll and the encoder's delay of one frame. */
export const PRE_ROLL_PACKETS = PRE_ROLL_SAMPLES / AAC_FRAME + 1

async function cached(
  tools: Tools,
  ingredients: unknown[],
  make: (scratch: string) => Promise<void>,
  ending: string,
): Promise<string> {
  const { db, store } = tools
  const key = createHash('sha256')
    .update(JSON.stringify([ENCODER_VERSION, ending, ...ingredients]))
    .digest('hex')
  const [known] = await db.read.select().from(parts).where(eq(parts.key, key))
  if (known && (await store.has(known.file))) return known.file
  const scratch = store.scratchPath(ending)
  try {
    await make(scratch)
    const { name, bytes } = await store.adopt(scratch)
    const row = { key, file: name, bytes, usedAt: Date.now() }
    await db.write((tx) => tx.insert(parts).values(row).onConflictDoUpdate({ target: parts.key, set: row }))
    return name
  } finally {
    await rm(scratch, { force: true })
  }
}

const PREPARE = [
  'scale=1920:1080:force_original_aspect_ratio=decrease:flags=lanczos:out_color_matrix=bt709:out_range=tv',
  'pad=1920:1080:(ow-iw)/2:(oh-ih)/2:color=black',
  'setsar=1',
  'format=yuv420p',
].join(',')

const TRANSITIONS = { 'cross-fade': 'fade', wipe: 'wipeleft', push: 'slideleft' } as const

/** Repeats of pictures, which the encoder is told to skip: stretches of frames, first and last. */
function repeatZones(frames: readonly { repeat: boolean }[]): string {
  const zones: [number, number][] = []
  for (const [i, frame] of frames.entries()) {
    if (!frame.repeat) continue
    const last = zones.at(-1)
    if (last && last[1] === i - 1) last[1] = i
    else zones.push([i, i])
  }
  return zones.map(([from, to]) => `${from},${to},q=51`).join('/')
}

/** The filter that makes the frames of a slide in order; input 0 is what it changes from when there is a transition. */
function videoFilter(slide: PlannedSlide, frames: ReturnType<typeof videoFrames>): string {
  const { transition, pictures } = slide
  const still = (from: string, count: number, to: string) =>
    // after the conversion, or every repeat is converted again
    `[${from}]loop=loop=${count - 1}:size=1,setpts=N/30/TB[${to}]`
  const firstInput = transition ? 1 : 0
  const chains: string[] = []
  const pieces: string[] = []
  if (transition) chains.push(`[0:v]${PREPARE}[from]`)
  for (const [i] of pictures.entries()) {
    const count = frames.filter((frame) => frame.picture === i).length
    const changes = i === 0 && transition
    chains.push(`[${i + firstInput}:v]${PREPARE}${changes ? ',split[into][p0]' : `[p${i}]`}`)
    if (changes) {
      const n = transition.frames
      const kind = TRANSITIONS[transition.kind]
      chains.push(still('from', n + 1, 'a'), still('into', n + 1, 'b'))
      chains.push(
        `[a][b]xfade=transition=${kind}:duration=${n / 30}:offset=0,format=yuv420p,trim=end_frame=${n},setpts=N/30/TB[x]`,
      )
      pieces.push('[x]')
    }
    if (count === 0) chains.push(`[p${i}]nullsink`)
    else {
      chains.push(still(`p${i}`, count, `s${i}`))
      pieces.push(`[s${i}]`)
    }
  }
  const join = pieces.length > 1 ? `${pieces.join('')}concat=n=${pieces.length}:v=1:a=0,` : pieces[0]!
  return [...chains, `${join}format=yuv420p,settb=1/48000,setpts=N*1600[out]`].join(';')
}

/**
 * The pictures of a slide: transition, each picture's first frame, then a repeat of it every 2 s. Only the order of frames counts;
 * their moments are given when the parts are joined.
 *
 * @returns name of an MP4 with one H.264 track (High, 4:2:0, BT.709 limited range, 1920 × 1080), one packet for each of `videoFrames`
 */
export function videoPart(tools: Tools, slide: PlannedSlide, signal: AbortSignal): Promise<string> {
  const frames = videoFrames(slide)
  const zones = repeatZones(frames)
  const x264 = ['mbtree=0:scenecut=0:rc-lookahead=0:sync-lookahead=0:me=dia', zones && `zones=${zones}`].filter(Boolean).join(':')
  const inputs = [...(slide.transition ? [slide.transition.from] : []), ...slide.pictures.map((p) => p.picture)]
  const make = async (out: string) => {
    await tools.media.run(
      [
        ...inputs.flatMap((picture) => [
          ...['-protocol_whitelist', 'file', '-f', 'png_pipe', '-framerate', '30'],
          ...['-i', tools.store.path(picture)],
        ]),
        ...['-filter_complex', videoFilter(slide, frames), '-map', '[out]', '-fps_mode', 'passthrough'],
        ...['-c:v', 'libx264', '-profile:v', 'high', '-preset', 'veryfast', '-tune', 'stillimage', '-crf', '23'],
        ...['-bf', '0', '-g', '99999', '-x264-params', x264, '-threads', '1'],
        ...['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'],
        ...['-enc_time_base', '1/48000', '-video_track_timescale', '48000', '-f', 'mp4', out],
      ],
      { signal },
    )
  }
  const { transition, pictures } = slide
  return cached(
    tools,
    [pictures.map((p) => p.picture), frames.map((f) => [f.picture, f.repeat]), transition, '1080p'],
    make,
    '.mp4',
  )
}

/** Samples of a bed's file for one portion, the first of them the one it begins with. */
async function bedSound(tools: Tools, portion: BedPortion): Promise<{ pcm: Int16Array; portion: BedPortion }> {
  const path = tools.store.path(portion.sound)
  const last = portion.fileSample + portion.to - portion.from
  if (portion.loopSamples === null || last <= portion.loopSamples) {
    const pcm = await decodeBedStretch(tools.media, path, portion.fileSample, last)
    return { pcm, portion: { ...portion, fileSample: 0, loopSamples: null } }
  }
  return { pcm: await decodeBedStretch(tools.media, path, 0, portion.loopSamples), portion }
}

/**
 * The sound of a slide on two channels.
 *
 * @returns name of an M4A whose packets from `PRE_ROLL_PACKETS` on are those of the slide, one for each 1024 samples
 */
export function soundPart(tools: Tools, slide: PlannedSlide, signal: AbortSignal): Promise<string> {
  const make = async (out: string) => {
    const clip = slide.sound && {
      pcm: await decodeFlac(tools.media, tools.store.path(slide.sound.clip)),
      atSamples: slide.sound.atSamples,
    }
    const beds = await Promise.all(slide.beds.map((portion) => bedSound(tools, portion)))
    const stereo = await tools.workers.mix({ lengthSamples: slide.lengthSamples, clip, beds }, signal)
    await tools.media.run(
      [
        ...['-protocol_whitelist', 'file,pipe', '-f', 's16le', '-ar', '48000', '-ac', '2', '-i', 'pipe:0'],
        ...['-c:a', 'aac', '-aac_coder', 'fast', '-b:a', '128k', '-threads', '1', '-f', 'ipod', out],
      ],
      { input: bytesOf(stereo), signal },
    )
  }
  return cached(tools, [slide.sound, slide.lengthSamples, slide.beds, 'aac-lc 128k stereo'], make, '.m4a')
}
