/**
 * Heavy work as tasks: what goes in and what comes out are facts and names of stored files, and none knows the database, so that a task is the
 * same wherever it runs that sees the store.
 */
import type { Mark } from '#core/model/marks.ts'
import type { ClipFigures, TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import type { MadeSegment } from '#server/encode/encode.ts'
import type { ClipLoudness, SegmentOrder } from '#server/encode/segment.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import type { Workers } from '#server/workers/pool.ts'
import type { SeekInput, SoughtWords } from '#server/workers/worker.ts'

/** What a task works with. */
export interface TaskTools {
  store: FileStore
  media: Ffmpeg
  workers: Workers
}

export interface TidySound {
  /** FLAC, 48 kHz, one channel. */
  sound: string
  samples: number
  /** What is known already; null to find it. */
  analysis: TakeAnalysis | null
  /** Null to suggest one. */
  tidyUp: TidyUp | null
  marks: readonly Mark[]
}

/** A clip and what is told of it. */
export interface TidiedSound {
  analysis: TakeAnalysis
  tidyUp: TidyUp
  /** FLAC. */
  clip: string
  samples: number
  peaks: string
  figures: ClipFigures
  powers: number[]
}

export interface SeekWords extends Omit<SeekInput, 'samples'> {
  sound: string
  samples: number
}

export interface EncodeOrder {
  orders: SegmentOrder[]
  /** By which the segments are known: another version would make others. */
  keys: string[]
  loudness: Record<string, ClipLoudness>
}

export interface TaskKinds {
  tidy: { input: TidySound; output: TidiedSound }
  words: { input: SeekWords; output: SoughtWords }
  encode: { input: EncodeOrder; output: MadeSegment[] }
}
export type TaskKind = keyof TaskKinds
export type TaskInput<K extends TaskKind> = TaskKinds[K]['input']
export type TaskOutput<K extends TaskKind> = TaskKinds[K]['output']

export interface OtherMachines {
  /** Whether Redis answers. */
  isUp: boolean
  machines: {
    host: string
    /** How many tasks it works on at the same time. */
    slots: number
    /** Whether it is of this version: any other is given nothing. */
    isSame: boolean
  }[]
  /** Tasks that are being worked there. */
  away: number
}

export interface Tasks {
  /** @throws UserFacingError for what is wrong with what was given; the signal's reason when it was cancelled */
  run<K extends TaskKind>(kind: K, input: TaskInput<K>, signal: AbortSignal): Promise<TaskOutput<K>>
  /** How many other machines can work on at the same time. */
  elsewhere(): number
  /** Null where there can be no others. */
  state(): OtherMachines | null
  close(): Promise<void>
}
