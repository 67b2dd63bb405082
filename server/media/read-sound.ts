/** Any sound file, judged by its content, as 48 kHz mono samples. */
import { stat } from 'node:fs/promises'
import { basename } from 'node:path'
import { monoOf } from '#core/audio/mono.ts'
import { Sentence } from '#server/sentence.ts'
import type { MediaTool } from './tool.ts'

// demuxers of self-contained sound and video files; playlists and the like could name other files
const FORMATS = 'wav,w64,flac,mp3,aac,mov,mp4,m4a,ogg,matroska,webm,asf,aiff,au,caf,avi,mpegts,amr,ac3'
const LONGEST_S = 3 * 3600

interface Reading {
  /** As the person knows the file; its path's last part when absent. */
  name?: string
  signal?: AbortSignal
}

/** The first sound track of a file as a WAV stream: its header tells how many channels there are. */
async function wavOf(
  tool: MediaTool,
  path: string,
  codec: 'pcm_f32le' | 'pcm_s16le',
  { name = basename(path), signal }: Reading,
) {
  const found = await stat(path).catch(() => null)
  if (!found?.isFile()) throw new Sentence(`There is no file “${name}”. Check its name and folder.`, 404)
  if (found.size === 0) throw new Sentence(`“${name}” is empty (0 bytes). Save or download it again.`, 422)
  const input = ['-protocol_whitelist', 'file', '-format_whitelist', FORMATS, '-i', path, '-map', '0:a:0', '-vn']
  const output = ['-t', String(LONGEST_S + 1), '-c:a', codec, '-ar', '48000', '-f', 'wav', 'pipe:1']
  const wav = await tool.run([...input, ...output], signal ? { signal } : {}).catch((error) => {
    if (error instanceof Sentence || signal?.aborted) throw error
    throw new Sentence(
      /matches no streams/.test(String(error))
        ? `“${name}” holds no sound. Choose a file with sound in it.`
        : `“${name}” cannot be read as sound, whatever its name says; it may be damaged. Export it again, as WAV or MP3 for example.`,
      415,
    )
  })
  const channels = wav.readUInt16LE(22)
  const start = wav.indexOf('data', 12, 'latin1') + 8
  // a pipe leaves the length field open
  const length = Math.floor((wav.length - start) / (wav.readUInt16LE(34) / 8) / channels)
  if (length > LONGEST_S * 48_000) throw new Sentence(`“${name}” is longer than three hours. Divide it first.`, 413)
  if (length === 0) throw new Sentence(`“${name}” holds no sound. Choose a file with sound in it.`, 415)
  return { wav, start, channels, length }
}

/**
 * @param path of a sound or video file
 * @returns samples, full scale ±1, and how many channels carried no sound
 * @throws Sentence when it is missing, empty, no sound, or longer than three hours
 */
export async function readSound(
  tool: MediaTool,
  path: string,
  reading: Reading = {},
): Promise<{ samples: Float32Array; deadChannels: number }> {
  const { wav, start, channels: count, length } = await wavOf(tool, path, 'pcm_f32le', reading)
  const all = new Float32Array(wav.buffer.slice(wav.byteOffset + start, wav.byteOffset + start + length * count * 4))
  const { samples, dead } = monoOf(divide(all, count, length, (n) => new Float32Array(n)))
  return { samples, deadChannels: dead }
}

/**
 * The same at half the memory, for files of an hour and more.
 *
 * @returns one array of 16-bit samples for each channel, at 48 kHz
 */
export async function readChannels(tool: MediaTool, path: string, reading: Reading = {}): Promise<Int16Array[]> {
  const { wav, start, channels: count, length } = await wavOf(tool, path, 'pcm_s16le', reading)
  const at = wav.byteOffset + start
  const all =
    at % 2 === 0 ? new Int16Array(wav.buffer, at, length * count) : new Int16Array(wav.buffer.slice(at, at + length * count * 2))
  return divide(all, count, length, (n) => new Int16Array(n))
}

function divide<T extends Float32Array | Int16Array>(all: T, count: number, length: number, make: (length: number) => T): T[] {
  if (count === 1) return [all]
  return Array.from({ length: count }, (_, c) => {
    const channel = make(length)
    for (let i = 0; i < length; i++) channel[i] = all[i * count + c]!
    return channel
  })
}
