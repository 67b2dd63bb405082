/** A segment as it can be made: the encoded picture or sound of one slide, named by the hash of all that goes in. */
import { createHash } from 'node:crypto'
import type { PlannedSlide } from '#core/edition/plan.ts'
import type { SoundForm, VideoForm } from '#core/edition/video-form.ts'
import type { Crest } from '#core/model/export-settings.ts'
import type { StoredSegmentFacts } from '#server/db/kept.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import type { FileStore, Lend } from '#server/storage/file-store.ts'
import type { Workers } from '#server/workers/pool.ts'

/** Raise it when the same input would be encoded otherwise. */
export const ENCODER_VERSION = 8

/** What a segment is made of, as it can be sent to another machine. */
export type SegmentOrder =
  | { kind: 'video'; slide: PlannedSlide; form: VideoForm; crest: Crest | null }
  | { kind: 'sound'; slide: PlannedSlide; form: SoundForm }

/** What was measured when a clip was rendered: of its blocks, K-weighted. */
export interface ClipLoudness {
  powers: number[]
  truePeakDbtp: number | null
}

/** What segments are made with; it knows no database. */
export interface EncodeTools {
  store: FileStore
  media: Ffmpeg
  workers: Pick<Workers, 'mix'>
  /** By the name of a clip; one of an earlier version was not measured. */
  loudness: Readonly<Record<string, ClipLoudness>>
}

/** A segment that can be made: what goes in, and how. */
export interface SegmentRecipe {
  order: SegmentOrder
  key: string
  ending: '.mp4' | '.aac' | '.webm'
  /** Segments of one form are encoded alike. */
  form: string
  /** How much there is to do: pictures that are new, or samples. */
  work: number
  /** It takes so long that starting the media tool for it counts for nothing. */
  runsAlone: boolean
  /**
   * @param folder for what has to be drawn or mixed first
   * @param lend lends stored files until the segment is encoded
   */
  call(tools: EncodeTools, folder: string, lend: Lend, signal: AbortSignal): Promise<SegmentCall>
}

/** What the media tool is asked for; several are one run of it, for starting it takes as long as a picture. */
export interface SegmentCall {
  /** The arguments of each input. */
  inputs: string[][]
  /** The filter from the inputs, of which the first has this number, to the output with this label; labels within it begin with it. */
  filter(firstInput: number, label: string): string
  /** The arguments of its output but for its path. */
  output: string[]
  /** @returns what the written segment tells */
  facts(out: string): Promise<Omit<StoredSegmentFacts, 'bytes' | 'milliseconds'>>
}

export const segmentKey = (...ingredients: unknown[]) =>
  createHash('sha256')
    .update(JSON.stringify([ENCODER_VERSION, ...ingredients]))
    .digest('hex')
