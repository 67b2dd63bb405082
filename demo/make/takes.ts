/**
 * Makes the demo's recordings: a speech synthesiser in rooms with a fan, mains hum and a corridor, each at another loudness, with
 * the empty beginnings, the long pause, the false start and the click of the stop key that real ones have.
 * Needs flite (Debian) and ffmpeg; the results are committed.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fromDb, fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { PRACTICE_TEXT } from '#core/recording/practice-voice.ts'
import { bytesOf, samplesOf } from '#server/media/sound-files.ts'
import { lay, noise, random, seconds, sine } from '#tests/made/sound.ts'
import { DEMO_SLIDES } from '../lecture.ts'

const out = join(import.meta.dirname, '../files')
const folder = mkdtempSync(join(tmpdir(), 'demo-takes-'))
const ffmpeg = (args: string[], input?: Uint8Array) =>
  execFileSync('ffmpeg', ['-hide_banner', '-loglevel', 'error', '-y', ...args], { input, maxBuffer: 1 << 28 })

function speak(text: string): Float32Array {
  const spoken = join(folder, 'spoken.wav')
  // its own pace is that of somebody reading aloud in haste; a lecture is slower
  execFileSync('flite', ['-voice', 'slt', '--setf', 'duration_stretch=1.3', '-t', text, '-o', spoken])
  return fromInt16(samplesOf(ffmpeg(['-i', spoken, '-f', 's16le', '-ar', '48000', '-ac', '1', 'pipe:1'])))
}

interface Room {
  /** Peak of the voice, dBFS. */
  voiceDb: number
  /** Level of the fan, dBFS. */
  fanDb: number
  humDb?: number
  seed: number
}

/** Noise of a fan: low-passed, swelling a little. */
function fan(length: number, level: number, seed: number): Float32Array {
  const white = noise(1, length, seed)
  let low = 0
  return white.map((value, i) => {
    low += 0.12 * (value - low)
    return 3.2 * level * (low + 0.12 * value) * (1 + 0.12 * Math.sin((2 * Math.PI * i) / seconds(3.7)))
  })
}

/** The click of the stop key and the knock of the desk that carries it. */
function click(seed: number): Float32Array {
  const next = random(seed)
  return Float32Array.from(
    { length: seconds(0.04) },
    (_, i) => 0.25 * (2 * next() - 1) * Math.exp(-i / seconds(0.004)) + 0.1 * Math.sin(i / 60) * Math.exp(-i / seconds(0.012)),
  )
}

/** Lays spoken pieces and pauses (seconds) into a room, and stops with a click. */
function record(pieces: (string | number)[], room: Room): Float32Array {
  const sounds = pieces.map((piece) => (typeof piece === 'number' ? new Float32Array(seconds(piece)) : speak(piece)))
  const length = sounds.reduce((sum, sound) => sum + sound.length, 0)
  const peak = Math.max(...sounds.map((sound) => sound.reduce((m, v) => Math.max(m, Math.abs(v)), 0)))
  const gain = fromDb(room.voiceDb) / peak
  const take = fan(length, fromDb(room.fanDb), room.seed)
  if (room.humDb !== undefined)
    for (const [n, db] of [
      [1, 0],
      [2, -8],
      [3, -5],
      [5, -14],
    ] as const)
      lay(take, sine(50 * n, fromDb(room.humDb + db), length), 0)
  let at = 0
  for (const sound of sounds) {
    lay(
      take,
      sound.map((v) => v * gain),
      at,
    )
    at += sound.length
  }
  return lay(take, click(room.seed + 100), length - seconds(0.15))
}

const script = (slide: number) => DEMO_SLIDES[slide - 1]!.script
const split = (slide: number, at: string) => {
  const text = script(slide)
  const i = text.indexOf(at)
  return [text.slice(0, i), text.slice(i)] as const
}
const [two, twoRest] = split(2, 'When the tube')
const [four, fourRest] = split(4, 'Read that line')

const takes: Record<string, Float32Array> = {
  'take-1a.flac': record([1.6, script(1), 1.9], { voiceDb: -9, fanDb: -56, seed: 11 }),
  // a false start, and the take was given up
  'take-2a.flac': record([0.9, 'The gauge has five, no.', 1.2], { voiceDb: -20, fanDb: -54, seed: 21 }),
  // one long pause in the middle
  'take-2b.flac': record([1.2, two, 2.6, twoRest, 1.4], { voiceDb: -18, fanDb: -52, seed: 22 }),
  'take-3a.flac': record([0.7, script(3), 1.1], { voiceDb: -12, fanDb: -58, humDb: -46, seed: 31 }),
  // a false start inside the take that is kept
  'take-4a.flac': record([1.1, four, 0.5, 'Read that line to the, sorry.', 1.1, fourRest, 1.6], {
    voiceDb: -6,
    fanDb: -50,
    seed: 41,
  }),
  'take-5a.flac': record([2.2, script(5), 0.9], { voiceDb: -24, fanDb: -60, seed: 51 }),
  'take-7a.flac': record([0.8, script(7), 1.3], { voiceDb: -14, fanDb: -55, humDb: -52, seed: 71 }),
}
for (const [name, sound] of Object.entries(takes)) {
  ffmpeg(
    ['-f', 's16le', '-ar', '48000', '-ac', '1', '-i', 'pipe:0', '-c:a', 'flac', '-compression_level', '12', join(out, name)],
    bytesOf(toInt16(sound)),
  )
}
// what the practice microphone says, dry: its rooms are made in the page
const practice = speak(PRACTICE_TEXT)
const loudest = practice.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
writeFileSync(join(folder, 'practice.wav'), writeWav(toInt16(practice.map((v) => (v / loudest) * 0.5)), 48_000))
ffmpeg([
  '-i',
  join(folder, 'practice.wav'),
  '-ar',
  '16000',
  '-c:a',
  'flac',
  '-compression_level',
  '12',
  join(import.meta.dirname, '../../web/recorder/input/practice-voice.flac'),
])
console.log(`${Object.keys(takes).length} takes, ${readFileSync(join(out, 'take-1a.flac')).length} bytes in the first`)
rmSync(folder, { recursive: true })
