/** Passages changed by hand: louder, quieter, or replaced by the room. All positions are samples of the take. */

import { fromDb } from '#core/audio/signal/pcm.ts'
import { chunksOf, type SampleStore } from '#core/audio/signal/sample-source.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'

const RAMP = toSamples(0.01)
const ROOM_PIECE = toSamples(0.4)
/** So much of a long pause says all of its room. */
const MOST_TONE = toSamples(30)

/**
 * Changes a stretch in place, piece by piece. What is done fades in and out over 10 ms at both edges.
 *
 * @param change is told how much of it is to be done, 0 to 1, and how far into the stretch a piece begins
 */
function changeStretch(
  sound: SampleStore,
  stretch: SampleRange,
  change: (piece: Float32Array, near: (i: number) => number, from: number) => Float32Array,
) {
  const length = Math.min(stretch.end, sound.length) - stretch.start
  for (const { start, end } of chunksOf(Math.max(0, length))) {
    const near = (i: number) => Math.min(1, (start + i + 0.5) / RAMP, (length - start - i - 0.5) / RAMP)
    sound.set(change(sound.subarray(stretch.start + start, stretch.start + end), near, start), stretch.start + start)
  }
}

/** Makes passages louder or quieter, in place. */
export function applyGains(sound: SampleStore, gains: TidyUp['gains']) {
  for (const { stretch, db } of gains) {
    const more = fromDb(db) - 1
    changeStretch(sound, stretch, (piece, near) => piece.map((value, i) => value * (1 + near(i) * more)))
  }
}

/** The longest stretch between words, without its edges; null when there is no pause of 200 ms. */
function roomStretch(speech: readonly SampleRange[], length: number): SampleRange | null {
  const margin = toSamples(0.08)
  let best: SampleRange | null = null
  let at = 0
  for (const edge of [...speech, { start: length, end: length }]) {
    const pause = { start: at + margin, end: edge.start - margin }
    if (pause.end - pause.start > Math.max(toSamples(0.2), best ? best.end - best.start : 0)) best = pause
    at = Math.max(at, edge.end)
  }
  return best
}

/** Pieces of a tone, joined by equal-power cross-fades. @returns so much of it from `from` on */
function joinedTone(tone: Float32Array, from: number, length: number): Float32Array {
  const fill = new Float32Array(length)
  const piece = Math.min(ROOM_PIECE, tone.length)
  const overlap = Math.floor(piece / 4)
  if (piece <= 4) return fill
  const apart = piece - overlap
  for (let n = Math.max(0, Math.floor((from + overlap - piece) / apart)); n * apart - overlap < from + length; n++) {
    const at = n * apart - overlap - from
    const source = tone.length > piece ? (n * 7919 * 13) % (tone.length - piece) : 0
    for (let i = Math.max(0, -at); i < Math.min(piece, length - at); i++) {
      const edge = Math.min(1, (i + 0.5) / overlap, (piece - i - 0.5) / overlap)
      fill[at + i] = fill[at + i]! + tone[source + i]! * Math.sin((edge * Math.PI) / 2)
    }
  }
  return fill
}

/**
 * Lets only the room be heard in some stretches, in place: pieces of the longest pause, joined by equal-power cross-fades. Digital silence
 * would be heard as a hole.
 *
 * @param roomTone where the room was pointed at; null takes the longest pause
 */
export function silence(
  sound: SampleStore,
  silenced: readonly SampleRange[],
  speech: readonly SampleRange[],
  roomTone: SampleRange | null,
) {
  if (silenced.length === 0) return
  const room = roomTone ?? roomStretch(speech, sound.length)
  const tone = room ? sound.subarray(room.start, Math.min(room.end, room.start + MOST_TONE)).slice() : new Float32Array(0)
  for (const stretch of silenced)
    changeStretch(sound, stretch, (piece, near, from) => {
      const fill = joinedTone(tone, from, piece.length)
      return piece.map((value, i) => value + near(i) * (fill[i]! - value))
    })
}
