/**
 * Sound spilled to disk. Most have lost their names when they are used: nobody else sees them, and they are gone when the program ends,
 * however it ends. Those that threads hand each other keep theirs.
 */
import { randomUUID } from 'node:crypto'
import { closeSync, constants, fstatSync, openSync, readSync, unlinkSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import type { SampleStore, Samples } from '#core/audio/signal/sample-source.ts'

const BYTES = 4

const bytesOf = (values: Float32Array) => new Uint8Array(values.buffer, values.byteOffset, values.byteLength)

/** @param into is filled, as far as the file goes @returns how far that is */
export function readBytes(file: number, at: number, into: Uint8Array): number {
  let read = 0
  while (read < into.length) {
    const more = readSync(file, into, read, into.length - read, at + read)
    if (more === 0) break
    read += more
  }
  return read
}

/** @returns as many of the values as there are in the file */
function readFloats(file: number, at: number, count: number): Float32Array<ArrayBuffer> {
  const values = new Float32Array(count)
  return values.subarray(0, Math.floor(readBytes(file, at, bytesOf(values)) / BYTES))
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

/** @param file of floats, where what was not written yet is silence @param length in samples */
function floatsIn(opened: number, length: number): SampleFile {
  // a number that was given back may be another file's by now
  let file = opened
  return {
    length,
    subarray(from, to) {
      const values = new Float32Array(Math.max(0, Math.min(to, length) - from))
      values.set(readFloats(file, from * BYTES, values.length))
      return values
    },
    set: (values, at) => writeAll(file, bytesOf(values), at * BYTES),
    close() {
      closeSync(file)
      file = -1
    },
  }
}

/** @param folder where there is room @param length in samples */
export const sampleFile = (folder: string, length: number): SampleFile => floatsIn(namelessFile(folder), length)

/** A file with a name, made when it is not there yet. @param length in samples */
export const namedSampleFile = (path: string, length: number): SampleFile =>
  floatsIn(openSync(path, constants.O_RDWR | constants.O_CREAT), length)

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
