/** The sound of one slide: its clip and the beds under it. */
import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { PRE_ROLL_SAMPLES } from '#core/audio/mix/mix.ts'
import type { BedPortion } from '#core/audio/mix/music-bed.ts'
import { soundName } from '#core/edition/estimate.ts'
import type { PlannedSlide } from '#core/edition/plan.ts'
import type { SoundForm } from '#core/edition/video-form.ts'
import { AAC_FRAME } from '#core/timing/clocks.ts'
import { decodeStored } from '#server/media/pcm.ts'
import { bytesOf, decodeBedStretch } from '#server/media/sound-files.ts'
import type { Mixed } from '#server/workers/worker.ts'
import { type EncodeTools, type SegmentCall, type SegmentRecipe, segmentKey } from './segment.ts'

/** Packets before the first of the slide: those of the pre-roll and the encoder's delay of one frame. */
export const PRE_ROLL_PACKETS = PRE_ROLL_SAMPLES / AAC_FRAME + 1

/** Samples of a bed's file for one portion, the first of them the one it begins with. */
async function bedSound(
  context: Pick<EncodeTools, 'media' | 'store'>,
  portion: BedPortion,
): Promise<{ pcm: Int16Array; portion: BedPortion }> {
  const { media, store } = context
  const first = portion.firstSample ?? 0
  const stretch = (from: number, to: number) =>
    store.withLocalFile(portion.sound, (path) => decodeBedStretch(media, path, first + from, first + to))
  const last = portion.fileSample + portion.to - portion.from
  if (portion.loopSamples === null || last <= portion.loopSamples)
    return { pcm: await stretch(portion.fileSample, last), portion: { ...portion, fileSample: 0, loopSamples: null } }
  return { pcm: await stretch(0, portion.loopSamples), portion }
}

/** What is heard on a slide, left and right in turn, from `PRE_ROLL_SAMPLES` before its first sample on. */
export async function mixedSlide(
  context: Omit<EncodeTools, 'loudness'>,
  slide: PlannedSlide,
  signal: AbortSignal,
): Promise<Mixed> {
  const clip = slide.sound && {
    pcm: await decodeStored(context, slide.sound.clip),
    atSamples: slide.sound.atSamples,
  }
  const beds = await Promise.all(slide.beds.map((portion) => bedSound(context, portion)))
  return context.workers.mix({ lengthSamples: slide.lengthSamples, clip, beds }, signal)
}

// both channels of a voice are one: their difference is nothing, and nothing need be tried out for it
// what a voice has above the 15 kHz of sound broadcasting (ITU-R BS.450) is not heard, and would be analysed for nothing
const ONE_VOICE = ['-aac_ms', '1', '-aac_is', '0', '-aac_pns', '0', '-aac_tns', '0', '-cutoff', '15000']

const aac = ({ kilobits }: SoundForm) => [
  ...['-c:a', 'aac', '-aac_coder', 'fast', '-b:a', `${kilobits}k`, '-threads', '1', '-f', 'adts'],
]

/** A voice alone: the media tool lays it in its place and encodes it in one go, sample for sample what `mixSlide` makes. */
function voiceCall(path: string, slide: PlannedSlide, form: SoundForm): Omit<SegmentCall, 'facts'> {
  const { atSamples } = slide.sound!
  const place = [
    `adelay=${PRE_ROLL_SAMPLES + atSamples}S`,
    'apad',
    `atrim=end_sample=${PRE_ROLL_SAMPLES + slide.lengthSamples}`,
    form.channels === 2 ? 'pan=stereo|c0=c0|c1=c0' : 'pan=mono|c0=c0',
  ]
  return {
    inputs: [['-protocol_whitelist', 'file', '-f', 'flac', '-i', path]],
    filter: (input, label) => `[${input}:a]${place.join(',')}[${label}]`,
    output: [...(form.channels === 2 ? ONE_VOICE : []), ...aac(form)],
  }
}

/** What is mixed here lies in a file until it is encoded. */
async function mixCall(folder: string, stereo: Int16Array, form: SoundForm): Promise<Omit<SegmentCall, 'facts'>> {
  const path = join(folder, 'mix.pcm')
  await writeFile(path, bytesOf(stereo))
  return {
    inputs: [['-protocol_whitelist', 'file', '-f', 's16le', '-ar', '48000', '-ac', '2', '-i', path]],
    // the mean: players give one channel to both loudspeakers as it is. Left to itself the media tool adds the channels up to 3 dB more
    filter: (input, label) => `[${input}:a]${form.channels === 2 ? 'anull' : 'pan=mono|c0=0.5*c0+0.5*c1'}[${label}]`,
    output: aac(form),
  }
}

/** AAC-LC as an ADTS stream whose frames from `PRE_ROLL_PACKETS` on are those of the slide, one for each 1024 samples. */
export function soundSegment(slide: PlannedSlide, form: SoundForm): SegmentRecipe {
  const { channels, kilobits } = form
  const { sound, lengthSamples, beds } = slide
  return {
    order: { kind: 'sound', slide, form },
    // the mean of both sides has a name of its own: segments of an earlier version were 3 dB louder
    key: segmentKey('sound', sound, lengthSamples, beds, channels === 1 ? 'mean' : channels, kilobits),
    ending: '.aac',
    form: soundName({ sound: form }),
    work: lengthSamples,
    runsAlone: false,
    async call(tools, folder, lend, signal) {
      const told = { kind: 'sound' as const, form: soundName({ sound: form }), lengthSamples, frameBytes: [], newFrames: 0 }
      const measured = sound && beds.length === 0 ? tools.loudness[sound.clip] : undefined
      if (measured) return { ...voiceCall(await lend(sound!.clip), slide, form), facts: async () => ({ ...told, ...measured }) }
      const { stereo, powers, truePeakDbtp } = await mixedSlide(tools, slide, signal)
      return { ...(await mixCall(folder, stereo, form)), facts: async () => ({ ...told, powers, truePeakDbtp }) }
    },
  }
}
