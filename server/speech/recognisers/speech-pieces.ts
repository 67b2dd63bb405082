/** A recording cut where nobody speaks: pieces that a recogniser hears one by one. */

const RATE = 16_000
/** Stretches this near to each other are one piece: a recogniser knows words by those beside them. */
const JOINED_S = 0.3
/** Soft beginnings and ends are heard as well. */
const AROUND_S = 0.2
/** Longer pieces take much memory and are heard no better. */
const LONGEST_S = 40
/** Of a WAV file as we write it. */
const WAV_HEAD_BYTES = 44

export interface SpeechPiece {
  /** Seconds of the recording. */
  start: number
  end: number
}

/** @param seconds length of the recording @param stretches where somebody speaks, in order; none: all of it is one */
export function speechPieces(stretches: readonly SpeechPiece[], seconds: number): SpeechPiece[] {
  const all = stretches.length > 0 ? stretches : [{ start: 0, end: seconds }]
  const joined: SpeechPiece[] = []
  for (const { start, end } of all) {
    const last = joined.at(-1)
    if (last && start - last.end < JOINED_S && end - last.start <= LONGEST_S) last.end = end
    else joined.push({ start, end })
  }
  return joined.flatMap(({ start, end }) => {
    const [from, to] = [Math.max(0, start - AROUND_S), Math.min(seconds, end + AROUND_S)]
    const parts = Math.max(1, Math.ceil((to - from) / LONGEST_S))
    return Array.from({ length: parts }, (_, i) => ({
      start: from + ((to - from) * i) / parts,
      end: from + ((to - from) * (i + 1)) / parts,
    }))
  })
}

/** @param wav a WAV file, 16 kHz, 16 bits, mono */
export const secondsOf = (wav: Uint8Array) => (wav.length - WAV_HEAD_BYTES) / 2 / RATE

/** The bare samples of a piece. */
export const bytesOfPiece = (wav: Uint8Array, { start, end }: SpeechPiece): Uint8Array =>
  wav.subarray(WAV_HEAD_BYTES + 2 * Math.round(start * RATE), WAV_HEAD_BYTES + 2 * Math.round(end * RATE))
