/** The inner loops of aligning in WebAssembly: one instance for each thread, whose memory grows with what is laid into it. */
import { instanceOf } from '#core/audio/wasm/instance.ts'
import { KERNELS_WASM } from './wasm.ts'

interface Exports {
  memory: { buffer: ArrayBuffer; grow(pages: number): number }
  free(): number
  advance(
    frame: number,
    reference: number,
    scores: number,
    records: number,
    holds: number,
    start: number,
    end: number,
    entry: number,
    record: number,
    limit: number,
    more: number,
    most: number,
  ): number
  leastScore(): number
  addPair(x: number, y: number, width: number, a: number, b: number): void
  foretell(x: number, width: number, b: number, out: number): void
}

/** What `advance` tells. */
export const [ALIVE, ENTERED] = [1, 2]

const PAGE = 65_536

let made: Exports | null = null

/**
 * The kernels with room for arrays, which begin at multiples of 16 bytes, one after the other. What was laid there before is lost.
 *
 * @param bytes of each array
 * @returns where each begins
 */
export function kernelsWith(bytes: readonly number[]): { kernels: Exports; places: number[]; buffer: ArrayBuffer } {
  made ??= instanceOf<Exports>(KERNELS_WASM)
  const kernels = made
  let at = Math.ceil(kernels.free() / 16) * 16
  const places = bytes.map((size) => {
    const place = at
    at += Math.ceil(size / 16) * 16
    return place
  })
  const missing = at - kernels.memory.buffer.byteLength
  if (missing > 0) kernels.memory.grow(Math.ceil(missing / PAGE))
  return { kernels, places, buffer: kernels.memory.buffer }
}
