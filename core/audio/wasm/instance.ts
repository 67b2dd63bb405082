/** Kernels in WebAssembly, from the text they are kept as to functions that can be called. */
import { bytesOfBase64 } from './base64.ts'

/** What of WebAssembly (W3C WebAssembly JavaScript Interface) is used here; the core has no DOM types. */
interface WebAssemblyApi {
  Module: new (bytes: Uint8Array) => object
  Instance: new (module: object, imports: object) => { exports: unknown }
}

/** @param base64 a module that asks for `abort` at most @returns what it exports */
export function instanceOf<Exports>(base64: string): Exports {
  const { Module, Instance } = (globalThis as unknown as { WebAssembly: WebAssemblyApi }).WebAssembly
  const abort = () => {
    throw new Error('A kernel was called with what it cannot do.')
  }
  return new Instance(new Module(bytesOfBase64(base64)), { env: { abort } }).exports as Exports
}
