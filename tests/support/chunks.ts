/** A recording as the booth sends it. */
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { bytesOf } from '#server/media/sound-files.ts'

/** One-second chunks of 16-bit little-endian sound. */
export function chunksOf(samples: Float32Array): Uint8Array[] {
  const bytes = bytesOf(toInt16(samples))
  return Array.from({ length: Math.ceil(bytes.length / 96_000) }, (_, i) => bytes.slice(i * 96_000, (i + 1) * 96_000))
}
