/** Sound laid aside in files that nobody else sees: they have lost their names when they are used, and are gone when the program ends, however it ends. */
import { randomUUID } from 'node:crypto'
import { closeSync, fstatSync, openSync, readSync, unlinkSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import type { SampleStore, Samples } from '#core/audio/samples.ts'

const BYTES = 4

const bytesOf = (values: Float32Array) => new Uint8Array(values.buffer, values.byteOffset, values.byteLength)

/** @returns as many of the values as there are in the file */
function readFloats(file: number, at: number, count: number): Float32Array<ArrayBuffer> {
  const values = new Float32Array(count)
  const bytes = bytesOf(values)
  let read = 0
  while (read < bytes.length) {
    const more = readSync(file, bytes, read, bytes.length - read, at + read)
    if (more === 0) break
    read += more
  }
  return values.subarray(0, Math.floor(read / BYTES))
}

/** @returns a file to write to and read from */
export function namelessFile(folder: string): number {
  const path = join(folder, `.${randomUUID()}.part`)
  const file = openSync(path, 'wx+')
  unlinkSync(path)
  return file
}

/** @param at where in the file; null for its end */
function writeAll(file: number, bytes: Uint8Array, at: number | null) {
  for (let written = 0; written < bytes.length; )
    written += writeSync(file, bytes, written, bytes.length - written, at === null ? null : at + written)
}

export const appendTo = (file: number, bytes: Uint8Array) => writeAll(file, bytes, null)

export interface SampleFile extends SampleStore {
  close(): void
}

/** @param folder where there is room @param length in samples; what was not written yet is silence */
export function sampleFile(folder: string, length: number): SampleFile {
  const file = namelessFile(folder)
  return {
    length,
    subarray(from, to) {
      const values = new Float32Array(Math.max(0, Math.min(to, length) - from))
      values.set(readFloats(file, from * BYTES, values.length))
      return values
    },
    set: (values, at) => writeAll(file, bytesOf(values), at * BYTES),
    close: () => closeSync(file),
  }
}

/** Channels of a file of 32-bit floats, one of each in turn. */
export interface ChannelFile {
  channels: number
  /** Of each channel, samples. */
  length: number
  /** The mean of some channels. */
  mean(which: readonly number[]): Samples
  close(): void
}

/** @param file a WAV file of floats, as the media tool writes it */
export function channelFile(file: number): ChannelFile {
  const head = Buffer.alloc(4096)
  readSync(file, head, 0, head.length, 0)
  const channels = head.readUInt16LE(head.indexOf('fmt ', 12, 'latin1') + 10)
  const start = head.indexOf('data', 12, 'latin1') + 8
  // a pipe leaves the length in the header open
  const length = Math.floor((fstatSync(file).size - start) / BYTES / channels)
  return {
    channels,
    length,
    mean: (which) => ({
      length,
      subarray(from, to) {
        const count = Math.max(0, Math.min(to, length) - from)
        const all = readFloats(file, start + from * channels * BYTES, count * channels)
        if (channels === 1) return all
        const mean = new Float32Array(count)
        for (const channel of which)
          for (let i = 0; i < count; i++) mean[i] = mean[i]! + all[i * channels + channel]! / which.length
        return mean
      },
    }),
    close: () => closeSync(file),
  }
}
