/** The player's clock, its clips and its beds, with sounds that play by a clock of the test. */
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { PlacedBed } from '#core/audio/mix/music-bed.ts'
import type { EditionPlan, PlannedSlide } from '#core/edition/plan.ts'
import { LecturePlayer, type PlayerDevices } from './lecture-player.ts'

const RATE = 48_000

/** An element whose sound begins `lateMs` after it was asked to. */
class FakeAudio {
  static lateMs = 0
  static isBroken = false
  static made: FakeAudio[] = []
  readonly src: string
  readonly #seconds: number
  paused = true
  muted = false
  loop = false
  preload = ''
  preservesPitch = false
  playbackRate = 1
  #from = 0
  #since = 0
  constructor(src: string, seconds: number) {
    this.src = src
    this.#seconds = seconds
    FakeAudio.made.push(this)
  }
  get currentTime() {
    if (this.paused) return this.#from
    const played = (Math.max(0, performance.now() - this.#since) / 1000) * this.playbackRate
    return this.loop ? (this.#from + played) % this.#seconds : Math.min(this.#seconds, this.#from + played)
  }
  set currentTime(seconds: number) {
    this.#from = seconds
    this.#since = performance.now()
  }
  get ended() {
    return this.currentTime >= this.#seconds
  }
  play() {
    if (FakeAudio.isBroken) return Promise.reject(new Error('cannot be played'))
    this.paused = false
    this.#since = performance.now() + FakeAudio.lateMs
    return Promise.resolve()
  }
  pause() {
    this.#from = this.currentTime
    this.paused = true
  }
}
const sounding = () => FakeAudio.made.filter((audio) => !audio.paused && !audio.muted).map((audio) => audio.src)

/** Gains that were written, as `[what, gain, seconds]`. */
let gains: [string, number, number][] = []
function fakeContext() {
  const param = {
    cancelScheduledValues: () => {},
    setValueAtTime: (gain: number, at: number) => void gains.push(['set', gain, at]),
    linearRampToValueAtTime: (gain: number, at: number) => void gains.push(['ramp', gain, at]),
  }
  const node = { gain: param, connect: (to: unknown) => to }
  return {
    currentTime: 100,
    destination: {},
    createGain: () => node,
    createMediaElementSource: () => node,
    resume: async () => {},
    close: async () => {},
  } as unknown as AudioContext
}

/** A slide of so many seconds whose clip begins a second after it, and ends a second before its end; none where there is no clip. */
function slide(slideId: string, startSeconds: number, seconds: number, clip: string | null = `clip ${slideId}`): PlannedSlide {
  return {
    slideId,
    title: slideId,
    altText: '',
    section: '',
    startSamples: startSeconds * RATE,
    lengthSamples: seconds * RATE,
    pictures: [{ picture: slideId, atSamples: 0 }],
    thumbnail: '',
    transition: null,
    sound: clip === null ? null : { clip, atSamples: RATE, samples: (seconds - 2) * RATE },
    beds: [],
    bookmarks: [],
  }
}
function planOf(...slides: PlannedSlide[]): EditionPlan {
  const last = slides.at(-1)!
  return { title: 'Rain', language: 'en', slides, lengthSamples: last.startSamples + last.lengthSamples }
}
const RAIN = planOf(slide('a', 0, 6), slide('b', 6, 5, null), slide('c', 11, 7))

let others = 0
function newPlayer(plan: EditionPlan | null = RAIN, beds: PlacedBed[] = []) {
  const devices: PlayerDevices = {
    url: (name) => name,
    audio: (url) => new FakeAudio(url, url === 'music' ? 4 : 5) as unknown as HTMLAudioElement,
    dissolve: () => {},
    film: () => new FakeAudio('film', 60) as unknown as HTMLVideoElement,
    context: fakeContext,
    now: () => performance.now(),
    silenceOthers: () => void others++,
  }
  const player = new LecturePlayer(devices)
  player.load(plan, beds)
  return player
}
const later = (seconds: number) => vi.advanceTimersByTimeAsync(seconds * 1000)

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['performance', 'setInterval', 'clearInterval', 'setTimeout', 'Date'] })
  Object.assign(FakeAudio, { lateMs: 0, isBroken: false, made: [] })
  gains = []
  others = 0
})
afterEach(() => void vi.useRealTimers())

test('it goes through rests by the clock and through clips by their sound, to the end, and stands there', async () => {
  const player = newPlayer()
  player.play()
  expect(others).toBe(1)
  expect(player.state()).toMatchObject({ playing: true, slideId: 'a' })
  await later(0.5)
  expect(player.position()).toBeCloseTo(0.5, 2)
  expect(sounding()).toEqual([])
  await later(1.5)
  expect(sounding()).toEqual(['clip a'])
  expect(player.position()).toBeCloseTo(2, 1)
  await later(5)
  expect(player.state().slideId).toBe('b')
  await later(6)
  expect(player.state().slideId).toBe('c')
  expect(sounding()).toContain('clip c')
  await later(10)
  expect(player.state()).toMatchObject({ playing: false, slideId: 'c' })
  expect(player.position()).toBe(18)
  // from the end it begins anew
  player.play()
  expect(player.position()).toBeCloseTo(0, 2)
})

test('a clip that begins late holds the picture back, and the rest after it makes that good', async () => {
  FakeAudio.lateMs = 200
  const player = newPlayer()
  player.play(0.9)
  await later(0.25)
  // the sound has not begun: its first sample is where the picture stands
  expect(player.position()).toBeLessThanOrEqual(1.05)
  await later(3.5)
  expect(player.position()).toBeGreaterThan(4.4)
  await later(1.35)
  expect(player.position()).toBeCloseTo(6, 1)
})

