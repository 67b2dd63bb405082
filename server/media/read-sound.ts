/** Any sound file, judged by its content, as 48 kHz mono samples. */

import { closeSync, openSync } from 'node:fs'
import { rm, stat } from 'node:fs/promises'
import { basename } from 'node:path'
import { aliveChannels, cancelEachOther, monoOf } from '#core/audio/signal/downmix.ts'
import { rms } from '#core/audio/signal/pcm.ts'
import { chunksOf, type Samples } from '#core/audio/signal/sample-source.ts'
import { type Message, message } from '#core/words/say.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import type { Ffmpeg } from './ffmpeg.ts'
import { type MissingSound, missingSound } from './missing-sound.ts'
import type { PcmFile } from './pcm.ts'
import { appendTo, channelFile, namelessFile } from './sample-file.ts'
import { bytesOf, samplesOf } from './sound-files.ts'

// demuxers of self-contained sound and video files; playlists and the like could name other files
const FORMATS = 'wav,w64,flac,mp3,aac,mov,mp4,m4a,ogg,matroska,webm,asf,aiff,au,caf,avi,mpegts,amr,ac3'
/** What is spilled to disk may be longer than what is held at once, as floats of four bytes a sample. */
const LONGEST = { mono: 6 * 3600, channels: 3 * 3600 }
/** A damaged file may be complained of without end. */
const MOST_MESSAGES = 100_000

interface Reading {
  /** As the person knows the file; its path's last part when absent. */
  name?: string
  signal?: AbortSignal
  /** What is longer is refused; what memory allows when absent. */
  longestSeconds?: number
}

const nothingIn = (name: string) =>
  new UserFacingError(message('“{name}” holds no sound. Choose a file with sound in it.', { name }), 415)
const MINUTE_S = 60
const HOUR_S = 3600
const tooLong = (name: string, seconds: number, advice: Message = message('Divide it first.')) =>
  new UserFacingError(
    seconds < HOUR_S
      ? message('“{name}” is longer than {minutes, plural, one {# minute} other {# minutes}}. {advice}', {
          name,
          minutes: Number((seconds / MINUTE_S).toFixed(2)),
          advice,
        })
      : message('“{name}” is longer than {hours, plural, one {# hour} other {# hours}}. {advice}', {
          name,
          hours: seconds / HOUR_S,
          advice,
        }),
    413,
  )

/** The first sound track of a file as a WAV stream: its header tells how many channels there are. */
async function wavStream(
  tool: Ffmpeg,
  path: string,
  codec: 'pcm_f32le' | 'pcm_s16le',
  { name = basename(path), signal }: Reading,
  longestSeconds: number,
  onOutput?: (piece: Buffer) => void,
): Promise<{ wav: Buffer; messages: string }> {
  const found = await stat(path).catch(() => null)
  if (!found?.isFile()) throw new UserFacingError(message('There is no file “{name}”. Check its name and folder.', { name }), 404)
  if (found.size === 0)
    throw new UserFacingError(message('“{name}” is empty (0 bytes). Save or download it again.', { name }), 422)
  const told = ['-loglevel', 'info', '-nostats']
  const input = ['-protocol_whitelist', 'file', '-format_whitelist', FORMATS, '-i', path, '-map', '0:a:0', '-vn']
  const output = ['-t', String(longestSeconds + 1), '-c:a', codec, '-ar', '48000', '-f', 'wav', 'pipe:1']
  let messages = ''
  const onMessage = (text: string) => {
    if (messages.length < MOST_MESSAGES) messages += text
  }
  try {
    const wav = await tool.run([...told, ...input, ...output], {
      onMessage,
      ...(signal && { signal }),
      ...(onOutput && { onOutput }),
    })
    return { wav, messages }
  } catch (error) {
    if (error instanceof UserFacingError || isDiskFull(error) || signal?.aborted) throw error
    throw new UserFacingError(
      /matches no streams/.test(messages)
        ? message('“{name}” holds no sound. Choose a file with sound in it.', { name })
        : message(
            '“{name}” cannot be read as sound, whatever its name says; it may be damaged. Export it again, as WAV or MP3 for example.',
            { name },
          ),
      415,
    )
  }
}

export interface ReadSound<S extends Samples = Samples> {
  /** Full scale ±1. */
  samples: S
  /** How many channels carried no sound. */
  deadChannels: number
  /** Two channels cancelled each other out, and one was taken alone. */
  cancels: boolean
  /** What a person should know of what is missing. */
  missing: MissingSound | null
}

/**
 * @param path of a sound or video file
 * @throws UserFacingError when it is missing, empty, no sound, or longer than three hours
 */
