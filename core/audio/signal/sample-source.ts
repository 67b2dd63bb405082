/** Sound of any length, read a piece at a time: an array in memory is one, and so is what was spilled to disk. */
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'

export interface Samples {
  readonly length: number
  /** A piece of it, which is not changed. */
  subarray(from: number, to: number): Float32Array
}

/** Sound that is written piece by piece. */
export interface SampleStore extends Samples {
  set(values: Float32Array, at: number): void
}

/** Gives room for so many samples. */
export type SampleAllocator<S extends SampleStore = SampleStore> = (length: number) => S

export const inMemory: SampleAllocator<Float32Array<ArrayBuffer>> = (length) => new Float32Array(length)

/** Long sound is worked in chunks; filters and limiters begin this much earlier and have settled by then. Both are whole steps of loudness. */
const CHUNK = toSamples(30)
export const SETTLED = toSamples(1)

export interface Chunk extends SampleRange {
  /** With what lies around it, as far as there is any. */
  from: number
  to: number
}

/** @param length of the sound in samples */
export const chunksOf = (length: number): Chunk[] =>
  Array.from({ length: Math.ceil(length / CHUNK) }, (_, i) => {
    const [start, end] = [i * CHUNK, Math.min(length, (i + 1) * CHUNK)]
    return { start, end, from: Math.max(0, start - SETTLED), to: Math.min(length, end + SETTLED) }
  })

/** @param into as long as what is copied */
export function copySamples(from: Samples, into: SampleStore) {
  for (const { start, end } of chunksOf(from.length)) into.set(from.subarray(start, end), start)
}
