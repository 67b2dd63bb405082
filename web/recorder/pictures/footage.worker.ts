/// <reference types="dom-mediacapture-transform" />
/**
 * Encodes the pictures of a shared screen or a camera, each with the sample of the take at which it was taken. It reads the track itself: whatever
 * stands still meanwhile, the page or the audio thread, pictures keep their moments.
 */
import { FOOTAGE_CODECS, type FootageCodec, type FootageFrame, packPiece } from '#core/recording/footage-pieces.ts'
import { PictureClock } from '#core/recording/picture-clock.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

export type FootageRequest =
  | { read: ReadableStream<VideoFrame>; kind: 'screen' | 'camera' }
  | { ask: 'begin' }
  | { ask: 'go on' }
  | { ask: 'rest'; at: number }
  | { ask: 'end'; at: number; id: number }
  | { heard: { at: number; when: number } }
/**
 * A footage begins; a piece of it; it has ended, with so many pictures left out because the machine was too slow. `ended` without an id: its size
 * changed, and another one begins.
 */
export type FootageMessage =
  | { begun: { codec: FootageCodec; width: number; height: number } }
  | { piece: Uint8Array<ArrayBuffer> }
  | { ended: number | null; leftOut: number }
  | { failed: string }

const tell = (message: FootageMessage) =>
  'piece' in message ? postMessage(message, { transfer: [message.piece.buffer] }) : postMessage(message)

const PIECE_MS = 1000
/** Playing can begin, and a file that was broken off goes on, this often. */
const KEY_MS = 2000
/** More pictures that wait to be encoded than these are left out. */
const MOST_WAITING = 20
const BITS_A_SECOND = { screen: 3_000_000, camera: 1_500_000 }
const RATE = 30
/** What is larger is recorded smaller: nothing here shows more, and the teacher's picture is at most two fifths as high as a slide of 1080 lines. */
const LARGEST = { screen: { width: 1920, height: 1080 }, camera: { width: 960, height: 540 } }

const SAMPLES_A_MICROSECOND = SAMPLE_RATE / 1e6

const even = (value: number) => Math.max(16, 2 * Math.round(value / 2))

/** @returns the size that pictures of a size are recorded in */
function recordedSize(kind: 'screen' | 'camera', width: number, height: number) {
  const most = LARGEST[kind]
  const scale = Math.min(1, most.width / width, most.height / height)
  return { width: even(width * scale), height: even(height * scale) }
}

async function configOf(kind: 'screen' | 'camera', size: { width: number; height: number }) {
  for (const codec of Object.keys(FOOTAGE_CODECS) as FootageCodec[]) {
    const config: VideoEncoderConfig = {
      codec: FOOTAGE_CODECS[codec],
      ...size,
      bitrate: BITS_A_SECOND[kind],
      framerate: RATE,
      latencyMode: 'realtime',
      ...(codec === 'avc' ? { avc: { format: 'annexb' as const } } : {}),
    }
    const { supported } = await VideoEncoder.isConfigSupported(config).catch(() => ({ supported: false }))
    if (supported) return { codec, config }
  }
  return null
}

/** One footage while it is recorded. */
class OneFootage {
  readonly #clock: PictureClock
  readonly #encoder: VideoEncoder
  readonly #timer: ReturnType<typeof setInterval>
  #frames: FootageFrame[] = []
  #lastKey = Number.NEGATIVE_INFINITY
  leftOut = 0
  readonly seen: { width: number; height: number }

