/** What of an edition this page has shown, as totals that tell nothing of who watches. Not counted where the browser asks not to be followed. */
import type { WatchReport } from '#core/watching/watching.ts'

/** As fast as it can be played, and some room: what goes further in a moment was a jump. */
const FASTEST = 4
const SLACK_S = 0.3
/** Less is no going back, and no leaving. */
const BACK_S = 1
const AT_END_S = 3
const MOST = 400

/** "Do Not Track" and "Global Privacy Control". */
export const asksNotToBeCounted = (browser: Navigator): boolean =>
  browser.doNotTrack === '1' || (browser as { globalPrivacyControl?: boolean }).globalPrivacyControl === true

export class WatchCount {
  readonly #lengthSeconds: number
  #report: WatchReport = { passes: [], back: [], left: null }
  #last: { moment: number; isPlaying: boolean; now: number } | null = null
  #hasPlayed = false

  constructor(lengthSeconds: number) {
    this.#lengthSeconds = lengthSeconds
  }

  /** @param now milliseconds of a clock that never goes back */
  readonly see = (moment: number, isPlaying: boolean, now = performance.now()) => {
    const last = this.#last
    this.#last = { moment, isPlaying, now }
    if (!last) return
    const { passes, back } = this.#report
    if (moment < last.moment - BACK_S && this.#hasPlayed && back.length < MOST) back.push(moment)
    const isOn = moment > last.moment && moment - last.moment <= ((now - last.now) / 1000) * FASTEST + SLACK_S
    if (!last.isPlaying || !isOn) return
    this.#hasPlayed = true
    const open = passes.at(-1)
    if (open && open[1] === last.moment) open[1] = moment
    else if (passes.length < MOST) passes.push([last.moment, moment])
  }

  /** @param isLeft the page goes @returns what was not told yet; null for nothing */
  take(isLeft: boolean): WatchReport | null {
    const { moment = 0 } = this.#last ?? {}
    const left = isLeft && this.#hasPlayed && moment < this.#lengthSeconds - AT_END_S ? moment : null
    const report = { ...this.#report, left }
    this.#report = { passes: [], back: [], left: null }
    return report.passes.length > 0 || report.back.length > 0 || left !== null ? report : null
  }
}
