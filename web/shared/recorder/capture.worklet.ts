/**
 * Runs in the audio thread: gathers samples and posts them in batches, since a message for each 128 samples would starve the page.
 * It writes into one buffer that is never made anew; only the posted copy is. Being the one that counts samples, it also says at
 * which sample a key was pressed, and where the recording rested.
 */
declare const currentFrame: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

const BATCH = 4096

/** What the page asks; `id` comes back with the answer. */
export type CaptureRequest = { ask: 'stop' | 'pause' | 'resume' | 'where'; id: number }
/** Samples, or the answer to a request: how many samples were captured until then, and when that was (ms, as `Date.now()`). */
export type CaptureMessage = { samples: Float32Array } | CaptureAnswer
export type CaptureAnswer = { id: number; at: number; when: number; gaps: number }

class Capture extends AudioWorkletProcessor {
  private readonly batch = new Float32Array(BATCH)
  private filled = 0
  private captured = 0
  private expected = -1
  private gaps = 0
  private running = true
  private paused = false

  constructor() {
    super()
    this.port.onmessage = ({ data }: { data: CaptureRequest }) => {
      // what was captured so far is with the page before the answer
      if (data.ask !== 'where') this.post()
      if (data.ask === 'pause') this.paused = true
      if (data.ask === 'resume') {
        this.paused = false
        this.expected = -1
      }
      if (data.ask === 'stop') this.running = false
      this.port.postMessage({ id: data.id, at: this.captured, when: Date.now(), gaps: this.gaps } satisfies CaptureAnswer)
    }
  }

  private post() {
    if (this.filled > 0) this.port.postMessage({ samples: this.batch.slice(0, this.filled) })
    this.filled = 0
  }

  process(inputs: Float32Array[][]): boolean {
    if (this.paused) return this.running
    const frames = inputs[0]?.[0]
    if (this.expected >= 0 && currentFrame !== this.expected) this.gaps++
    this.expected = currentFrame + 128
    // an input that gives nothing is silent time, which is kept: positions stay those of the clock
    for (let i = 0; i < 128; i++) {
      this.batch[this.filled++] = frames?.[i] ?? 0
      if (this.filled === BATCH) this.post()
    }
    this.captured += 128
    return this.running
  }
}

registerProcessor('capture', Capture)
