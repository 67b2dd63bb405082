/** Any sound file, judged by its content, as 48 kHz mono samples. */
import { closeSync, openSync } from 'node:fs'
import { rm, stat } from 'node:fs/promises'
import { basename } from 'node:path'
import { aliveChannels, monoOf } from '#core/audio/mono.ts'
import { rms } from '#core/audio/pcm.ts'
import { chunksOf, type Samples } from '#core/audio/samples.ts'
import { isDiskFull, Sentence } from '#server/sentence.ts'
import type { FileStore } from '#server/store/file-store.ts'
import type { PcmFile } from './pcm.ts'
import { appendTo, channelFile, namelessFile } from './sample-file.ts'
import { bytesOf, samplesOf } from './sound-files.ts'
import type { MediaTool } from './tool.ts'

// demuxers of self-contained sound and video files; playlists and the like could name other files
const FORMATS = 'wav,w64,flac,mp3,aac,mov,mp4,m4a,ogg,matroska,webm,asf,aiff,au,caf,avi,mpegts,amr,ac3'
/** One channel is added up piece by piece; several are held at once, as floats up to four bytes a sample. */
const LONGEST = { mono: 6 * 3600, channels: 3 * 3600 }

interface Reading {
  /** As the person knows the file; its path's last part when absent. */
  name?: string
  signal?: AbortSignal
  /** What is longer is refused; what memory allows when absent. */
  longestSeconds?: number
}

const nothingIn = (name: string) => new Sentence(`“${name}” holds no sound. Choose a file with sound in it.`, 415)
const tooLong = (name: string, seconds: number) =>
  new Sentence(`“${name}” is longer than ${seconds / 3600} hours. Divide it first.`, 413)

/** The first sound track of a file as a WAV stream: its header tells how many channels there are. */
async function wavStream(
  tool: MediaTool,
  path: string,
  codec: 'pcm_f32le' | 'pcm_s16le',
  { name = basename(path), signal }: Reading,
  longestSeconds: number,
  onOutput?: (piece: Buffer) => void,
): Promise<Buffer> {
  const found = await stat(path).catch(() => null)
  if (!found?.isFile()) throw new Sentence(`There is no file “${name}”. Check its name and folder.`, 404)
  if (found.size === 0) throw new Sentence(`“${name}” is empty (0 bytes). Save or download it again.`, 422)
  const input = ['-protocol_whitelist', 'file', '-format_whitelist', FORMATS, '-i', path, '-map', '0:a:0', '-vn']
  const output = ['-t', String(longestSeconds + 1), '-c:a', codec, '-ar', '48000', '-f', 'wav', 'pipe:1']
  return tool.run([...input, ...output], { ...(signal && { signal }), ...(onOutput && { onOutput }) }).catch((error) => {
    if (error instanceof Sentence || isDiskFull(error) || signal?.aborted) throw error
    throw new Sentence(
      /matches no streams/.test(String(error))
        ? `“${name}” holds no sound. Choose a file with sound in it.`
        : `“${name}” cannot be read as sound, whatever its name says; it may be damaged. Export it again, as WAV or MP3 for example.`,
      415,
    )
  })
}

