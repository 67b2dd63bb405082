/** Typing by ear: a phrase is played, and the sound waits at its end until it is typed. */

interface Plays {
  play(from: number): void
  pause(): void
}

/** The first sound of a phrase is understood better with a little before it, the last one with a little after it. */
const [BEFORE_S, AFTER_S] = [0.15, 0.1]

/** Further from the phrase than this, something else is played. */
const ELSEWHERE_S = 1.5

export class EarTyping {
  readonly #player: Plays
  /** What plays until its end, seconds of the lecture; null: nothing that was asked for. */
  #phrase: { from: number; until: number } | null = null

  constructor(player: Plays) {
    this.#player = player
  }

  hear({ start, end }: { start: number; end: number }) {
    this.#phrase = { from: Math.max(0, start - BEFORE_S), until: end + AFTER_S }
    this.#player.play(this.#phrase.from)
  }

  /** The sound has come so far. */
  at(now: number) {
    if (!this.#phrase) return
    const { from, until } = this.#phrase
    if (now > until + ELSEWHERE_S || now < from - ELSEWHERE_S) this.leave()
    else if (now >= until) {
      this.leave()
      this.#player.pause()
    }
  }

  /** Something else is played, or nothing: it does not stop by itself any more. */
  leave() {
    this.#phrase = null
  }
}
