/** Follows a script by its words, in a thread of its own: told what the microphone hears, it tells where the speaker is. */
import { expose } from 'comlink'
import { toSixteen } from '#core/captions/align/extract-features.ts'
import { REFERENCE_STEPS, type Reference } from '#core/captions/align/reference.ts'
import { LiveFollower, type LivePlace } from '#core/captions/follow/live-follower.ts'

let follower: LiveFollower | null = null
/** What waits until it makes a whole number of samples at 16 kHz. */
let rest = new Float32Array(0)

/** As the server sends it: the length of the head, the head as JSON, features as 16-bit numbers. */
function readReference(bytes: ArrayBuffer): Reference {
  const size = new DataView(bytes).getUint32(0, true)
  const head = JSON.parse(new TextDecoder().decode(bytes.slice(4, 4 + size))) as Omit<Reference, 'features'>
  return { ...head, features: Float32Array.from(new Int16Array(bytes.slice(4 + size)), (value) => value / REFERENCE_STEPS) }
}

const worker = {
  /** @param reference as the server sends it */
  begin(reference: ArrayBuffer) {
    follower = new LiveFollower(readReference(reference))
    rest = new Float32Array(0)
  },
  /** @param samples mono, 48 kHz, that follow on those before @returns null where nothing can be told */
  hear(samples: Float32Array): LivePlace | null {
    const all = new Float32Array(rest.length + samples.length)
    all.set(rest)
    all.set(samples, rest.length)
    const whole = all.length - (all.length % 3)
    rest = all.slice(whole)
    follower?.hear(toSixteen(all.subarray(0, whole)))
    return follower?.place() ?? null
  },
  goTo(sentence: number) {
    follower?.goTo(sentence)
  },
}
export type FollowWorker = typeof worker

expose(worker)
