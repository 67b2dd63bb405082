/** How large an edition becomes and how long making it takes, before it is made. */
import { TRANSITIONS } from '#core/model/transition.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { type EncodedFrame, slideFrames } from './frames/frames.ts'
import type { PlannedSlide } from './plan.ts'
import type { SoundForm, VideoForm } from './video-form.ts'

/** What a segment told when it was made. */
export interface SegmentFacts {
  /** Of the form it was made for, without what does not change bytes. */
  form: string
  kind: 'video' | 'sound'
  bytes: number
  milliseconds: number
  lengthSamples: number
  /** Of a video: bytes of each encoded frame, and how many of them show something new. */
  frameBytes: number[]
  newFrames: number
}

/** What a slide's segments are or would be. */
export interface SlideEstimate {
  /** null where it is not made yet. */
  known: Pick<SegmentFacts, 'bytes' | 'frameBytes'> | null
  plan: Pick<PlannedSlide, 'pictures' | 'transition' | 'lengthSamples' | 'films'>
  /** Bytes of the small picture of the slide: what is hard to draw small is hard to encode; null when it is not known. */
  thumbnailBytes?: number | null
}

export interface Estimate {
  bytes: number
  /** Until it is there, with two segments made at a time. */
  seconds: number
  /** Segments that are made already, and all of them. */
  ready: number
  segments: number
}

/**
 * Measured on the demo lectures and the bench's, for a first lecture with nothing made yet: bytes of a picture shown for the first
 * time at 1080 lines, of a repeat of it, and the milliseconds they take.
 */
const FIRST = { newBytes: 75_000, repeatBytes: 90, milliseconds: 340, soundMillisecondsASecond: 13.5 }
/** Likewise of a frame of a film that fills the picture: measured on a film that was drawn. */
const MOVING = { bytes: 9000, milliseconds: 18 }
/** Bytes of a picture shown for the first time at 1080 lines, for each byte of its small picture: 4.0 to 5.1 on three decks of text, drawings and photographs. */
const NEW_BYTES_A_THUMBNAIL_BYTE = 4.6
/** Segments that are made at a time. Two processes with a thread each are faster than one with two threads. */
export const SEGMENTS_AT_A_TIME = 2
/** Joining, chapters and captions, naming by content: measured on an hour, on a machine that needs `FIRST` for its segments. */
const JOIN_SECONDS_AN_HOUR = 3
/** What a container adds for each frame: sizes, times and places in its tables. */
const TABLE_BYTES = 8

/** What a segment's own file holds beside its packets, and is left behind when they are joined. */
const SEGMENT_BYTES = 1200

/** The name segments of one form go by when sizes are learnt. */
export const formName = (form: VideoForm) => `${form.container} ${form.height} ${form.rate ?? 'variable'}`
export const soundName = ({ sound }: { sound: SoundForm }) => `${sound.codec} ${sound.channels} ${sound.kilobits}`

const sum = (values: readonly number[]) => values.reduce((a, b) => a + b, 0)

/**
 * @param videos one entry a slide; @param sounds likewise
 * @param learnt facts of segments that were made before, of this lecture first
 */
export function estimate(
  form: VideoForm,
  videos: readonly SlideEstimate[],
  sounds: readonly SlideEstimate[],
  learnt: readonly SegmentFacts[],
): Estimate {
  const alike = learnt.filter((fact) => fact.kind === 'video' && fact.form === formName(form))
  const newFrames = sum(alike.map((fact) => fact.newFrames))
  const repeats = sum(alike.map((fact) => fact.frameBytes.length - fact.newFrames))
  const larger = (form.height / 1080) ** 1.5
  // a repeat weighs next to nothing, so what is left of a segment's bytes is what was new in it
  const usualNew =
    newFrames > 0
      ? (sum(alike.flatMap((fact) => fact.frameBytes)) - repeats * FIRST.repeatBytes) / newFrames
      : FIRST.newBytes * larger
  const firstNewMs = FIRST.milliseconds * Math.max(0.6, (form.height / 1080) ** 2)
  const newMs = sum(alike.map((fact) => fact.milliseconds))
  const perNewMs = newFrames > 0 ? newMs / newFrames : firstNewMs
  const spoken = learnt.filter((fact) => fact.kind === 'sound' && fact.form === soundName(form))
  const spokenSeconds = sum(spoken.map((fact) => toSeconds(fact.lengthSamples)))
  const soundBytesASecond =
    spokenSeconds > 0 ? sum(spoken.map((fact) => fact.bytes)) / spokenSeconds : (form.sound.kilobits * 1000) / 8
  const soundMs = sum(spoken.map((fact) => fact.milliseconds))
  const soundMsASecond = spokenSeconds > 0 ? soundMs / spokenSeconds : FIRST.soundMillisecondsASecond
  const expectedMs = newFrames * firstNewMs + spokenSeconds * FIRST.soundMillisecondsASecond
  // what segments took tells how slow this machine is, which joining suffers from as well
  const slowness = expectedMs > 0 ? (newMs + soundMs) / expectedMs : 1

  let [bytes, work, ready] = [0, 0, 0]
  for (const { known, plan, thumbnailBytes = null } of videos) {
    // what was made before says more than a small picture
    const perNew = newFrames > 0 || thumbnailBytes === null ? usualNew : thumbnailBytes * NEW_BYTES_A_THUMBNAIL_BYTE * larger
    const { encoded, shown } = slideFrames(plan, form.rate)
    // what was learnt is a mean over such frames as well
    const share = newFrames > 0 ? 1 : plan.transition ? TRANSITIONS[plan.transition.kind].weight : 1
    const guess = ({ repeat, picture, key, moves }: EncodedFrame) =>
      moves ? MOVING.bytes * larger : repeat ? FIRST.repeatBytes : picture < 0 && !key ? perNew * share : perNew
    const bytesOf = (frame: number) => known?.frameBytes[frame] ?? guess(encoded[frame]!)
    bytes += sum(shown.map((frame) => bytesOf(frame.encoded) + TABLE_BYTES))
    const moving = encoded.filter((frame) => frame.moves).length
    if (known === null)
      work += (encoded.filter((frame) => !frame.repeat).length - moving) * perNewMs + moving * MOVING.milliseconds * larger
    else ready++
  }
  for (const { known, plan } of sounds) {
    const seconds = toSeconds(plan.lengthSamples)
    bytes += known === null ? seconds * soundBytesASecond : known.bytes - SEGMENT_BYTES
    if (known === null) work += seconds * soundMsASecond
    else ready++
  }
  const hours = toSeconds(sum(videos.map((v) => v.plan.lengthSamples))) / 3600
  return {
    bytes: Math.round(bytes),
    seconds: work / 1000 / SEGMENTS_AT_A_TIME + Math.max(0.5, hours * JOIN_SECONDS_AN_HOUR * slowness),
    ready,
    segments: videos.length + sounds.length,
  }
}
