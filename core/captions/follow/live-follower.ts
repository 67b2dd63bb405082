/** Follows a script while it is spoken: the aligner's search, a frame at a time, before anything is known of the speaker. */
import {
  activeFrames,
  BANDS,
  cepstra,
  DIMENSIONS,
  FRAMES_A_SECOND,
  frameLevels,
  melSpectrum,
  saidFrames,
} from '#core/captions/align/features.ts'
import { type Reference, stretchReference } from '#core/captions/align/reference.ts'
import { frameOf, RESTED_REACH, Search, type SearchCosts, STOP_REACH } from '#core/captions/align/search.ts'

/** Samples a second of what is heard. */
export const LIVE_RATE = 16_000
const HOP = LIVE_RATE / FRAMES_A_SECOND
/** What speaker and room are like is told by so much of what was heard last. Frames. */
const REMEMBERED = 20 * FRAMES_A_SECOND
/** Before so much was spoken nothing can be told. Frames. */
const FEWEST = 0.5 * FRAMES_A_SECOND
/** Slopes look two frames ahead. */
const AHEAD = 3

/** Who says other words for so long is not followed by them. Frames of speech. */
const LONGEST_STRANGE = 2 * FRAMES_A_SECOND

/** A frame that has nothing to do with another costs 1 where both have variance 1. */
const COSTS: SearchCosts = {
  silence: 0.3,
  unlike: 1,
  garbage: 0.85,
  garbageEntry: 9,
  skip: 6,
  repeat: 6,
  falseStart: 6,
  unrested: 4,
  jump: 16,
}

export interface LivePlace {
  sentence: number
  /** Words of the sentence before this place. */
  words: number
}

export class LiveFollower {
  readonly #reference: Reference
  readonly #search: Search
  #samples = new Float32Array(0)
  /** Of the first sample that is still needed. */
  #from = 0
  /** Power of the bands of the frames that are remembered; the first of them is number `#first`. */
  #power: number[] = []
  #first = 0
  #searched = 0
  #cost = 0
  #sinceRest = 0
  #restFor = 0
  /** Frames of speech since a word of the script was heard. */
  #strange = 0

  /** @param rate how much slower than the reference the speaker is */
  constructor(reference: Reference, rate = 1) {
    this.#reference = stretchReference(reference, rate)
    this.#search = new Search(this.#reference, COSTS)
  }

  /** @param samples that follow on those of the call before, mono, 16 kHz */
  hear(samples: Float32Array) {
    const all = new Float32Array(this.#samples.length + samples.length)
    all.set(this.#samples)
    all.set(samples, this.#samples.length)
    this.#samples = all
    const known = this.#first + this.#power.length / BANDS
    const whole = Math.floor((this.#from + all.length) / HOP) - 2
    if (whole <= known) return
    const margin = Math.min(2, known)
    const begin = (known - margin) * HOP - this.#from
    const mel = melSpectrum(all.subarray(begin, (whole + 2) * HOP - this.#from), LIVE_RATE)
    for (let n = margin; n < margin + whole - known; n++)
      for (let b = 0; b < BANDS; b++) this.#power.push(mel.power[n * BANDS + b]!)
    const keep = Math.max(0, (whole - 2) * HOP - this.#from)
    this.#samples = all.slice(keep)
    this.#from += keep
    const surplus = this.#power.length / BANDS - REMEMBERED
    if (surplus > 0) {
      this.#power.splice(0, surplus * BANDS)
      this.#first += surplus
    }
    this.#advance()
  }

  #advance() {
    const mel = { frames: this.#power.length / BANDS, power: Float32Array.from(this.#power) }
    const levels = frameLevels(mel)
    const active = activeFrames(levels, saidFrames(null, mel.frames))
    if (this.#searched === 0 && active.reduce((sum, on) => sum + on, 0) < FEWEST) return
    const features = cepstra(mel, active)
    for (let n = Math.max(0, this.#searched - this.#first); n < mel.frames - AHEAD; n++) {
      const speaks = active[n] === 1
      const rested = this.#sinceRest <= RESTED_REACH
      this.#sinceRest = speaks ? this.#sinceRest + 1 : 0
      this.#restFor = speaks ? 0 : this.#restFor + 1
      const moment = { speaks, rests: this.#restFor > STOP_REACH, rested, restedAfter: this.#sinceRest <= RESTED_REACH }
      this.#cost = this.#search.advance(
        features.subarray(n * DIMENSIONS, (n + 1) * DIMENSIONS),
        frameOf(this.#first + n, this.#cost, moment, COSTS),
      )
      if (!this.#search.place.isStrange) this.#strange = 0
      else if (speaks) this.#strange++
      this.#searched = this.#first + n + 1
    }
  }

  /** The speaker goes on from a sentence. */
  goTo(sentence: number) {
    this.#search.standBefore(Math.min(sentence, this.#reference.sentences.length))
    this.#cost = 0
    this.#strange = 0
  }

  /** Where the speaker most likely is; null where what is said has long been nothing of the script, or nothing was said yet. */
  place(): LivePlace | null {
    if (this.#searched === 0 || this.#strange > LONGEST_STRANGE) return null
    const { words, sentences } = this.#reference
    const { word } = this.#search.place
    if (word >= words.length) return { sentence: sentences.length, words: 0 }
    const { sentence } = words[word]!
    return { sentence, words: word - sentences[sentence]!.first }
  }
}