export async function readSound(tool: Ffmpeg, path: string, reading: Reading = {}): Promise<ReadSound<Float32Array>> {
  const { name = basename(path), longestSeconds = LONGEST.channels } = reading
  const { wav, messages } = await wavStream(tool, path, 'pcm_f32le', reading, longestSeconds)
  const channels = wav.readUInt16LE(22)
  const start = wav.indexOf('data', 12, 'latin1') + 8
  // a pipe leaves the length field open
  const length = Math.floor((wav.length - start) / 4 / channels)
  if (length > longestSeconds * 48_000) throw tooLong(name, longestSeconds)
  if (length === 0) throw nothingIn(name)
  const all = new Float32Array(wav.buffer.slice(wav.byteOffset + start, wav.byteOffset + start + length * channels * 4))
  const { samples, dead, cancels } = monoOf(divide(all, channels, length))
  return { samples, deadChannels: dead, cancels, missing: await missingSound(path, name, messages, length / 48_000) }
}

export interface OpenSound extends ReadSound {
  close(): void
}

/**
 * The same for sound of any length: it is spilled to disk and read from there.
 *
 * @param folder where there is room for it
 * @throws UserFacingError as `readSound` does
 */
export async function openSound(tool: Ffmpeg, path: string, folder: string, reading: Reading = {}): Promise<OpenSound> {
  const { name = basename(path), longestSeconds = LONGEST.channels } = reading
  const file = namelessFile(folder)
  try {
    const { messages } = await wavStream(tool, path, 'pcm_f32le', reading, longestSeconds, (piece) => appendTo(file, piece))
    const sound = channelFile(file)
    if (sound.length > longestSeconds * 48_000) throw tooLong(name, longestSeconds)
    if (sound.length === 0) throw nothingIn(name)
    const every = [...Array(sound.channels).keys()]
    const levels = every.map((channel) => levelOf(sound.mean([channel])))
    const alive = aliveChannels(levels)
    const cancels = cancelling(levels, alive, () => levelOf(sound.mean(alive)))
    const missing = await missingSound(path, name, messages, sound.length / 48_000)
    const samples = sound.mean(cancels ? [loudest(levels)] : alive)
    return { samples, deadChannels: sound.channels - alive.length, cancels, missing, close: sound.close }
  } catch (error) {
    closeSync(file)
    throw error
  }
}

const loudest = (levels: readonly number[]) => levels.indexOf(Math.max(...levels))

/** @param alive of the channels, those that carry sound @param ofMean level of their mean */
const cancelling = (levels: readonly number[], alive: readonly number[], ofMean: () => number) =>
  alive.length === 2 && cancelEachOther([levels[alive[0]!]!, levels[alive[1]!]!], ofMean())

/** Root mean square. */
function levelOf(sound: Samples): number {
  const energy = chunksOf(sound.length).reduce((sum, { start, end }) => {
    const piece = sound.subarray(start, end)
    return sum + rms(piece) ** 2 * piece.length
  }, 0)
  return Math.sqrt(energy / Math.max(1, sound.length))
}

/** Hands samples of a WAV stream on as they come, channels in turn. @param take is given whole frames */
function wavReader(take: (values: Int16Array, channels: number) => void) {
  let header: Buffer | null = Buffer.alloc(0)
  let rest: Buffer = Buffer.alloc(0)
  let channels = 0
  const frames = (bytes: Buffer) => {
    const whole = bytes.length - (bytes.length % (2 * channels))
    take(samplesOf(bytes.subarray(0, whole)), channels)
    rest = bytes.subarray(whole)
  }
  return (piece: Buffer) => {
    if (header === null) return frames(rest.length > 0 ? Buffer.concat([rest, piece]) : piece)
    header = Buffer.concat([header, piece])
    const data = header.indexOf('data', 12, 'latin1')
    if (data < 0 || header.length < data + 8) return
    channels = header.readUInt16LE(22)
    const begun = header.subarray(data + 8)
    header = null
    frames(begun)
  }
}

/** Adds up channels as they come from the media tool. @param only the channels that count; null for all @param file for what they add up to */
function mixer(only: readonly number[] | null, file: number) {
  /** What each channel counts for. */
  let weights: number[] = []
  const energies: number[] = []
  let ofMean = 0
  let length = 0
  const add = wavReader((values, channels) => {
    if (weights.length === 0) {
      const counted = only ?? [...Array(channels).keys()]
      weights = Array.from({ length: channels }, (_, c) => (counted.includes(c) ? 1 / counted.length : 0))
      energies.push(...weights.map(() => 0))
    }
    const mean = new Int16Array(values.length / channels)
    for (let i = 0, at = 0; i < mean.length; i++, at += channels) {
      let sum = 0
      for (let c = 0; c < channels; c++) {
        const value = values[at + c]!
        energies[c] = energies[c]! + value * value
        sum += weights[c]! * value
      }
      mean[i] = Math.round(sum)
      ofMean += sum * sum
    }
    appendTo(file, bytesOf(mean))
    length += mean.length
  })
  return {
    add,
    levels: () => energies.map((energy) => Math.sqrt(energy / Math.max(1, length))),
    meanLevel: () => Math.sqrt(ofMean / Math.max(1, length)),
    length: () => length,
  }
}

