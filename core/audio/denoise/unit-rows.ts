/** Rows of units in the kernels' memory, where the inner loops of suppression work. */

import { kernels } from '#core/audio/wasm/kernels.ts'
import { type MemoryPlaces, memoryPart } from '#core/audio/wasm/memory-map.ts'
import { UNIT_EDGES, UNITS } from './bands.ts'
import { HALF_E1 } from './log-mmse.ts'

/** Frames that are worked at a time. */
const CHUNK = 64

let filled = false

/** Places, in floats. */
function placesOf({ floats, take }: MemoryPlaces) {
  const rows = { power: take(CHUNK * UNITS), noise: take(CHUNK * UNITS), xi: take(CHUNK * UNITS) }
  const single = {
    state: take(UNITS),
    presence: take(UNITS),
    model: take(UNITS),
    share: take(UNITS),
    rumble: take(UNITS),
    weights: take(UNITS),
  }
  const edges = take(UNITS + 1)
  new Int32Array(floats.buffer).set(UNIT_EDGES, edges)
  return { ...rows, ...single, edges }
}

/** The kernels, and places for rows; each place in floats, and in bytes for the kernels. */
export function unitRows() {
  const { floats, ...call } = kernels()
  if (!filled) floats.set(HALF_E1, call.halfE1() / 4)
  filled = true
  return { floats, call, at: placesOf(memoryPart('rows')) }
}

/** Bytes of a row. */
export const ROW_BYTES = 4 * UNITS

/**
 * Goes through frames in chunks.
 *
 * @param backward whether from the last on
 * @param work is given the first frame of a chunk and how many they are
 */
export function inChunks(frames: number, backward: boolean, work: (first: number, count: number) => void) {
  const chunks = Math.ceil(frames / CHUNK)
  for (let c = 0; c < chunks; c++) {
    const first = (backward ? chunks - 1 - c : c) * CHUNK
    work(first, Math.min(CHUNK, frames - first))
  }
}
