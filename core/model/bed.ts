/** Music or room sound under slides, and how it is played. */
import { z } from '../zod.ts'

/** How a bed is played under the slides it covers. */
export const BedSettings = z.object({
  /** First and last slide it covers. */
  fromSlideId: z.string(),
  toSlideId: z.string(),
  /** How loud it is beside the voice, LU. */
  volumeDb: z.number().min(-40).max(6),
  fadeInSeconds: z.number().min(0).max(20),
  fadeOutSeconds: z.number().min(0).max(20),
  /** Begins again when it has ended; else it plays once. */
  loop: z.boolean(),
  /** How much quieter it becomes while somebody speaks, dB; 0 does not give way. */
  duckDb: z.number().min(-40).max(0),
})
export type BedSettings = z.infer<typeof BedSettings>

/** Common practice, no published source: opening music fades out over about three seconds and stays well under the voice. */
export const DEFAULT_BED: Omit<BedSettings, 'fromSlideId' | 'toSlideId'> = {
  volumeDb: -6,
  fadeInSeconds: 0.5,
  fadeOutSeconds: 3,
  loop: true,
  duckDb: -14,
}

/** Music or room sound under slides. */
export interface Bed extends BedSettings {
  id: string
  name: string
  /** Stereo, 48 kHz. */
  sound: string
  peaks: string
  samples: number
  /** Of the file as it came; null for silence. */
  loudnessLufs: number | null
}
