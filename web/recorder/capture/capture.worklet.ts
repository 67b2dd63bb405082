/** Runs in the audio thread: gathers what an input gives. It writes into one buffer that is never made anew; only posted copies are. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { CaptureBuffer, type CaptureRequest } from './capture-buffer.ts'

declare const currentFrame: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

const QUANTUM = 128

/** `isDevice`: a device's sound goes on while this thread stands still, and is missing then; what is made here waits. */
export interface CaptureOptions {
  isDevice: boolean
}

class Capture extends AudioWorkletProcessor {
  private readonly buffer = new CaptureBuffer((message) => this.port.postMessage(message))
  private readonly isDevice: boolean
  private open = true

  constructor({ processorOptions }: { processorOptions: CaptureOptions }) {
    super()
    this.isDevice = processorOptions.isDevice
    this.port.onmessage = ({ data }: { data: CaptureRequest | 'close' }) => {
      if (data === 'close') this.open = false
      else this.buffer.request(data)
    }
  }

  process(inputs: Float32Array[][]): boolean {
    const sound = (1000 * currentFrame) / SAMPLE_RATE
    this.buffer.add(inputs[0]?.[0], QUANTUM, this.isDevice ? Date.now() : sound, sound)
    return this.open
  }
}

registerProcessor('capture', Capture)
