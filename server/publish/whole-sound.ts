/** The sound of the whole lecture in one pass, for forms whose frames do not end where slides end. */

import { PRE_ROLL_SAMPLES } from '#core/audio/mix/mix.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import type { AppContext } from '#server/context/context.ts'
import { mixedSlide } from '#server/encode/sound-segment.ts'
import { bytesOf } from '#server/media/sound-files.ts'

export interface WholeSound {
  /** Opus in WebM; null when it is not wanted. */
  opus: { path: string; kilobits: number } | null
  /** MP3 with chapters as ID3 frames; null when it is not wanted. */
  mp3: { path: string; chapters: string } | null
}

const MP3 = ['-c:a', 'libmp3lame', '-q:a', '4', '-id3v2_version', '3', '-write_id3v1', '0', '-f', 'mp3']

/** @param onSlide is told how many slides are done */
export async function wholeSound(
  context: AppContext,
  plan: EditionPlan,
  { opus, mp3 }: WholeSound,
  onSlide: (done: number) => void,
  signal: AbortSignal,
) {
  async function* mixes() {
    for (const [i, slide] of plan.slides.entries()) {
      const { stereo } = await mixedSlide(context, slide, signal)
      onSlide(i)
      yield bytesOf(stereo.subarray(2 * PRE_ROLL_SAMPLES))
    }
  }
  await context.media.run(
    [
      ...['-protocol_whitelist', 'file,pipe', '-f', 's16le', '-ar', '48000', '-ac', '2', '-i', 'pipe:0'],
      ...(mp3 ? ['-protocol_whitelist', 'file', '-f', 'ffmetadata', '-i', mp3.chapters] : []),
      ...(opus ? ['-map', '0:a', '-map_metadata', '-1', '-map_chapters', '-1'] : []),
      ...(opus ? ['-c:a', 'libopus', '-b:a', `${opus.kilobits}k`, '-application', 'audio', '-f', 'webm', opus.path] : []),
      ...(mp3 ? ['-map', '0:a', '-map_metadata', '1', '-map_chapters', '1', ...MP3, mp3.path] : []),
    ],
    { input: mixes(), signal, timeoutSeconds: 3600 },
  )
}
