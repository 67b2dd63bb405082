/** Time that passed without sound, found by a clock that runs beside the samples. */

/** Clocks are read late and never early: the least late of this long tells the truth. Longer than any stall that is made good again. */
const WINDOW_MS = 1500
/** Less is how clocks tremble. */
const LEAST_MS = 5

/** Counts the gaps of one recording. */
export class DropoutDetector {
  #count = 0
  #ms = 0
  #before: number | null = null
  #least = Number.POSITIVE_INFINITY
  #windowEnd: number | null = null

  /**
   * @param clock ms at which a piece of sound was there, by any clock
   * @param sound ms of sound that had come before it
   */
  tell(clock: number, sound: number) {
    this.#windowEnd ??= sound + WINDOW_MS
    if (sound >= this.#windowEnd) {
      this.#close()
      this.#windowEnd = sound + WINDOW_MS
    }
    this.#least = Math.min(this.#least, clock - sound)
  }

  /** After a rest nothing is missing that was not recorded. */
  rest() {
    this.#close()
    this.#before = null
    this.#windowEnd = null
  }

  /** @returns gaps so far, and how long they are together, ms */
  found(): { dropoutCount: number; dropoutMs: number } {
    const missing = this.#missing()
    return { dropoutCount: this.#count + (missing > 0 ? 1 : 0), dropoutMs: Math.round(this.#ms + missing) }
  }

  /** What is missing in the window that is open, by what was told of it so far. */
  #missing(): number {
    const missing = this.#before === null || this.#least === Number.POSITIVE_INFINITY ? 0 : this.#least - this.#before
    return missing >= LEAST_MS ? missing : 0
  }

  #close() {
    if (this.#least === Number.POSITIVE_INFINITY) return
    const missing = this.#missing()
    if (missing > 0) this.#count++
    this.#ms += missing
    this.#before = this.#least
    this.#least = Number.POSITIVE_INFINITY
  }
}
