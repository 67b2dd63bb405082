/** Sound in 16 bits, as takes and clips are kept: in memory, or spilled to disk when it is long. */
import { closeSync, openSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { chunksOf, type Samples } from '#core/audio/signal/sample-source.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import type { Ffmpeg } from './ffmpeg.ts'
import { appendTo, readBytes } from './sample-file.ts'
import { bytesOf, decodeFlac, decodeFlacInto } from './sound-files.ts'

/** A file of little-endian samples and nothing else, mono, 48 kHz. */
export interface PcmFile {
  path: string
  /** Samples of the file that come before it. */
  first: number
  length: number
}

export type Pcm = Int16Array | PcmFile

/** Sound of more samples is spilled to disk: as floats, and in the copies that tidying makes, it would fill the memory of a small machine. */
export const LONG = toSamples(5 * 60)

/** The file is opened for each piece: whoever has the name may read, in whatever thread. */
function withFile<T>(path: string, flags: string, use: (file: number) => T): T {
  const file = openSync(path, flags)
  try {
    return use(file)
  } finally {
    closeSync(file)
  }
}

export function pieceOf(pcm: Pcm, from: number, to: number): Int16Array {
  if (pcm instanceof Int16Array) return pcm.subarray(from, to)
  const piece = new Int16Array(Math.max(0, Math.min(to, pcm.length) - from))
  withFile(pcm.path, 'r', (file) => readBytes(file, (pcm.first + from) * 2, bytesOf(piece)))
  return piece
}

/** A part that stays where it is. */
export const partOf = (pcm: Pcm, { start, end }: SampleRange): Pcm =>
  pcm instanceof Int16Array ? pcm.subarray(start, end) : { path: pcm.path, first: pcm.first + start, length: end - start }

export const floatsOf = (pcm: Pcm): Samples => ({
  length: pcm.length,
  subarray: (from, to) => fromInt16(pieceOf(pcm, from, to)),
})

export function* piecesOf(pcm: Pcm): Generator<Int16Array> {
  for (const { start, end } of chunksOf(pcm.length)) yield pieceOf(pcm, start, end)
}

/** Little-endian bytes for the encoder, which is started before there are any. */
export async function* bytesLater(pcm: Pcm | Promise<Pcm>): AsyncGenerator<Uint8Array> {
  for (const piece of piecesOf(await pcm)) yield bytesOf(piece)
}

/** @param path of a file that is made anew */
export function spillPcm(path: string, sound: Samples): PcmFile {
  withFile(path, 'wx', (file) => {
    for (const { start, end } of chunksOf(sound.length)) appendTo(file, bytesOf(toInt16(sound.subarray(start, end))))
  })
  return { path, first: 0, length: sound.length }
}

/**
 * @param flac a FLAC file
 * @param path of a file that is made anew
 * @param most samples it may have: a small file can hold days of silence
 * @throws RangeError when it has more
 */
export async function decodeToDisk(tool: Ffmpeg, flac: string, path: string, most = Number.POSITIVE_INFINITY): Promise<PcmFile> {
  const file = openSync(path, 'wx')
  let bytes = 0
  try {
    await decodeFlacInto(tool, flac, (piece) => {
      bytes += piece.length
      if (bytes > 2 * most) throw new RangeError(`More than ${most} samples`)
      appendTo(file, piece)
    })
  } catch (error) {
    await rm(path, { force: true })
    throw error
  } finally {
    closeSync(file)
  }
  return { path, first: 0, length: Math.floor(bytes / 2) }
}

/** All of a FLAC file of the store. */
export const decodeStored = ({ media, store }: { media: Ffmpeg; store: FileStore }, sound: string): Promise<Int16Array> =>
  store.withLocalFile(sound, (flac) => decodeFlac(media, flac))

/** All of a FLAC file of the store, spilled to disk. @see decodeToDisk */
export const decodeStoredToDisk = (
  { media, store }: { media: Ffmpeg; store: FileStore },
  sound: string,
  path: string,
  most?: number,
): Promise<PcmFile> => store.withLocalFile(sound, (flac) => decodeToDisk(media, flac, path, most))

/** All of a FLAC file of the store, for as long as it is used: spilled to disk where it is long. @param length of it in samples */
export async function withDecoded<T>(
  context: { media: Ffmpeg; store: FileStore },
  sound: string,
  length: number,
  use: (pcm: Pcm) => Promise<T>,
): Promise<T> {
  if (length <= LONG) return use(await decodeStored(context, sound))
  const path = context.store.scratchPath('.pcm')
  try {
    return await use(await decodeStoredToDisk(context, sound, path))
  } finally {
    await rm(path, { force: true })
  }
}