export interface Mono {
  /** 48 kHz. */
  samples: PcmFile
  /** What a person should know: channels that were left out, sound that is missing; null when all is there. */
  note: Message | null
  missing: MissingSound | null
}

function deadNote(name: string, channels: number, alive: readonly number[]): Message | null {
  if (alive.length === channels) return null
  if (channels === 2)
    return alive[0] === 0
      ? message('Only the left channel of “{name}” carries sound; it was taken alone.', { name })
      : message('Only the right channel of “{name}” carries sound; it was taken alone.', { name })
  return message('Of the {channels} channels of “{name}” some carry no sound ({silent}); they were left out.', {
    channels,
    name,
    silent: channels - alive.length,
  })
}

/**
 * One channel of 16-bit samples for as long as it is used, added up and spilled to disk while the file is read: however long it is, little of it
 * is in memory.
 *
 * @throws UserFacingError as `readSound` does, but for six hours
 */
export async function withMono<T>(
  { media, store }: { media: Ffmpeg; store: FileStore },
  path: string,
  reading: Reading,
  use: (mono: Mono) => Promise<T>,
): Promise<T> {
  const { name = basename(path), longestSeconds = LONGEST.mono } = reading
  const spillPath = store.scratchPath('.pcm')
  const mixed = async (only: readonly number[] | null) => {
    const file = openSync(spillPath, 'w')
    try {
      const mix = mixer(only, file)
      const { messages } = await wavStream(media, path, 'pcm_s16le', reading, longestSeconds, mix.add)
      if (mix.length() > longestSeconds * 48_000) throw tooLong(name, longestSeconds)
      if (mix.length() === 0) throw nothingIn(name)
      return { ...mix, messages }
    } finally {
      closeSync(file)
    }
  }
  try {
    const all = await mixed(null)
    const levels = all.levels()
    const alive = aliveChannels(levels)
    // with a dead channel beside them the two would have been weighed with it: what is left is looked at by itself
    const dead = deadNote(name, levels.length, alive)
    const ofAlive = dead === null ? all : await mixed(alive)
    const cancels = cancelling(levels, alive, ofAlive.meanLevel)
    if (cancels) await mixed([loudest(levels)])
    const left = cancels
      ? message('The two channels of “{name}” cancel each other out; one of them was taken alone.', { name })
      : dead
    const missing = await missingSound(path, name, all.messages, all.length() / 48_000)
    const note = missing && left ? message('{first} {second}', { first: missing.note, second: left }) : (missing?.note ?? left)
    return await use({ samples: { path: spillPath, first: 0, length: all.length() }, note, missing })
  } finally {
    await rm(spillPath, { force: true })
  }
}

export interface Stereo {
  /** 16-bit samples at 48 kHz, left and right in turn, and nothing else. */
  path: string
  /** Of each side, samples. */
  length: number
  note: Message | null
}

/**
 * Left and right for as long as they are used, spilled to disk while the file is read. One channel stands on both sides; of more than two the first
 * two are taken, which are left and right in every order of channels.
 *
 * @throws UserFacingError as `readSound` does
 */
export async function withStereo<T>(
  { media, store }: { media: Ffmpeg; store: FileStore },
  path: string,
  reading: Reading & { longestSeconds: number },
  use: (stereo: Stereo) => Promise<T>,
): Promise<T> {
  const { name = basename(path), longestSeconds } = reading
  const spillPath = store.scratchPath('.pcm')
  const file = openSync(spillPath, 'wx')
  let length = 0
  try {
    const add = wavReader((values, channels) => {
      const count = values.length / channels
      const both = new Int16Array(2 * count)
      for (let i = 0; i < count; i++) {
        both[2 * i] = values[i * channels]!
        both[2 * i + 1] = values[i * channels + (channels > 1 ? 1 : 0)]!
      }
      appendTo(file, bytesOf(both))
      length += count
    })
    const { messages } = await wavStream(media, path, 'pcm_s16le', reading, longestSeconds, add).finally(() => closeSync(file))
    if (length > longestSeconds * 48_000) throw tooLong(name, longestSeconds, message('A bed can loop: choose a shorter piece.'))
    if (length === 0) throw nothingIn(name)
    const missing = await missingSound(path, name, messages, length / 48_000)
    return await use({ path: spillPath, length, note: missing?.note ?? null })
  } finally {
    await rm(spillPath, { force: true })
  }
}

function divide(all: Float32Array, count: number, length: number): Float32Array[] {
  if (count === 1) return [all]
  return Array.from({ length: count }, (_, c) => {
    const channel = new Float32Array(length)
    for (let i = 0; i < length; i++) channel[i] = all[i * count + c]!
    return channel
  })
}
