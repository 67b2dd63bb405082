/** The loudness meter of the package ebur128-wasm. It is built for bundlers, so its module is loaded by hand here. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'

interface Meter {
  memory: WebAssembly.Memory
  __wbindgen_malloc(bytes: number): number
  ebur128_integrated_stereo(rate: number, left: number, leftLength: number, right: number, rightLength: number): number
  ebur128_true_peak_stereo(rate: number, left: number, leftLength: number, right: number, rightLength: number): number
}

const folder = dirname(createRequire(import.meta.url).resolve('ebur128-wasm/package.json'))

/** @returns LUFS and dBTP of a stereo signal at 48 kHz */
export async function ebur128(left: Float32Array, right: Float32Array): Promise<{ integrated: number; truePeak: number }> {
  const module = await WebAssembly.compile(readFileSync(join(folder, 'ebur128_wasm_bg.wasm')))
  const stubs: WebAssembly.Imports = {}
  for (const { module: from, name } of WebAssembly.Module.imports(module)) {
    stubs[from] ??= {}
    stubs[from][name] = () => {
      throw new Error(`ebur128-wasm called ${name}`)
    }
  }
  const meter = (await WebAssembly.instantiate(module, stubs)).exports as unknown as Meter
  const put = (samples: Float32Array) => {
    const at = meter.__wbindgen_malloc(samples.length * 4)
    new Float32Array(meter.memory.buffer).set(samples, at / 4)
    return at
  }
  const call = (measure: 'ebur128_integrated_stereo' | 'ebur128_true_peak_stereo') => {
    const [l, r] = [put(left), put(right)] // it frees what it is given
    return meter[measure](48_000, l, left.length, r, right.length)
  }
  return { integrated: call('ebur128_integrated_stereo'), truePeak: call('ebur128_true_peak_stereo') }
}
