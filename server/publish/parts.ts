/**
 * Encoded parts of one slide: its picture as a still video segment and its sound, each encoded alone and cached by the hash
 * of all that goes in. Publishing joins them.
 */
import { createHash } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { eq } from 'drizzle-orm'
import type { PlannedSlide } from '#core/edition/plan.ts'
import { AAC_FRAME, SAMPLE_RATE } from '#core/timing/clocks.ts'
import { parts } from '#server/db/schema.ts'
import { bytesOf, decodeFlac } from '#server/media/sound-files.ts'
import type { Tools } from '#server/tools.ts'

/** Raise it when the same input would be encoded otherwise. */
const ENCODER_VERSION = 1

/** A still picture is repeated this often, so that players can seek; the encoder skips each repeat. */
export const REPEAT_SAMPLES = 2 * SAMPLE_RATE
/** Zeros before the sound let the encoder settle; their packets are dropped. */
const PRE_ROLL = 2 * AAC_FRAME
/** Packets before the first of the slide: those of the pre-roll and the encoder's delay of one frame. */
export const PRE_ROLL_PACKETS = PRE_ROLL / AAC_FRAME + 1

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

/**
 * The picture of a slide: its first frame, then a repeat every 2 s.
 *
 * @returns name of an MP4 with one H.264 track (High, 4:2:0, BT.709 limited range, 1920 × 1080)
 */
export function videoPart(tools: Tools, slide: PlannedSlide, signal: AbortSignal): Promise<string> {
  const frames = Math.ceil(slide.lengthSamples / REPEAT_SAMPLES)
  const filter = [
    'scale=1920:1080:force_original_aspect_ratio=decrease:flags=lanczos:out_color_matrix=bt709:out_range=tv',
    'pad=1920:1080:(ow-iw)/2:(oh-ih)/2:color=black',
    'setsar=1',
    'format=yuv420p',
    // after the conversion, or every repeat is converted again
    `loop=loop=${frames - 1}:size=1`,
    'settb=1/48000',
    `setpts=N*${REPEAT_SAMPLES}`,
  ].join(',')
  const x264 = 'mbtree=0:scenecut=0:rc-lookahead=0:sync-lookahead=0:me=dia:zones=1,99999,q=51'
  const make = async (out: string) => {
    await tools.media.run(
      [
        ...[
          '-protocol_whitelist',
          'file',
          '-f',
          'png_pipe',
          '-i',
          tools.store.path(slide.picture),
          '-vf',
          filter,
          '-fps_mode',
          'passthrough',
        ],
        ...[
          '-c:v',
          'libx264',
          '-profile:v',
          'high',
          '-preset',
          'veryfast',
          '-tune',
          'stillimage',
          '-crf',
          '23',
          '-bf',
          '0',
          '-g',
          '99999',
        ],
        ...[
          '-x264-params',
          x264,
          '-threads',
          '1',
          '-color_range',
          'tv',
          '-colorspace',
          'bt709',
          '-color_primaries',
          'bt709',
          '-color_trc',
          'bt709',
        ],
        ...['-enc_time_base', '1/48000', '-video_track_timescale', '48000', '-f', 'mp4', out],
      ],
      { signal },
    )
  }
  return cached(tools, [slide.picture, frames, '1080p'], make, '.mp4')
}

/** The whole sound of a slide, from its first sample to its last: silence, clip, silence. */
async function slideSound(tools: Tools, slide: PlannedSlide): Promise<Int16Array> {
  const mix = new Int16Array(slide.lengthSamples)
  if (slide.sound) {
    const clip = await decodeFlac(tools.media, tools.store.path(slide.sound.clip))
    mix.set(clip.subarray(0, mix.length - slide.sound.atSamples), slide.sound.atSamples)
  }
  return mix
}

/**
 * The sound of a slide on two equal channels.
 *
 * @returns name of an M4A whose packets from `PRE_ROLL_PACKETS` on are those of the slide, one for each 1024 samples
 */
export function soundPart(tools: Tools, slide: PlannedSlide, signal: AbortSignal): Promise<string> {
  const make = async (out: string) => {
    const mono = await slideSound(tools, slide)
    const stereo = new Int16Array((PRE_ROLL + mono.length) * 2)
    for (let i = 0; i < mono.length; i++) {
      stereo[(PRE_ROLL + i) * 2] = mono[i]!
      stereo[(PRE_ROLL + i) * 2 + 1] = mono[i]!
    }
    await tools.media.run(
      [
        ...['-protocol_whitelist', 'file,pipe', '-f', 's16le', '-ar', '48000', '-ac', '2', '-i', 'pipe:0'],
        ...['-c:a', 'aac', '-aac_coder', 'fast', '-b:a', '128k', '-threads', '1', '-f', 'ipod', out],
      ],
      { input: bytesOf(stereo), signal },
    )
  }
  return cached(tools, [slide.sound, slide.lengthSamples, 'aac-lc 128k stereo'], make, '.m4a')
}
