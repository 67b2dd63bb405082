/** The inner loops in WebAssembly: one instance for each thread, made when it is first needed. */
import { bytesOfBase64 } from './base64.ts'
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

/** What of WebAssembly (ECMAScript's neighbour, W3C WebAssembly JavaScript Interface) is used here; the core has no DOM types. */
interface WebAssemblyApi {
  Module: new (bytes: Uint8Array) => object
  Instance: new (module: object, imports: object) => { exports: unknown }
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
  const { Module, Instance } = (globalThis as unknown as { WebAssembly: WebAssemblyApi }).WebAssembly
  const abort = () => {
    throw new Error('A kernel was called with what it cannot do.')
  }
  const exports = new Instance(new Module(bytesOfBase64(KERNELS_WASM)), { env: { abort } }).exports as Exports
  exports.prepare()
  made = { ...exports, floats: new Float32Array(exports.memory.buffer) }
  return made
}
