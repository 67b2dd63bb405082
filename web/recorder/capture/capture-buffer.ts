/**
 * Gathers a microphone's samples for the page, wherever they come: in a worker or in the audio thread. It posts them in batches, since
 * a message for each small piece would starve the page. Being the one that counts samples, it also says at which sample a key was
 * pressed, where the recording rested, and what was missing.
 */
import { applyBiquad, type BiquadState, lowPass } from '#core/audio/signal/filters.ts'
import { DropoutDetector } from '#core/recording/dropouts.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { BAND_HZ, type Quality } from '#web/recorder/input/quality.ts'

const BATCH = 4096

/** What the page asks; `id` comes back with the answer. */
export type CaptureRequest = { id: number } & (
  | { ask: 'start'; quality: Quality }
  | { ask: 'pause' | 'resume' | 'where' | 'stop' }
)
/** Samples, how many there are with them and when the last of them came (ms, as `Date.now()`); or the answer to a request: how many samples were captured until then, when that was (ms, as `Date.now()`), and what was missing. */
export type CaptureMessage = CapturedSamples | CaptureAnswer
export type CapturedSamples = { samples: Float32Array; at: number; when: number }
export type CaptureAnswer = { id: number; at: number; when: number; dropoutCount: number; dropoutMs: number }

export class CaptureBuffer {
  private readonly batch = new Float32Array(BATCH)
  private filled = 0
  private captured = 0
  private state: 'idle' | 'running' | 'paused' = 'idle'
  private gaps = new DropoutDetector()
  private low: { filter: ReturnType<typeof lowPass>[number]; state: BiquadState }[] = []
  /** Asked where we are, and not told yet: the piece that is under way is the one in which the key was pressed. */
  private readonly asked: number[] = []
  private readonly tell: (message: CaptureMessage) => void

  constructor(tell: (message: CaptureMessage) => void) {
    this.tell = tell
  }

  request(request: CaptureRequest) {
    if (request.ask === 'where') return void this.asked.push(request.id)
    // what was captured so far is with the page before the answer
    this.post(this.captured)
    if (request.ask === 'start') {
      this.captured = 0
      this.gaps = new DropoutDetector()
      this.low = request.quality === 'small' ? lowPass(BAND_HZ, SAMPLE_RATE).map((filter) => ({ filter, state: [0, 0] })) : []
    }
    if (request.ask === 'resume') this.gaps.rest()
    this.state = request.ask === 'stop' ? 'idle' : request.ask === 'pause' ? 'paused' : 'running'
    this.answer(request.id)
    if (request.ask === 'stop') this.answerAsked()
  }

  /**
   * @param samples a piece of the microphone's sound at 48 kHz; none when nothing came for it, which is silent time
   * @param length of the piece
   * @param clock ms, when the piece was captured
   * @param sound ms of the microphone's sound before the piece
   */
  add(samples: Float32Array | undefined, length: number, clock: number, sound: number) {
    if (this.state === 'running') {
      this.gaps.tell(clock, sound)
      for (let i = 0; i < length; i++) {
        this.batch[this.filled++] = samples?.[i] ?? 0
        if (this.filled === BATCH) this.post(this.captured + i + 1)
      }
      this.captured += length
    }
    this.answerAsked()
  }

  private answerAsked() {
    while (this.asked.length > 0) this.answer(this.asked.shift()!)
  }

  private answer(id: number) {
    this.tell({ id, at: this.captured, when: Date.now(), ...this.gaps.found() })
  }

  /** @param at samples captured until now */
  private post(at: number) {
    if (this.filled === 0) return
    let samples = this.batch.slice(0, this.filled)
    this.filled = 0
    for (const { filter, state } of this.low) samples = applyBiquad(samples, filter, state)
    this.tell({ samples, at, when: Date.now() })
  }
}
