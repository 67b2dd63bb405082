/** From an open microphone to chunks that are kept: one second each, 16-bit, 48 kHz, mono. */
import { toInt16 } from '#core/audio/pcm.ts'
import { writeWav } from '#core/audio/wav.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import captureUrl from './capture.worklet.ts?worker&url'
import { chunkKeeper } from './chunk-keeper.ts'
import { MicrophoneProblem, type OpenMicrophone, openMicrophone } from './microphones.ts'
import { type UploadReport, uploadOwn } from './upload.ts'

export interface Level {
  /** Largest sample since the last report, 0 to 1. */
  peak: number
  clipped: boolean
}

/** An open microphone: its level is heard all the time, recording or not. */
export interface Input {
  readonly microphoneName: string
  onLevel: (level: Level) => void
  onLost: () => void
  record(take: { slideId: string; lectureId: string }, onUpload: (report: UploadReport) => void): Promise<Recording>
  close(): Promise<void>
}

export interface Recording {
  takeId: string
  /** Seconds recorded so far. */
  seconds(): number
  /** Ends the recording. @returns what was recorded, ready to be listened to, before the server has sealed it */
  stop(): Promise<{ sound: Blob; seconds: number }>
}

const CHUNK = SAMPLE_RATE

/** Divides samples into chunks and keeps each; a chunk that the browser cannot store stays in memory and is tried again. */
function chunker(takeId: string) {
  const all: Int16Array[] = []
  let open = new Int16Array(CHUNK)
  let filled = 0
  let chunks = 0
  let keeping: Promise<unknown> = Promise.resolve()
  const close = () => {
    if (filled === 0) return
    const pcm = open.slice(0, filled)
    all.push(pcm)
    const number = chunks++
    keeping = keeping.then(() => keepStubbornly(takeId, number, new Uint8Array(pcm.buffer.slice(0))))
    open = new Int16Array(CHUNK)
    filled = 0
  }
  return {
    add(samples: Int16Array) {
      for (let at = 0; at < samples.length; ) {
        const part = samples.subarray(at, at + CHUNK - filled)
        open.set(part, filled)
        filled += part.length
        at += part.length
        if (filled === CHUNK) close()
      }
    },
    async end() {
      close()
      await keeping
      return chunks
    },
    samples: () => all.reduce((sum, c) => sum + c.length, filled),
    wav() {
      const joined = new Int16Array(all.reduce((sum, c) => sum + c.length, 0))
      let at = 0
      for (const c of all) {
        joined.set(c, at)
        at += c.length
      }
      return new Blob([writeWav(joined, SAMPLE_RATE)], { type: 'audio/wav' })
    },
  }
}

async function keepStubbornly(takeId: string, chunk: number, pcm: Uint8Array<ArrayBuffer>) {
  for (;;) {
    try {
      return await chunkKeeper.keepChunk(takeId, chunk, pcm)
    } catch {
      // the browser's storage is full: sent chunks make room
      await new Promise((resolve) => setTimeout(resolve, 1000))
    }
  }
}

/**
 * Opens a microphone.
 *
 * @throws MicrophoneProblem
 */
export async function openInput(microphone: { id: string; name: string }): Promise<Input> {
  const context = new AudioContext({ sampleRate: SAMPLE_RATE })
  let source: OpenMicrophone | null = null
  try {
    await context.audioWorklet.addModule(captureUrl)
    source = await openMicrophone(context, microphone.id)
    await context.resume()
  } catch (error) {
    source?.close()
    await context.close()
    throw error instanceof MicrophoneProblem
      ? error
      : new MicrophoneProblem('This browser cannot record here. Use a current browser, at localhost or over https.')
  }
  const opened = source
  const meter = new AnalyserNode(context, { fftSize: 4096 })
  opened.node.connect(meter)
  const heard = new Float32Array(meter.fftSize)
  const watching = setInterval(() => {
    meter.getFloatTimeDomainData(heard)
    let peak = 0
    for (const value of heard) peak = Math.max(peak, Math.abs(value))
    input.onLevel({ peak, clipped: peak >= 0.999 })
  }, 50)

  const input: Input = {
    microphoneName: microphone.name,
    onLevel: () => {},
    onLost: () => {},
    async record({ slideId, lectureId }, onUpload) {
      const takeId = crypto.randomUUID()
      const take = { id: takeId, slideId, lectureId, microphone: microphone.name, startedAt: Date.now() }
      await chunkKeeper.keepTake({ ...take, ended: null })
      const gathered = chunker(takeId)
      const capture = new AudioWorkletNode(context, 'capture', {
        numberOfOutputs: 0,
        channelCount: 1,
        channelCountMode: 'explicit',
      })
      let ended: (gaps: number) => void = () => {}
      capture.port.onmessage = ({ data }) => {
        if (data.ended) ended(data.gaps)
        else gathered.add(toInt16(data.samples))
      }
      opened.node.connect(capture)
      opened.onRecord()
      void uploadOwn(takeId, onUpload)
      return {
        takeId,
        seconds: () => gathered.samples() / SAMPLE_RATE,
        async stop() {
          const gaps = await new Promise<number>((resolve) => {
            ended = resolve
            capture.port.postMessage('stop')
            // an audio thread that is gone does not answer; one that is only busy still has the last words
            setTimeout(() => resolve(0), 5000)
          })
          capture.port.onmessage = null
          const chunks = await gathered.end()
          await chunkKeeper.keepTake({ ...take, ended: { chunks, gaps } })
          opened.node.disconnect(capture)
          return { sound: gathered.wav(), seconds: gathered.samples() / SAMPLE_RATE }
        },
      }
    },
    async close() {
      clearInterval(watching)
      opened.close()
      await context.close()
    },
  }
  opened.onLost(() => input.onLost())
  return input
}