async function wavOf(tool: MediaTool, path: string, codec: 'pcm_f32le' | 'pcm_s16le', reading: Reading) {
  const { name = basename(path), longestSeconds = LONGEST.channels } = reading
  const wav = await wavStream(tool, path, codec, reading, longestSeconds)
  const channels = wav.readUInt16LE(22)
  const start = wav.indexOf('data', 12, 'latin1') + 8
  // a pipe leaves the length field open
  const length = Math.floor((wav.length - start) / (wav.readUInt16LE(34) / 8) / channels)
  if (length > longestSeconds * 48_000) throw tooLong(name, longestSeconds)
  if (length === 0) throw nothingIn(name)
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

export interface OpenSound {
  samples: Samples
  /** How many channels carried no sound. */
  deadChannels: number
  close(): void
}

/**
 * The same for sound of any length: it is laid aside and read from there.
 *
 * @param folder where there is room for it
 * @throws Sentence as `readSound` does
 */
export async function openSound(tool: MediaTool, path: string, folder: string, reading: Reading = {}): Promise<OpenSound> {
  const { name = basename(path), longestSeconds = LONGEST.channels } = reading
  const file = namelessFile(folder)
  try {
    await wavStream(tool, path, 'pcm_f32le', reading, longestSeconds, (piece) => appendTo(file, piece))
    const sound = channelFile(file)
    if (sound.length > longestSeconds * 48_000) throw tooLong(name, longestSeconds)
    if (sound.length === 0) throw nothingIn(name)
    const every = [...Array(sound.channels).keys()]
    const alive = aliveChannels(every.map((channel) => levelOf(sound.mean([channel]))))
    return { samples: sound.mean(alive), deadChannels: sound.channels - alive.length, close: sound.close }
  } catch (error) {
    closeSync(file)
    throw error
  }
}

/** Root mean square. */
function levelOf(sound: Samples): number {
  const energy = chunksOf(sound.length).reduce((sum, { start, end }) => {
    const piece = sound.subarray(start, end)
    return sum + rms(piece) ** 2 * piece.length
  }, 0)
  return Math.sqrt(energy / Math.max(1, sound.length))
}

/** Adds up channels as they come from the media tool. @param only the channels that count; null for all @param file for what they add up to */
function mixer(only: readonly number[] | null, file: number) {
  let header: Buffer | null = Buffer.alloc(0)
  let rest: Buffer = Buffer.alloc(0)
  let channels = 0
  /** What each channel counts for. */
  let weights: number[] = []
  const energies: number[] = []
  let length = 0
  const take = (bytes: Buffer) => {
    const whole = bytes.length - (bytes.length % (2 * channels))
    const values = samplesOf(bytes.subarray(0, whole))
    const mean = new Int16Array(values.length / channels)
    for (let i = 0, at = 0; i < mean.length; i++, at += channels) {
      let sum = 0
      for (let c = 0; c < channels; c++) {
        const value = values[at + c]!
        energies[c] = energies[c]! + value * value
        sum += weights[c]! * value
      }
      mean[i] = Math.round(sum)
    }
    appendTo(file, bytesOf(mean))
    length += mean.length
    rest = bytes.subarray(whole)
  }
  return {
    add(piece: Buffer) {
      if (header === null) return take(rest.length > 0 ? Buffer.concat([rest, piece]) : piece)
      header = Buffer.concat([header, piece])
      const data = header.indexOf('data', 12, 'latin1')
      if (data < 0 || header.length < data + 8) return
      channels = header.readUInt16LE(22)
      const counted = only ?? [...Array(channels).keys()]
      weights = Array.from({ length: channels }, (_, c) => (counted.includes(c) ? 1 / counted.length : 0))
      energies.push(...weights.map(() => 0))
      const begun = header.subarray(data + 8)
      header = null
      take(begun)
    },
    levels: () => energies.map((energy) => Math.sqrt(energy / Math.max(1, length))),
    length: () => length,
  }
}

export interface Mono {
  /** 48 kHz. */
  samples: PcmFile
  /** What a person should know: channels that were left out; null when all carry sound. */
  note: string | null
}

function deadNote(name: string, channels: number, alive: readonly number[]): string | null {
  if (alive.length === channels) return null
  if (channels === 2)
    return `Only the ${alive[0] === 0 ? 'left' : 'right'} channel of “${name}” carries sound; it was taken alone.`
  return `Of the ${channels} channels of “${name}” some carry no sound (${channels - alive.length}); they were left out.`
}

/**
 * One channel of 16-bit samples for as long as it is used, added up and laid aside while the file is read: however long it is, little of it
 * is in memory.
 *
 * @throws Sentence as `readSound` does, but for six hours
 */
export async function withMono<T>(
  { media, store }: { media: MediaTool; store: FileStore },
  path: string,
  reading: Reading,
  use: (mono: Mono) => Promise<T>,
): Promise<T> {
  const { name = basename(path), longestSeconds = LONGEST.mono } = reading
  const aside = store.scratchPath('.pcm')
  const mixed = async (only: readonly number[] | null) => {
    const file = openSync(aside, 'w')
    try {
      const mix = mixer(only, file)
      await wavStream(media, path, 'pcm_s16le', reading, longestSeconds, mix.add)
      if (mix.length() > longestSeconds * 48_000) throw tooLong(name, longestSeconds)
      if (mix.length() === 0) throw nothingIn(name)
      return mix
    } finally {
      closeSync(file)
    }
  }
  try {
    const all = await mixed(null)
    const levels = all.levels()
    const alive = aliveChannels(levels)
    const note = deadNote(name, levels.length, alive)
    if (note !== null) await mixed(alive)
    return await use({ samples: { path: aside, first: 0, length: all.length() }, note })
  } finally {
    await rm(aside, { force: true })
  }
}

/**
 * Every channel by itself, for music.
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