test('how long the browser takes to begin is learnt, and asked for as much earlier', async () => {
  FakeAudio.lateMs = 100
  const player = newPlayer(planOf(...Array.from({ length: 6 }, (_, i) => slide(`${i}`, 6 * i, 6))))
  player.play()
  const begins: number[] = []
  for (let i = 0; i < 6; i++) {
    while (sounding().at(-1) !== `clip ${i}`) await later(0.005)
    begins.push(1 + 6 * i - performance.now() / 1000)
    await later(5)
  }
  expect(begins[0]!).toBeLessThan(0.05)
  expect(begins.at(-1)!).toBeGreaterThan(0.06)
})

test('a clip that cannot be played is passed over in silence', async () => {
  const player = newPlayer()
  FakeAudio.isBroken = true
  player.play(0.5)
  await later(2)
  expect(player.state().playing).toBe(true)
  expect(player.position()).toBeGreaterThan(1)
  await later(16)
  expect(player.state().playing).toBe(false)
})

test('this slide alone ends with the slide', async () => {
  const player = newPlayer()
  player.play(6, { onlyThisSlide: true })
  await later(6)
  expect(player.state()).toMatchObject({ playing: false, onlyThisSlide: true })
  expect(player.position()).toBe(11)
})

test('a pause stands where it was heard last, and play goes on from there', async () => {
  const player = newPlayer()
  player.play(2)
  await later(1)
  player.pause()
  const at = player.position()
  expect(at).toBeCloseTo(3, 1)
  expect(sounding()).toEqual([])
  await later(5)
  expect(player.position()).toBe(at)
  player.play()
  await later(0.5)
  expect(player.position()).toBeCloseTo(at + 0.5, 1)
})

test('going elsewhere stays inside the lecture, plays on where it played, and makes the clip there ready', async () => {
  const player = newPlayer()
  player.seek(-5)
  expect(player.position()).toBe(0)
  player.seek(99)
  expect(player.position()).toBe(18)
  player.seek(13)
  expect(player.state()).toMatchObject({ slideId: 'c', playing: false })
  expect(FakeAudio.made.at(-1)).toMatchObject({ src: 'clip c', currentTime: 1 })
  player.play()
  await later(0.3)
  player.seek(3)
  expect(player.state()).toMatchObject({ slideId: 'a', playing: true })
  await later(0.1)
  expect(sounding()).toEqual(['clip a'])
})

test('another speed goes on at once where it is, for clips and rests', async () => {
  const player = newPlayer()
  player.play(5.2)
  player.setRate(2)
  await later(1)
  expect(player.position()).toBeCloseTo(7.2, 1)
  await later(2.4)
  expect(Math.abs(player.position() - 12)).toBeLessThan(0.1)
  expect(FakeAudio.made.at(-1)!.playbackRate).toBe(2)
})

test('an edit elsewhere moves the lecture and not the listener; one of the clip that sounds plays the new one', async () => {
  const player = newPlayer()
  player.play(12.5)
  await later(0.5)
  const longer = planOf(slide('a', 0, 8), slide('b', 8, 5, null), slide('c', 13, 7))
  player.load(longer, [])
  expect(player.position()).toBeCloseTo(15, 1)
  expect(sounding()).toEqual(['clip c'])
  player.load(planOf(slide('a', 0, 8), slide('b', 8, 5, null), slide('c', 13, 7, 'clip c again')), [])
  await later(0.1)
  expect(sounding()).toEqual(['clip c again'])
  // without a lecture there is nothing to play
  player.load(null, [])
  expect(player.state().playing).toBe(false)
  player.play()
  expect(player.state().playing).toBe(false)
})

test('a bed sounds in its stretch, loops, and follows its gains at the speed of the lecture', async () => {
  const bed: PlacedBed = {
    bedId: 'bed',
    sound: 'music',
    start: 2 * RATE,
    end: 12 * RATE,
    loopSamples: 4 * RATE,
    gains: [
      { at: 2 * RATE, gain: 1 },
      { at: 4 * RATE, gain: 0.5 },
      { at: 12 * RATE, gain: 0 },
    ],
  } as PlacedBed
  const player = newPlayer(RAIN, [bed])
  player.setRate(2)
  player.play(8)
  expect(sounding()).toContain('music')
  const music = FakeAudio.made.find((audio) => audio.src === 'music')!
  expect(music).toMatchObject({ loop: true, playbackRate: 2, currentTime: 2 })
  // half way from 0.5 to silence now, and silent four seconds of the lecture later, which are two
  expect(gains).toEqual([
    ['set', 0.25, 100],
    ['ramp', 0, 102],
  ])
  player.seek(13)
  expect(sounding()).not.toContain('music')
  player.seek(3)
  expect(sounding()).toContain('music')
  player.pause()
  expect(sounding()).toEqual([])
})

test('it wakes the browser’s sound once, unheard, and leaves nothing behind', async () => {
  const player = newPlayer()
  expect(FakeAudio.made).toHaveLength(1)
  expect(FakeAudio.made[0]).toMatchObject({ muted: true, src: 'clip a' })
  await later(0.01)
  expect(FakeAudio.made[0]!.paused).toBe(true)
  player.load(RAIN, [])
  expect(FakeAudio.made).toHaveLength(1)
  player.play(2)
  const told = vi.fn()
  const end = player.subscribe(told)
  player.unload()
  expect(told).toHaveBeenCalled()
  expect(player.state()).toMatchObject({ playing: false, slideId: null })
  expect(sounding()).toEqual([])
  end()
})
