/** How far somebody has come in a lecture, as its player tells it: what is told to a learning platform, and nothing else. */
import type { Answered } from '#core/model/question.ts'
import { heardShare, packStretches, type Stretch, unpackStretches, withStretch } from './stretches.ts'

/** Common practice, no published source: who has heard nine tenths of a lecture has heard it. */
export const USUAL_SHARE = 0.9
export const SHARE_RANGE = { least: 0.1, most: 1 }

/** What a platform kept of earlier sessions. */
export interface KeptListening {
  /** Seconds of the lecture. */
  place: number
  heard: Stretch[]
  isCompleted: boolean
}
export const NOTHING_KEPT: KeptListening = { place: 0, heard: [], isCompleted: false }

export interface Progress extends KeptListening {
  /** 0 to 1. */
  heardShare: number
  /** Since it was opened. */
  sessionSeconds: number
  /** Slides of which something was heard, and how many there are. */
  slidesSeen: number
  slides: number
  /** Answers to its questions, in the order in which they were given, and how many questions there are. */
  answered: readonly Answered[]
  questions: number
}

/** The quickest that it can be played, and some room: what goes further in a moment was a jump. */
const FASTEST = 4
const SLACK_S = 0.3

export interface LectureTimes {
  lengthSeconds: number
  /** Where slides begin, seconds. */
  slideStarts: readonly number[]
  /** What must be heard of it, 0 to 1. */
  share: number
}

export class Listening {
  readonly #times: LectureTimes
  #kept: KeptListening
  #last: { place: number; now: number } | null = null
  readonly #begun: number
  #answered: { all: readonly Answered[]; questions: number } = { all: [], questions: 0 }

  /** @param now milliseconds of a clock that never goes back */
  constructor(times: LectureTimes, kept: KeptListening, now: number) {
    this.#times = times
    this.#kept = kept
    this.#begun = now
  }

  /** @param place seconds of the lecture @param isPlaying whether it plays @param now as above */
  see(place: number, isPlaying: boolean, now: number) {
    const last = this.#last
    this.#last = isPlaying ? { place, now } : null
    let { heard, isCompleted } = this.#kept
    if (last && place > last.place && place - last.place <= ((now - last.now) / 1000) * FASTEST + SLACK_S)
      heard = withStretch(heard, { start: last.place, end: place })
    isCompleted ||= heardShare(heard, this.#times.lengthSeconds) >= this.#times.share
    this.#kept = { place, heard, isCompleted }
  }

  answer(all: readonly Answered[], questions: number) {
    this.#answered = { all, questions }
  }

  progress(now: number): Progress {
    const { lengthSeconds, slideStarts } = this.#times
    const ends = [...slideStarts.slice(1), lengthSeconds]
    const { heard } = this.#kept
    const seen = slideStarts.filter((start, i) => heard.some((one) => one.end > start && one.start < ends[i]!))
    return {
      ...this.#kept,
      heardShare: heardShare(heard, lengthSeconds),
      sessionSeconds: (now - this.#begun) / 1000,
      slidesSeen: seen.length,
      slides: slideStarts.length,
      answered: this.#answered.all,
      questions: this.#answered.questions,
    }
  }
}

const KEPT = /^1;(\d+);(\d+);([01]);([0-9a-z,-]*)$/

/**
 * What is kept between sessions, as one text that is no longer than a limit.
 *
 * @param lengthSeconds of the lecture: what was heard of another edition is of another lecture
 */
export function packListening({ place, heard, isCompleted }: KeptListening, lengthSeconds: number, limit: number): string {
  const head = `1;${Math.round(lengthSeconds * 10)};${Math.round(place * 10)};${isCompleted ? 1 : 0};`
  return head + packStretches(heard, limit - head.length)
}

/** @returns nothing kept for what is no such text; of another length of lecture only whether it was completed */
export function unpackListening(text: string, lengthSeconds: number): KeptListening {
  const [, length, place, completed, stretches] = KEPT.exec(text) ?? []
  if (stretches === undefined) return NOTHING_KEPT
  const isCompleted = completed === '1'
  const heard = unpackStretches(stretches)
  if (heard === null || Number(length) !== Math.round(lengthSeconds * 10)) return { ...NOTHING_KEPT, isCompleted }
  return { place: Number(place) / 10, heard, isCompleted }
}
