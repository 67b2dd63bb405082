/** Runs in the audio thread: the level of the microphone, told twenty times a second through one object that is never made anew. */
import { RunningLoudness } from '#core/audio/loudness/loudness.ts'

declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

const EVERY = 2400

class Meter extends AudioWorkletProcessor {
  private readonly loudness = new RunningLoudness()
  private readonly report = { peak: 0, clipped: false, lufs: Number.NEGATIVE_INFINITY }
  private count = 0
  private running = true

  constructor() {
    super()
    this.port.onmessage = () => {
      this.running = false
    }
  }

  process(inputs: Float32Array[][]): boolean {
    const frames = inputs[0]?.[0]
    for (let i = 0; i < 128; i++) {
      const x = frames?.[i] ?? 0
      this.loudness.add(x)
      if (x > this.report.peak) this.report.peak = x
      else if (-x > this.report.peak) this.report.peak = -x
    }
    this.count += 128
    if (this.count >= EVERY) {
      this.report.clipped = this.report.peak >= 0.999
      this.report.lufs = this.loudness.lufs()
      this.port.postMessage(this.report)
      this.report.peak = 0
      this.count = 0
    }
    return this.running
  }
}

registerProcessor('meter', Meter)
