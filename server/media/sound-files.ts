/** Sound between samples and lossless files (FLAC, RFC 9639). */
import { rm } from 'node:fs/promises'
import type { FileStore } from '#server/storage/file-store.ts'
import type { Ffmpeg } from './ffmpeg.ts'

/** Little-endian bytes of 16-bit samples, sharing their memory. */
export const bytesOf = (samples: Int16Array) => new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength)

/** @returns samples from little-endian bytes, in memory of their own: small buffers of Node share one pool, large ones have theirs already */
export function samplesOf(bytes: Uint8Array): Int16Array {
  const { buffer, byteOffset, length } = bytes
  const own = byteOffset === 0 && length === buffer.byteLength && length % 2 === 0
  return new Int16Array((own ? buffer : buffer.slice(byteOffset, byteOffset + (length & ~1))) as ArrayBuffer)
}

const raw = (channels: 1 | 2) => ['-f', 's16le', '-ar', '48000', '-ac', String(channels)]
const RAW = raw(1)

/** How long the encoder waits for samples that are still being made or recorded, and then for itself. */
const LONGEST_S = 24 * 3600

/** What a file says of itself, by the names that Vorbis comments have (RFC 9639, §8.6): a recording is known again without any database. */
export type SoundTags = Record<string, string>

/**
 * Keeps 48 kHz samples, of two channels in turn when there are two, as FLAC in the store.
 *
 * @param samples or their little-endian bytes, piece by piece: the encoder is started, which takes a while, before there are any
 * @returns its name
 */
export async function encodeFlac(
  tool: Ffmpeg,
  store: FileStore,
  samples: Int16Array | AsyncIterable<Uint8Array>,
  { channels = 1, tags = {} }: { channels?: 1 | 2; tags?: SoundTags } = {},
): Promise<string> {
  const input = samples instanceof Int16Array ? bytesOf(samples) : samples
  // to a file and not to a pipe: the encoder goes back to write length and checksum into the header
  const scratch = store.scratchPath('.flac')
  try {
    await tool.run(
      [
        '-protocol_whitelist',
        'file,pipe',
        ...raw(channels),
        '-i',
        'pipe:0',
        '-c:a',
        'flac',
        '-fflags',
        '+bitexact',
        ...Object.entries(tags).flatMap(([name, value]) => ['-metadata', `${name}=${value}`]),
        '-f',
        'flac',
        scratch,
      ],
      { input, timeoutSeconds: LONGEST_S },
    )
    return (await store.adopt(scratch)).name
  } finally {
    await rm(scratch, { force: true })
  }
}

/** @returns samples of a stretch of a FLAC file of ours; fewer where the file ends before */
export async function decodeFlacStretch(tool: Ffmpeg, path: string, start: number, end: number): Promise<Int16Array> {
  const seek = ['-ss', (start / 48_000).toFixed(6)]
  const trim = ['-af', `atrim=end_sample=${end - start}`]
  return samplesOf(await tool.run(['-protocol_whitelist', 'file', ...seek, '-f', 'flac', '-i', path, ...trim, ...RAW, 'pipe:1']))
}

const whole = (path: string) => ['-protocol_whitelist', 'file', '-f', 'flac', '-i', path, ...RAW, 'pipe:1']

/** @returns all samples of a FLAC file of ours */
export async function decodeFlac(tool: Ffmpeg, path: string): Promise<Int16Array> {
  return samplesOf(await tool.run(whole(path)))
}

/** The same piece by piece: little-endian bytes, as they come. */
export async function decodeFlacInto(tool: Ffmpeg, path: string, onPiece: (bytes: Buffer) => void): Promise<void> {
  await tool.run(whole(path), { onOutput: onPiece, timeoutSeconds: LONGEST_S })
}

/** @returns a stretch of a bed's file, left and right in turn; shorter where the file ends before */
export async function decodeBedStretch(tool: Ffmpeg, path: string, start: number, end: number): Promise<Int16Array> {
  const seek = ['-ss', (start / 48_000).toFixed(6)]
  const trim = ['-af', `atrim=end_sample=${end - start}`]
  return samplesOf(
    await tool.run(['-protocol_whitelist', 'file', ...seek, '-f', 'flac', '-i', path, ...trim, ...raw(2), 'pipe:1']),
  )
}
