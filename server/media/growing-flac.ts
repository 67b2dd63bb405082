/** FLAC files of takes that are still being recorded: each grows with its take, so that a stop waits for the last second only. */
import { PassThrough } from 'node:stream'
import type { FileStore } from '#server/storage/file-store.ts'
import type { Ffmpeg } from './ffmpeg.ts'
import { encodeFlac, type SoundTags } from './sound-files.ts'

export interface GrowingFlacs {
  /**
   * One more chunk of a take is on disk. What is not told from the first one on, each in its turn, does not grow.
   *
   * @param chunk counted from 0; one that was told before changes nothing
   * @param pcm little-endian 16-bit samples
   */
  grow(takeId: string, chunk: number, pcm: Uint8Array): void
  /** @param chunks of the whole take @returns name of its file; null where it did not grow with all of them, or failed: it is to be encoded whole */
  finish(takeId: string, chunks: number): Promise<string | null>
  /** Ends all that grow. */
  close(): void
}

/** A recording that nothing was heard of for so long is not waited for. */
const FORGOTTEN_MS = 5 * 60_000

interface Growing {
  chunks: number
  sound: PassThrough
  made: Promise<string | null>
  forget: NodeJS.Timeout
}

/** @param tagsOf what is written into the file of a take */
export function growingFlacs(
  media: Ffmpeg,
  store: FileStore,
  tagsOf: (takeId: string) => Promise<SoundTags> = async () => ({}),
): GrowingFlacs {
  const growing = new Map<string, Growing>()
  function take(takeId: string) {
    const entry = growing.get(takeId)
    clearTimeout(entry?.forget)
    growing.delete(takeId)
    return entry
  }
  const drop = (takeId: string) => take(takeId)?.sound.destroy(new Error('It is not wanted any more'))
  function begin(takeId: string) {
    const sound = new PassThrough()
    // its errors are told by the encoder, which reads it
    sound.on('error', () => {})
    const entry: Growing = {
      chunks: 0,
      sound,
      made: tagsOf(takeId)
        .then((tags) => encodeFlac(media, store, sound, { tags }))
        .catch(() => null),
      forget: setTimeout(() => drop(takeId), FORGOTTEN_MS).unref(),
    }
    growing.set(takeId, entry)
    // what failed gathers no more sound
    void entry.made.then(() => growing.get(takeId) === entry && take(takeId))
    return entry
  }
  return {
    grow(takeId, chunk, pcm) {
      const entry = growing.get(takeId) ?? (chunk === 0 ? begin(takeId) : null)
      if (!entry || chunk < entry.chunks) return
      if (chunk > entry.chunks) {
        drop(takeId)
        return
      }
      entry.forget.refresh()
      entry.chunks++
      entry.sound.write(pcm)
    },
    async finish(takeId, chunks) {
      const entry = take(takeId)
      if (!entry) return null
      if (entry.chunks === chunks) entry.sound.end()
      else entry.sound.destroy(new Error('Some of the take is missing'))
      return entry.made
    },
    close() {
      for (const takeId of [...growing.keys()]) drop(takeId)
    },
  }
}
