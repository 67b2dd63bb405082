/** Who has which part of the kernels' memory. What stands in a part is lost when its next user begins. */
import { kernels } from './kernels.ts'

const KIB = 1024
/** Pages of 64 KiB that the kernels begin with (`tools/build-kernels.ts`). */
export const MEMORY_PAGES = 56

/** In bytes, one behind the other; the kernels' own tables lie before the first. */
const PARTS = {
  /** A window of frames and their bins, or a piece of sound and the peaks in it. */
  work: { from: 64 * KIB, to: 192 * KIB },
  /** Rows of units, on which suppression works. */
  rows: { from: 192 * KIB, to: 384 * KIB },
  /** The voice model: its weights, and what its layers tell each other. */
  model: { from: 384 * KIB, to: MEMORY_PAGES * 64 * KIB },
}
export type MemoryPart = keyof typeof PARTS

export interface MemoryPlaces {
  /** All of the memory. */
  floats: Float32Array
  /** Takes the next free place of the part. @returns where it begins, in floats, at a whole vector @throws Error when the part is full */
  take(floats: number): number
}

/** @returns a part of the memory with nothing taken of it yet */
export function memoryPart(part: MemoryPart): MemoryPlaces {
  const { floats, free } = kernels()
  const { from, to } = PARTS[part]
  if (free() > from) throw new Error(`The tables of the kernels reach into the memory for “${part}”.`)
  let next = from / 4
  return {
    floats,
    take(count) {
      const place = next
      next += Math.ceil(count / 4) * 4
      if (next > to / 4)
        throw new Error(`The memory of the kernels for “${part}” is too small: move its borders in memory-map.ts.`)
      return place
    },
  }
}
