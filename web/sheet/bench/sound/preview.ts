/** Lets a change of strength be heard before the server has rendered it: the seen stretch, cleaned by the worker. */
import { type Remote, wrap } from 'comlink'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { samplesUrl } from '#web/data/api.ts'
import type { TidyWorker } from './tidy.worker.ts'
import type { View } from './view.ts'

/** So much is heard, from the left edge of what is seen. */
const HEARD_S = 10
const MARGIN_S = 1

let running: Remote<TidyWorker> | null = null
let context: AudioContext | null = null
let source: AudioBufferSourceNode | null = null
let asked = 0
let since = { time: 0, offset: 0 }
const spotNow = () => since.offset + (context!.currentTime - since.time)

export function stopPreview() {
  asked++
  source?.stop()
  source = null
}

function worker(): Remote<TidyWorker> {
  running ??= wrap<TidyWorker>(new Worker(new URL('./tidy.worker.ts', import.meta.url), { type: 'module' }))
  return running
}

/** The seen stretch with a margin, cleaned. @returns its samples, and where in the take they begin */
async function cleaned(take: Take, { highPassHz, hum }: TidyUp, view: View, strength: number) {
  const from = Math.max(0, toSamples(view.start - MARGIN_S))
  const to = Math.min(take.samples, toSamples(Math.min(view.end, view.start + HEARD_S) + MARGIN_S))
  const humHz = hum ? (take.analysis?.humHz ?? null) : null
  return { samples: await worker().clean(samplesUrl(take.id, from, to), humHz, strength, highPassHz), from }
}

let preparing: Promise<unknown> | null = null

/** Studies the seen stretch ahead of the first wish. */
export function prepare(take: Take, view: View) {
  if (preparing || !take.tidyUp) return
  preparing = cleaned(take, take.tidyUp, view, take.tidyUp.cleaning)
    .catch(() => {}) // the wish itself will tell
    .finally(() => {
      preparing = null
    })
}

/**
 * Plays the seen stretch once, cleaned at a strength; while one plays, the new one goes on at the same spot.
 *
 * @returns milliseconds until it could be heard; null when a newer wish came in between
 */
export async function preview(take: Take, view: View, strength: number): Promise<number | null> {
  if (!take.tidyUp) return null
  const mine = ++asked
  const began = performance.now()
  context ??= new AudioContext({ sampleRate: SAMPLE_RATE })
  await context.resume()
  const { samples, from } = await cleaned(take, take.tidyUp, view, strength)
  if (mine !== asked) return null
  const buffer = context.createBuffer(1, samples.length, SAMPLE_RATE)
  buffer.copyToChannel(samples as Float32Array<ArrayBuffer>, 0)
  const first = Math.max(0, view.start - from / SAMPLE_RATE)
  const last = Math.min(buffer.duration, first + HEARD_S)
  const next = new AudioBufferSourceNode(context, { buffer, loop: true, loopStart: first, loopEnd: last })
  const gain = new GainNode(context, { gain: 10 ** ((take.clip?.figures.gainDb ?? 0) / 20) })
  next.connect(gain).connect(context.destination)
  const spot = source ? spotNow() : first
  source?.stop()
  next.start(0, first + ((((spot - first) % (last - first)) + (last - first)) % (last - first)))
  next.stop(context.currentTime + HEARD_S)
  since = { time: context.currentTime, offset: spot }
  source = next
  return performance.now() - began
}
