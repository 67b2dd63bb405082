/**
 * Runs in the audio thread: gathers samples and posts them in batches, since a message for each 128 samples would starve the page.
 * It writes into one buffer that is never made anew; only the posted copy is.
 */
declare const currentFrame: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

const BATCH = 4096

class Capture extends AudioWorkletProcessor {
  private readonly batch = new Float32Array(BATCH)
  private filled = 0
  private expected = -1
  private gaps = 0
  private running = true

  constructor() {
    super()
    this.port.onmessage = () => {
      this.post()
      this.port.postMessage({ ended: true, gaps: this.gaps })
      this.running = false
    }
  }

  private post() {
    if (this.filled > 0) this.port.postMessage({ samples: this.batch.slice(0, this.filled) })
    this.filled = 0
  }

  process(inputs: Float32Array[][]): boolean {
    const frames = inputs[0]?.[0]
    if (this.expected >= 0 && currentFrame !== this.expected) this.gaps++
    this.expected = currentFrame + 128
    // an input that gives nothing is silent time, which is kept: positions stay those of the clock
    for (let i = 0; i < 128; i++) {
      this.batch[this.filled++] = frames?.[i] ?? 0
      if (this.filled === BATCH) this.post()
    }
    return this.running
  }
}

registerProcessor('capture', Capture)
