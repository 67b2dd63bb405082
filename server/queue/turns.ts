/**
 * Whose work comes next, so that nobody's many jobs keep one of somebody else waiting: start-time fair queuing by the time that work took
 * (P. Goyal, H. M. Vin, H. Cheng, “Start-time fair queueing”, SIGCOMM 1996).
 */
export class Turns {
  /** When the work of each would end, had all had the same share, ms of that clock; of those who are behind the clock nothing is kept. */
  readonly #finished = new Map<string, number>()
  #clock = 0

  #start = (party: string) => Math.max(this.#clock, this.#finished.get(party) ?? 0)

  /**
   * @param waiting those who have work, whoever has waited longest first; one at least
   * @returns whose turn it is
   */
  next(waiting: readonly string[]): string {
    const chosen = waiting.reduce((first, party) => (this.#start(party) < this.#start(first) ? party : first))
    this.#clock = this.#start(chosen)
    for (const [party, finished] of this.#finished) if (finished <= this.#clock) this.#finished.delete(party)
    return chosen
  }

  /** @param ms that the work of whoever had the turn took */
  worked(party: string, ms: number) {
    this.#finished.set(party, this.#start(party) + ms)
  }
}