  constructor(clock: PictureClock, config: VideoEncoderConfig, seen: { width: number; height: number }) {
    this.#clock = clock
    this.seen = seen
    this.#encoder = new VideoEncoder({
      output: (chunk) => this.#keep(chunk),
      error: (error) => tell({ failed: error.message }),
    })
    this.#encoder.configure(config)
    this.#timer = setInterval(() => this.#send(), PIECE_MS)
  }

  /** @param at sample of the take */
  encode(frame: VideoFrame, at: number) {
    if (this.#encoder.state !== 'configured') return
    if (this.#encoder.encodeQueueSize > MOST_WAITING) {
      this.leftOut++
      return
    }
    const now = Date.now()
    const keyFrame = now - this.#lastKey >= KEY_MS
    if (keyFrame) this.#lastKey = now
    const stamped = new VideoFrame(frame, { timestamp: Math.round(at / SAMPLES_A_MICROSECOND) })
    this.#encoder.encode(stamped, { keyFrame })
    stamped.close()
  }

  #keep(chunk: EncodedVideoChunk) {
    const data = new Uint8Array(chunk.byteLength)
    chunk.copyTo(data)
    this.#frames.push({ at: Math.round(chunk.timestamp * SAMPLES_A_MICROSECOND), isKey: chunk.type === 'key', data })
  }

  /** What stands still is said as well: that nothing else was seen until now. */
  #send() {
    const frames = this.#frames
    this.#frames = []
    const last = frames.at(-1)?.at ?? 0
    tell({ piece: packPiece({ until: Math.max(last + 1, this.#clock.now(Date.now()) ?? 0), frames }) })
  }

  async end() {
    clearInterval(this.#timer)
    if (this.#encoder.state === 'configured') await this.#encoder.flush().catch(() => {})
    this.#send()
    if (this.#encoder.state !== 'closed') this.#encoder.close()
  }
}

let clock = new PictureClock()
let kind: 'screen' | 'camera' = 'camera'
let footage: OneFootage | null = null
/** A take wants pictures. */
let isWanted = false
/** What a screen showed last: one on which nothing moves gives no other picture. */
let latest: VideoFrame | null = null
/** One thing after the other: what is begun waits for what was to end before. */
let turn: Promise<unknown> = Promise.resolve()
function inTurn(work: () => Promise<void>): Promise<unknown> {
  turn = turn.then(work).catch((error: Error) => tell({ failed: error.message }))
  return turn
}

async function begin(frame: VideoFrame) {
  const seen = { width: frame.displayWidth, height: frame.displayHeight }
  const size = recordedSize(kind, seen.width, seen.height)
  const found = await configOf(kind, size)
  if (!found) {
    isWanted = false
    return tell({ failed: 'no encoder' })
  }
  footage = new OneFootage(clock, found.config, seen)
  tell({ begun: { codec: found.codec, ...size } })
}

async function end(id: number | null) {
  const ending = footage
  footage = null
  await ending?.end()
  if (ending || id !== null) tell({ ended: id, leftOut: ending?.leftOut ?? 0 })
}

async function take(frame: VideoFrame, at: number | null) {
  if (!isWanted || at === null) return
  const { seen } = footage ?? {}
  // a window that was made larger is another footage
  if (seen && (seen.width !== frame.displayWidth || seen.height !== frame.displayHeight)) await end(null)
  if (!footage) await begin(frame)
  footage?.encode(frame, at)
}

async function read(pictures: ReadableStream<VideoFrame>) {
  const reader = pictures.getReader()
  for (;;) {
    const { value: frame, done } = await reader.read()
    if (done) break
    const came = Date.now()
    await inTurn(() => take(frame, clock.at(frame.timestamp / 1000, came)))
    latest?.close()
    latest = kind === 'screen' ? frame.clone() : null
    frame.close()
  }
  latest?.close()
  latest = null
}

/** The first picture of a screen that stands still, and was shared before it was wanted. */
async function beginWithLatest() {
  if (latest && isWanted && !footage) await take(latest, clock.still(Date.now()))
}

self.onmessage = ({ data }: { data: FootageRequest }) => {
  if ('read' in data) {
    kind = data.kind
    void read(data.read)
  } else if ('heard' in data) {
    clock.hear(data.heard.at, data.heard.when)
    if (isWanted && !footage) void inTurn(beginWithLatest)
  } else if (data.ask === 'begin')
    void inTurn(async () => {
      clock = new PictureClock()
      isWanted = true
    })
  else if (data.ask === 'rest') clock.rest(data.at)
  else if (data.ask === 'go on') clock.goOn()
  else {
    clock.rest(data.at)
    void inTurn(async () => {
      isWanted = false
      await end(data.id)
    })
  }
}
