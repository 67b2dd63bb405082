/** Waveform pictures: the lowest and highest sample of each short piece. */

/** Samples behind one min/max pair: 100 pairs a second. */
export const SAMPLES_A_PEAK = 480

/**
 * @param samples 16-bit mono, 48 kHz
 * @returns min, max, min, max … as 16-bit integers, one pair for each 480 samples begun
 */
export function peaksOf(samples: Int16Array): Int16Array<ArrayBuffer> {
  const pairs = Math.ceil(samples.length / SAMPLES_A_PEAK)
  const out = new Int16Array(pairs * 2)
  for (let p = 0; p < pairs; p++) {
    let low = 32767
    let high = -32768
    const end = Math.min(samples.length, (p + 1) * SAMPLES_A_PEAK)
    for (let i = p * SAMPLES_A_PEAK; i < end; i++) {
      const value = samples[i]!
      if (value < low) low = value
      if (value > high) high = value
    }
    out[2 * p] = low
    out[2 * p + 1] = high
  }
  return out
}

/** The same of sound that comes in pieces of whole pairs. @param length of all pieces, samples */
export function peaksOfPieces(pieces: Iterable<Int16Array>, length: number): Int16Array<ArrayBuffer> {
  const out = new Int16Array(2 * Math.ceil(length / SAMPLES_A_PEAK))
  let at = 0
  for (const piece of pieces) {
    out.set(peaksOf(piece), at)
    at += 2 * Math.ceil(piece.length / SAMPLES_A_PEAK)
  }
  return out
}
