/** The inner loops in WebAssembly: one instance for each thread, made when it is first needed. */
import { instanceOf } from '#core/wasm/instance.ts'
import { KERNELS_WASM } from './wasm.ts'

interface Exports {
  memory: { buffer: ArrayBuffer }
  prepare(): void
  free(): number
  forward4(samples: number, hop: number, re: number, im: number): void
  inverse4(re: number, im: number, hop: number, out: number, scale: number): void
  layer16(
    weights: number,
    biases: number,
    from: number,
    to: number,
    row: number,
    inputs: number,
    outputs: number,
    taps: number,
    shift: number,
    kind: number,
  ): void
  between(samples: number, count: number, to: number): void
}

export interface Kernels extends Exports {
  /** The whole memory as 32-bit floats. */
  floats: Float32Array
}

/** Frames are transformed, and steps of the model worked, so many side by side. */
export const FRAMES_TOGETHER = 4
export const STEPS_TOGETHER = 16

let made: Kernels | null = null

export function kernels(): Kernels {
  if (made) return made
  const exports = instanceOf<Exports>(KERNELS_WASM)
  exports.prepare()
  made = { ...exports, floats: new Float32Array(exports.memory.buffer) }
  return made
}
