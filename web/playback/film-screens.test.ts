/** Films beside the player's clock, with elements that play by a clock of the test. */
import { beforeEach, expect, test } from 'vitest'
import type { PlacedBed } from '#core/audio/mix/music-bed.ts'
import type { PlannedFilm } from '#core/edition/films.ts'
import type { EditionPlan, PlannedSlide } from '#core/edition/plan.ts'
import { FilmScreens } from './film-screens.ts'

const RATE = 48_000

class FakeFilm {
  static made: FakeFilm[] = []
  paused = true
  muted = false
  playbackRate = 1
  currentTime = 0
  removed = false
  readonly proxy: string
  constructor(proxy: string) {
    this.proxy = proxy
    FakeFilm.made.push(this)
  }
  play() {
    this.paused = false
    return Promise.resolve()
  }
  pause() {
    this.paused = true
  }
  remove() {
    this.removed = true
  }
}

/** Gains that were written, as `[what, gain]`. */
let gains: [string, number][] = []
/** Moments of files from which something went over into another. */
let dissolved: number[] = []
/** A film of 25 frames a second on the first slide, from a quarter of a second on; shown once it takes so many seconds. */
const film = (seconds: number, more: Partial<PlannedFilm> = {}): PlannedFilm => ({
  filmId: 'f',
  proxy: 'proxy f',
  rate: [25, 1],
  from: 0,
  to: 25 * seconds,
  frames: 25 * seconds,
  place: { x: 0, y: 0, width: 1, height: 1 },
  seenSamples: 0,
  startSamples: RATE / 4,
  endSamples: RATE / 4 + seconds * RATE,
  stays: true,
  isMuted: false,
  ...more,
})
function planOf(films: PlannedFilm[]): EditionPlan {
  const slide = (slideId: string, startSamples: number, own: PlannedFilm[]): PlannedSlide => ({
    slideId,
    title: slideId,
    altText: '',
    section: '',
    startSamples,
    lengthSamples: 7 * RATE,
    pictures: [{ picture: slideId, atSamples: 0 }],
    thumbnail: '',
    transition: null,
    films: own,
    sound: null,
    beds: [],
    bookmarks: [],
  })
  return { title: '', language: 'en', slides: [slide('a', 0, films), slide('b', 7 * RATE, [])], lengthSamples: 14 * RATE }
}
/** Its sound, quiet under a voice. */
const sound: PlacedBed = {
  bedId: 'f',
  sound: 'sound f',
  start: RATE / 4,
  end: 4 * RATE,
  firstSample: 0,
  loopSamples: null,
  gains: [
    { at: RATE / 4, gain: 0.2 },
    { at: 4 * RATE, gain: 0.2 },
  ],
  isFilm: true,
}

function screens(own: PlannedFilm[], beds: PlacedBed[] = [sound]) {
  const param = {
    cancelScheduledValues: () => {},
    setValueAtTime: (gain: number) => void gains.push(['set', gain]),
    linearRampToValueAtTime: (gain: number) => void gains.push(['ramp', gain]),
  }
  const node = { gain: param, connect: (to: unknown) => to }
  const context = { currentTime: 0, destination: {}, createGain: () => node, createMediaElementSource: () => node }
  const found = new FilmScreens({
    dissolve: (element) => void dissolved.push(element.currentTime),
    film: (proxy) => new FakeFilm(proxy) as unknown as HTMLVideoElement,
    context: () => ({ ...context, resume: async () => {}, close: async () => {} }) as unknown as AudioContext,
  })
  found.load(planOf(own), beds)
  return found
}
const shown = () => FakeFilm.made[0]!

beforeEach(() => {
  FakeFilm.made = []
  gains = []
  dissolved = []
})

test('a film is loaded when it is played or looked at, and not before', () => {
  const found = screens([film(3)])
  found.place(1, 0)
  expect(FakeFilm.made).toEqual([])
  found.screen({ filmId: 'f', proxy: 'proxy f' })
  // where the lecture stands: at 0.75 s of the film, in the middle of its frame
  expect(shown().currentTime).toBeCloseTo(0.74, 2)
  expect(shown().paused).toBe(true)
})
test('it begins with its moment, follows the clock, and stands on its last picture', () => {
  const found = screens([film(3)])
  found.place(0.1, 1)
  expect(shown().paused).toBe(true)
  found.place(0.25, 1)
  expect([shown().paused, shown().currentTime]).toEqual([false, 0])
  shown().currentTime = 0.95
  found.place(1.25, 1)
  // a little late: hurried, and held back when it is early
  expect(shown().playbackRate).toBeCloseTo(1.08)
  shown().currentTime = 1.06
  found.place(1.25, 1)
  expect(shown().playbackRate).toBeCloseTo(0.92)
  shown().currentTime = 0.2
  found.place(2.25, 1)
  expect(shown().currentTime).toBe(2)
  found.place(3.5, 1)
  expect([shown().paused, shown().currentTime]).toEqual([true, 2.98])
})
test('what is cut off is not shown, and one that loops begins again', () => {
  const found = screens([film(10, { from: 100, to: 125, endSamples: 7 * RATE, stays: false })])
  found.place(0.25, 2)
  expect(shown().currentTime).toBe(4)
  expect(shown().playbackRate).toBe(2)
  found.place(0.25 + 1.5, 2)
  expect(shown().currentTime).toBe(4.5)
})
test('its sound gives way to the voice; one that is muted is not heard', () => {
  screens([film(3)]).place(0.3, 1)
  expect(shown().muted).toBe(false)
  const [[, first]] = gains as [[string, number]]
  expect(first).toBeCloseTo(0.2)
  FakeFilm.made = []
  screens([film(3, { isMuted: true })], []).place(0.3, 1)
  expect(shown().muted).toBe(true)
})
test('it rests with the lecture, and goes when its film is taken away', () => {
  const found = screens([film(3)])
  found.place(1, 1)
  found.pause()
  expect(shown().paused).toBe(true)
  found.load(planOf([]), [])
  expect(shown().removed).toBe(true)
})
test('what was recorded with the voice dissolves where it was cut, and not where it begins', () => {
  const cut = [
    { startSamples: RATE / 4, endSamples: RATE, from: 0, to: 20, earlySamples: 0 },
    { startSamples: RATE, endSamples: 2 * RATE, from: 60, to: 85, earlySamples: 0 },
  ]
  const found = screens([film(3, { runs: cut, endSamples: 2 * RATE })], [])
  found.place(0.3, 1)
  expect(dissolved).toEqual([])
  shown().currentTime = 0.78
  found.place(1.04, 1)
  expect(shown().currentTime).toBeCloseTo(2.44)
  expect(dissolved).toEqual([0.78])
})
