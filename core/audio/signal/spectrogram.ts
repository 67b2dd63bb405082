/** Spectrogram pictures: levels of bands over time, as bytes. */
import { realFft } from './fft.ts'
import { chunksOf, type Samples } from './sample-source.ts'

/** Samples behind one column: 50 columns a second. */
export const SAMPLES_A_COLUMN = 960
export const SPECTROGRAM_BANDS = 72
const SIZE = 2048
const [LOWEST_HZ, HIGHEST_HZ] = [60, 12_000]
/** A byte of 0 is this quiet or quieter, 255 this loud or louder; dBFS of a band. */
const [QUIET_DB, LOUD_DB] = [-105, -30]

/** Lower edge of a band, Hz: about linear below 700 Hz and logarithmic above, as hearing is (O'Shaughnessy 1987, mel scale). */
export function bandEdgeHz(band: number): number {
  const mel = (hz: number) => Math.log(1 + hz / 700)
  const at = mel(LOWEST_HZ) + ((mel(HIGHEST_HZ) - mel(LOWEST_HZ)) * band) / SPECTROGRAM_BANDS
  return 700 * (Math.exp(at) - 1)
}

/**
 * @param samples mono, 48 kHz
 * @returns column by column from the beginning, each with `SPECTROGRAM_BANDS` bytes from low to high
 */
export function spectrogramOf(samples: Samples): Uint8Array<ArrayBuffer> {
  const columns = Math.ceil(samples.length / SAMPLES_A_COLUMN)
  const out = new Uint8Array(columns * SPECTROGRAM_BANDS)
  const fft = realFft(SIZE)
  const window = Float64Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / SIZE))
  const input = new Float64Array(SIZE)
  const [re, im] = [new Float64Array(fft.bins), new Float64Array(fft.bins)]
  const edges = Array.from({ length: SPECTROGRAM_BANDS + 1 }, (_, b) => (bandEdgeHz(b) * SIZE) / 48_000)
  const chunks = chunksOf(samples.length)
  let chunk = -1
  let piece = samples.subarray(0, 0)
  for (let c = 0; c < columns; c++) {
    const middle = c * SAMPLES_A_COLUMN + SAMPLES_A_COLUMN / 2
    if (middle >= (chunks[chunk]?.end ?? 0) && chunk < chunks.length - 1) {
      chunk++
      piece = samples.subarray(chunks[chunk]!.from, chunks[chunk]!.to)
    }
    const start = middle - SIZE / 2 - chunks[chunk]!.from
    for (let i = 0; i < SIZE; i++) input[i] = (piece[start + i] ?? 0) * window[i]!
    fft.forward(input, re, im)
    for (let b = 0; b < SPECTROGRAM_BANDS; b++) {
      const from = Math.floor(edges[b]!)
      const to = Math.max(from + 1, Math.ceil(edges[b + 1]!))
      let power = 0
      for (let k = from; k < to; k++) power += re[k]! * re[k]! + im[k]! * im[k]!
      const db = 10 * Math.log10(power / (to - from) / (SIZE / 4) ** 2 + 1e-14)
      out[c * SPECTROGRAM_BANDS + b] = Math.max(0, Math.min(255, Math.round((255 * (db - QUIET_DB)) / (LOUD_DB - QUIET_DB))))
    }
  }
  return out
}
