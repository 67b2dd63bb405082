/**
 * Makes the demo's opening music: plucked strings, from nothing but this file.
 * Usage: npx tsx demo/make/music.ts
 *
 * @see Karplus & Strong 1983, "Digital Synthesis of Plucked-String and Drum Timbres", Computer Music Journal 7(2)
 */
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { bytesOf } from '#server/media/sound-files.ts'

const BEAT_S = 0.42
const BARS = 8

/** Small seeded generator, so that the same music comes out every time. */
let state = 11
const random = () => {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0
  return state / 2 ** 32
}

function pluck(hz: number, seconds: number, softness: number): Float32Array {
  const period = Math.round(SAMPLE_RATE / hz)
  const string = Float32Array.from({ length: period }, () => 2 * random() - 1)
  // a soft finger: the first noise is smoothed before the string rings
  for (let pass = 0; pass < softness; pass++) for (let i = 1; i < period; i++) string[i] = (string[i]! + string[i - 1]!) / 2
  const out = new Float32Array(toSamples(seconds))
  let at = 0
  for (let i = 0; i < out.length; i++) {
    const next = (at + 1) % period
    out[i] = string[at]! * Math.min(1, i / 100) * Math.min(1, (out.length - i) / 4000)
    string[at] = 0.4985 * (string[at]! + string[next]!)
    at = next
  }
  return out
}

const note = (semitones: number) => 220 * 2 ** (semitones / 12)
/** Four chords, twice: their notes above A. */
const CHORDS = [
  [3, 7, 10, 15],
  [-2, 3, 7, 12],
  [0, 5, 8, 12],
  [-4, 3, 8, 12],
]
const PATTERN = [0, 2, 1, 3]

const length = toSamples(BARS * 4 * BEAT_S)
const [left, right] = [new Float32Array(length), new Float32Array(length)]
function lay(sound: Float32Array, at: number, pan: number) {
  for (let i = 0; i < sound.length; i++) {
    // what rings past the end belongs to the beginning: the piece loops
    const to = (at + i) % length
    left[to] = left[to]! + sound[i]! * (1 - pan)
    right[to] = right[to]! + sound[i]! * pan
  }
}
for (let bar = 0; bar < BARS; bar++) {
  const chord = CHORDS[bar % 4]!
  lay(pluck(note(chord[0]! - 12), BEAT_S * 4, 6), toSamples(bar * 4 * BEAT_S), 0.5)
  for (let beat = 0; beat < 4; beat++)
    lay(pluck(note(chord[PATTERN[beat]!]!), BEAT_S * 3, 3), toSamples((bar * 4 + beat) * BEAT_S), 0.35 + 0.1 * beat)
  if (bar % 2 === 1) lay(pluck(note(chord[3]! + (bar === 7 ? 7 : 5)), BEAT_S * 3, 4), toSamples((bar * 4 + 2.5) * BEAT_S), 0.6)
}
const highest = [left, right]
  .flatMap((side) => side.reduce((most, v) => Math.max(most, Math.abs(v)), 0))
  .reduce((a, b) => Math.max(a, b))
const stereo = new Float32Array(length * 2)
for (let i = 0; i < length; i++) {
  stereo[2 * i] = (0.7 * left[i]!) / highest
  stereo[2 * i + 1] = (0.7 * right[i]!) / highest
}
execFileSync(
  'ffmpeg',
  [
    '-y',
    '-loglevel',
    'error',
    '-f',
    's16le',
    '-ar',
    '48000',
    '-ac',
    '2',
    '-i',
    'pipe:0',
    '-fflags',
    '+bitexact',
    join(import.meta.dirname, '../files/opening-music.flac'),
  ],
  { input: bytesOf(toInt16(stereo)) },
)
