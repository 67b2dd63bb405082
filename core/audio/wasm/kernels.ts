/** The inner loops in WebAssembly: one instance for each thread, made when it is first needed. */
import { instanceOf } from './instance.ts'
import { KERNELS_WASM } from './wasm.ts'

interface Exports {
  memory: { buffer: ArrayBuffer }
  prepare(): void
  free(): number
  forward4(samples: number, hop: number, re: number, im: number): void
  inverse4(re: number, im: number, hop: number, out: number, scale: number): void
  paired(from: number, to: number, row: number, rows: number, count: number): number
  layer16(
    weights: number,
    scales: number,
    biases: number,
    from: number,
    beside: number,
    to: number,
    row: number,
    inputs: number,
    outputs: number,
    taps: number,
    shift: number,
    kind: number,
  ): void
  between(samples: number, count: number, to: number): void
  halfE1(): number
  followNoise(
    power: number,
    noise: number,
    presence: number,
    into: number,
    frames: number,
    units: number,
    backward: boolean,
    keepNoise: number,
    keepPresence: number,
    priorRatio: number,
    least: number,
  ): void
  decide(
    power: number,
    noise: number,
    voice: number,
    xi: number,
    frames: number,
    units: number,
    backward: boolean,
    alpha: number,
    least: number,
  ): void
  mixRatios(xi: number, model: number, share: number, units: number, heard: number, silent: number): void
  weighUnits(
    power: number,
    noise: number,
    logXi: number,
    model: number,
    share: number,
    rumble: number,
    to: number,
    units: number,
    presence: number,
    floor: number,
    pauseFloor: number,
    wet: number,
    heard: number,
    silent: number,
  ): void
  weighBins(re: number, im: number, weights: number, edges: number, units: number): void
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
