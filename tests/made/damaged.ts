/** Files as something or somebody has damaged them. */
import { random } from './sound.ts'

/** Some bytes changed, a piece cut out, a piece repeated, or the end missing. */
export function damaged(bytes: Uint8Array, seed: number): Uint8Array {
  const next = random(seed)
  const at = () => Math.floor(next() * bytes.length)
  const kind = Math.floor(next() * 4)
  if (kind === 0) {
    const out = bytes.slice()
    for (let i = 0; i < 1 + next() * 40; i++) out[at()] = Math.floor(next() * 256)
    return out
  }
  const [from, to] = [at(), at()].sort((a, b) => a - b) as [number, number]
  if (kind === 1) return Uint8Array.from([...bytes.subarray(0, from), ...bytes.subarray(to)])
  if (kind === 2) return Uint8Array.from([...bytes.subarray(0, to), ...bytes.subarray(from)])
  return bytes.slice(0, to)
}
