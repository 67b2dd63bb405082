/**
 * Tells for each recorded picture at which sample of the take it was taken. Sound and pictures come from devices with clocks of their own; what both
 * have in common is the clock of the wall, which is read when they arrive. Whatever is late is so by chance: of several arrivals the earliest is
 * the truest, as network clocks take it (the minimum filter of RFC 5905, section 10).
 */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

/**
 * Arrivals of so long are compared: a machine is seldom busy for longer, and clocks hardly drift apart meanwhile (two hundred millionths, which is
 * much, are four milliseconds).
 */
const REMEMBERED_MS = 20_000
const SAMPLES_A_MS = SAMPLE_RATE / 1000

/** The earliest arrival of some, as the distance between two clocks. */
class Earliest {
  #seen: { distance: number; wall: number }[] = []
  /** Of all that are remembered. */
  least: number | null = null

  add(distance: number, wall: number) {
    // what came before one that is as early is never needed again: the first that is left is the earliest
    while (this.#seen.length > 0 && this.#seen.at(-1)!.distance >= distance) this.#seen.pop()
    this.#seen.push({ distance, wall })
    while (this.#seen[0]!.wall < wall - REMEMBERED_MS) this.#seen.shift()
    this.least = this.#seen[0]!.distance
  }
}

export class PictureClock {
  #sound = new Earliest()
  #pictures = new Earliest()
  /** The sample at which nothing more is recorded; null while it is. */
  #restsAt: number | null = null
  /** Pictures of the take come after this sample. */
  #last = -1

  /**
   * @param samples of the take that were captured
   * @param wall ms, when the last of them came
   */
  hear(samples: number, wall: number) {
    if (this.#restsAt === null) this.#sound.add(wall - samples / SAMPLES_A_MS, wall)
  }

  /** Nothing is recorded after this sample, until `goOn`. */
  rest(samples: number) {
    this.#restsAt = samples
  }

  /** The same samples as before the rest are counted at another time now. */
  goOn() {
    this.#restsAt = null
    this.#sound = new Earliest()
  }

  /** @param wall ms @returns the sample of the take then, or that of the rest; null before the first sound */
  now(wall: number): number | null {
    if (this.#restsAt !== null) return this.#restsAt
    return this.#sound.least === null ? null : Math.max(0, Math.round((wall - this.#sound.least) * SAMPLES_A_MS))
  }

  /**
   * @param taken ms on the clock of the pictures, whichever that is
   * @param wall ms, when it came
   * @returns the sample of the take at which it was taken; null for one that is of no use: in a rest, or before the first sound
   */
  at(taken: number, wall: number): number | null {
    this.#pictures.add(wall - taken, wall)
    if (this.#sound.least === null) return null
    return this.#next(Math.round((taken + this.#pictures.least! - this.#sound.least) * SAMPLES_A_MS))
  }

  /** @returns the sample for what is seen already and goes on to be seen; null as above */
  still(wall: number): number | null {
    const at = this.now(wall)
    return at === null ? null : this.#next(at)
  }

  #next(at: number): number | null {
    if (at < 0 || at <= this.#last || (this.#restsAt !== null && at > this.#restsAt)) return null
    this.#last = at
    return at
  }
}
