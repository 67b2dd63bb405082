/** Passages changed by hand: louder, quieter, or replaced by the room. All positions are samples of the take. */
import type { Stretch, TidyUp } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { fromDb } from './pcm.ts'

const RAMP = toSamples(0.01)
const ROOM_PIECE = toSamples(0.4)

/** Gain of 1 outside, of `inside` within, ramped over 10 ms at both edges. */
function eachGain(stretch: Stretch, length: number, inside: number, use: (index: number, gain: number) => void) {
  const end = Math.min(stretch.end, length)
  for (let i = stretch.start; i < end; i++) {
    const near = Math.min(1, (i - stretch.start + 0.5) / RAMP, (end - i - 0.5) / RAMP)
    use(i, 1 + near * (inside - 1))
  }
}

/** Makes passages louder or quieter, in place. */
export function applyGains(samples: Float32Array, gains: TidyUp['gains']) {
  for (const { stretch, db } of gains) {
    eachGain(stretch, samples.length, fromDb(db), (i, gain) => {
      samples[i] = samples[i]! * gain
    })
  }
}

/** The longest stretch between words, without its edges; null when there is no pause of 200 ms. */
function roomStretch(speech: readonly Stretch[], length: number): Stretch | null {
  const margin = toSamples(0.08)
  let best: Stretch | null = null
  let at = 0
  for (const edge of [...speech, { start: length, end: length }]) {
    const pause = { start: at + margin, end: edge.start - margin }
    if (pause.end - pause.start > Math.max(toSamples(0.2), best ? best.end - best.start : 0)) best = pause
    at = Math.max(at, edge.end)
  }
  return best
}

/**
 * Lets only the room be heard in some stretches, in place: pieces of the longest pause, joined by equal-power cross-fades. Digital silence
 * would be heard as a hole.
 *
 * @param roomTone where the room was pointed at; null takes the longest pause
 */
export function silence(
  samples: Float32Array,
  silenced: readonly Stretch[],
  speech: readonly Stretch[],
  roomTone: Stretch | null,
) {
  if (silenced.length === 0) return
  const room = roomTone ?? roomStretch(speech, samples.length)
  const tone = room ? samples.slice(room.start, room.end) : new Float32Array(0)
  for (const stretch of silenced) {
    const end = Math.min(stretch.end, samples.length)
    const fill = new Float32Array(Math.max(0, end - stretch.start))
    const piece = Math.min(ROOM_PIECE, tone.length)
    const overlap = Math.floor(piece / 4)
    if (piece > 4)
      for (let at = -overlap, n = 0; at < fill.length; at += piece - overlap, n++) {
        const from = tone.length > piece ? (n * 7919 * 13) % (tone.length - piece) : 0
        for (let i = 0; i < piece; i++) {
          if (at + i < 0 || at + i >= fill.length) continue
          const edge = Math.min(1, (i + 0.5) / overlap, (piece - i - 0.5) / overlap)
          fill[at + i] = fill[at + i]! + tone[from + i]! * Math.sin((edge * Math.PI) / 2)
        }
      }
    eachGain({ start: stretch.start, end }, samples.length, 0, (i, gain) => {
      samples[i] = samples[i]! * gain + fill[i - stretch.start]! * (1 - gain)
    })
  }
}
