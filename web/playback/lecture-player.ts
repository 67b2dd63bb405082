/**
 * Plays a lecture as learners will hear it, without an export: clips, rests, beds, at any speed with its pitch kept.
 *
 * The clip that sounds is the clock; between clips it is the computer's. Pictures and captions are drawn from that one position, so
 * they cannot run away from the sound.
 */
import { useSyncExternalStore } from 'react'
import { gainAt, type PlacedBed } from '#core/audio/mix/music-bed.ts'
import { slideAt } from '#core/edition/frame-at.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { soundUrl } from '#web/data/api.ts'
import { stopPlay, whenSoundStarts } from './sound.ts'

export const RATES = [0.5, 0.75, 1, 1.25, 1.5, 2]

export interface PlayerState {
  playing: boolean
  rate: number
  /** Which slide is shown, by id; null before anything was played. */
  slideId: string | null
  /** Ends with the slide it began on. */
  onlyThisSlide: boolean
}

const TICK_MS = 15
/** A browser needs about so long from the call to the first sample; learned as it plays. */
const USUAL_LATENCY_S = 0.03
const MOST_LATENCY_S = 0.25
/** So long before its end a clip is left to itself: the news that it has ended comes late. */
const RELEASE_S = 0.03
/** More lateness than this is not made good but kept: the learner would miss the rest after the clip. */
const MOST_MADE_GOOD_S = 0.3

interface Sounding {
  slide: number
  element: HTMLAudioElement
  /** Lecture seconds of the clip's first sample. */
  start: number
  end: number
  /** Where in the clip it began, and when it was asked to. */
  offset: number
  askedAt: number
  started: boolean
}

let plan: EditionPlan | null = null
let beds: PlacedBed[] = []
let state: PlayerState = { playing: false, rate: 1, slideId: null, onlyThisSlide: false }
const listeners = new Set<() => void>()
let anchor = { position: 0, time: 0 }
/** Where the lecture would be had every clip begun at once: what clips are late by is made good in the rest after them. */
let wall = { position: 0, time: 0 }
let sounding: Sounding | null = null
let prepared: { url: string; element: HTMLAudioElement } | null = null
let timer: ReturnType<typeof setInterval> | undefined
let latency = USUAL_LATENCY_S
let stopAt = Number.POSITIVE_INFINITY
let context: AudioContext | null = null
const bedElements = new Map<string, { element: HTMLAudioElement; gain: GainNode }>()

function change(values: Partial<PlayerState>) {
  if (Object.entries(values).every(([key, value]) => state[key as keyof PlayerState] === value)) return
  state = { ...state, ...values }
  for (const listener of listeners) listener()
}

const end = () => (plan ? toSeconds(plan.lengthSamples) : 0)
const clipOf = (index: number) => {
  const slide = plan?.slides[index]
  if (!slide?.sound) return null
  const start = toSeconds(slide.startSamples + slide.sound.atSamples)
  return { url: soundUrl(slide.sound.clip), start, end: start + toSeconds(slide.sound.samples) }
}

const wallPosition = () => wall.position + ((performance.now() - wall.time) / 1000) * state.rate

/** @returns seconds since the lecture started */
export function position(): number {
  const free = anchor.position + (state.playing ? ((performance.now() - anchor.time) / 1000) * state.rate : 0)
  if (!sounding) return Math.min(free, end())
  if (!sounding.started) return Math.min(free, sounding.start + sounding.offset)
  return Math.min(sounding.start + sounding.element.currentTime, sounding.end)
}

function anchorAt(moment: number) {
  anchor = { position: moment, time: performance.now() }
}

function silenceClip() {
  sounding?.element.pause()
  sounding = null
}

/** From here the computer's clock goes on: as the schedule has it, unless the clip was held up for long. */
function release(clip: Sounding) {
  const late = wallPosition() - position()
  if (late >= -0.02 && late < MOST_MADE_GOOD_S) anchor = { ...wall }
  else {
    anchorAt(Math.max(position(), clip.end - RELEASE_S))
    wall = { ...anchor }
  }
  // its last few samples sound on by themselves
  sounding = null
}

/** @param offset seconds of the clip from which it will be played */
function prepare(index: number, offset = 0) {
  const clip = clipOf(index)
  if (!clip) return
  if (prepared?.url !== clip.url) {
    const element = new Audio(clip.url)
    element.preload = 'auto'
    prepared = { url: clip.url, element }
  }
  // going there takes a while where the file has not been read yet: it is done before it is wanted
  if (Math.abs(prepared.element.currentTime - offset) > 0.001) prepared.element.currentTime = offset
}

function startClip(index: number, at: number) {
  const clip = clipOf(index)!
  const offset = Math.max(0, at - clip.start)
  prepare(index, offset)
  const { element } = prepared!
  prepared = null
  element.playbackRate = state.rate
  element.preservesPitch = true
  sounding = { slide: index, element, start: clip.start, end: clip.end, offset, askedAt: performance.now(), started: false }
  const own = sounding
  element.play().catch(() => {
    // a clip that cannot be played is passed over in silence, and the lecture goes on
    if (sounding !== own) return
    anchorAt(own.start + own.offset)
    sounding = null
  })
}

function bedElement(bed: PlacedBed) {
  const known = bedElements.get(bed.bedId)
  if (known?.element.src.endsWith(soundUrl(bed.sound))) return known
  known?.element.pause()
  context ??= new AudioContext()
  const element = new Audio(soundUrl(bed.sound))
  const gain = context.createGain()
  context.createMediaElementSource(element).connect(gain).connect(context.destination)
  const made = { element, gain }
  bedElements.set(bed.bedId, made)
  return made
}

/** Brings every bed to where it has to be, and writes its gain ahead. */
function placeBeds() {
  const now = position()
  for (const bed of beds) {
    const [from, to] = [toSeconds(bed.start), toSeconds(bed.end)]
    if (now < from || now >= to) {
      bedElements.get(bed.bedId)?.element.pause()
      continue
    }
    const { element, gain } = bedElement(bed)
    void context!.resume()
    const played = now - from
    const wanted = bed.loopSamples ? played % toSeconds(bed.loopSamples) : played
    element.loop = bed.loopSamples !== null
    element.playbackRate = state.rate
    if (element.paused || Math.abs(element.currentTime - wanted) > 0.15) element.currentTime = wanted
    const at = context!.currentTime
    gain.gain.cancelScheduledValues(0)
    gain.gain.setValueAtTime(gainAt(bed.gains, now * SAMPLE_RATE), at)
    for (const point of bed.gains) {
      const moment = toSeconds(point.at)
      if (moment > now) gain.gain.linearRampToValueAtTime(point.gain, at + (moment - now) / state.rate)
    }
    if (element.paused) void element.play().catch(() => {})
  }
}

function tick() {
  if (!plan || !state.playing) return
  if (sounding && !sounding.started && sounding.element.currentTime > sounding.offset) {
    const heard = sounding.element.currentTime - sounding.offset
    const took = ((performance.now() - sounding.askedAt) / 1000) * state.rate - heard
    latency = Math.min(MOST_LATENCY_S, Math.max(0, 0.6 * latency + 0.4 * took))
    sounding.started = true
  }
  if (sounding && (sounding.element.ended || position() >= sounding.end - RELEASE_S)) release(sounding)
  const now = position()
  if (now >= Math.min(end(), stopAt)) {
    pause()
    anchorAt(Math.min(end(), stopAt))
    return
  }
  const index = slideAt(plan, Math.round(now * SAMPLE_RATE))
  if (plan.slides[index]!.slideId !== state.slideId) {
    change({ slideId: plan.slides[index]!.slideId })
    placeBeds()
  } else if (
    beds.some((bed) => Math.abs(now - toSeconds(bed.start)) < 0.05 && bedElements.get(bed.bedId)?.element.paused !== false)
  )
    placeBeds()
  const clip = clipOf(index)
  if (!sounding && clip && now >= clip.start - latency * state.rate && now < clip.end - 2 * RELEASE_S) startClip(index, now)
  else if (sounding) prepare(sounding.slide + 1)
}

/** @param from lecture seconds; where it stands when absent, from the start when that is the end */
export function play(from?: number, options: { onlyThisSlide?: boolean } = {}) {
  if (!plan) return
  stopPlay()
  silenceClip()
  const here = from ?? position()
  const start = here >= end() - 0.05 ? 0 : Math.max(0, here)
  const slide = plan.slides[slideAt(plan, Math.round(start * SAMPLE_RATE))]!
  const onlyThisSlide = options.onlyThisSlide ?? false
  stopAt = onlyThisSlide ? toSeconds(slide.startSamples + slide.lengthSamples) : Number.POSITIVE_INFINITY
  anchorAt(start)
  wall = { ...anchor }
  change({ playing: true, slideId: slide.slideId, onlyThisSlide })
  clearInterval(timer)
  timer = setInterval(tick, TICK_MS)
  placeBeds()
  tick()
}

export function pause() {
  const now = position()
  clearInterval(timer)
  silenceClip()
  for (const { element } of bedElements.values()) element.pause()
  change({ playing: false })
  anchorAt(now)
}

export function seek(moment: number) {
  const to = Math.min(Math.max(0, moment), end())
  if (state.playing) return play(to)
  anchorAt(to)
  if (!plan?.slides.length) return
  const index = slideAt(plan, Math.round(to * SAMPLE_RATE))
  change({ slideId: plan.slides[index]!.slideId })
  const clip = clipOf(index)
  if (clip && to < clip.end) prepare(index, Math.max(0, to - clip.start))
}

export function setRate(rate: number) {
  const now = position()
  change({ rate })
  if (state.playing) play(now, { onlyThisSlide: state.onlyThisSlide })
}

let woken = false
/** The first sound of a page waits for the browser's decoder and loudspeaker: they are woken unheard, before somebody presses play. */
function wake() {
  if (woken || !plan) return
  const index = plan.slides.findIndex((slide) => slide.sound)
  if (index < 0) return
  woken = true
  const element = new Audio(clipOf(index)!.url)
  element.muted = true
  element.play().then(
    () => element.pause(),
    () => {},
  )
}

/** Takes up another state of the lecture; what plays goes on where it is. */
export function load(next: EditionPlan | null, nextBeds: PlacedBed[]) {
  const now = position()
  const slideId = state.slideId
  const within = plan && slideId ? now - toSeconds(plan.slides.find((s) => s.slideId === slideId)?.startSamples ?? 0) : now
  const before = plan?.slides.find((s) => s.slideId === slideId)
  plan = next
  beds = nextBeds
  if (!next) return pause()
  wake()
  const same = next.slides.find((s) => s.slideId === slideId)
  // an edit elsewhere moves the slide on the lecture's clock; the listener stays where they were on it
  const moved = same ? toSeconds(same.startSamples) + Math.min(within, toSeconds(same.lengthSamples)) : now
  if (state.playing && JSON.stringify(before?.sound) !== JSON.stringify(same?.sound)) play(moved)
  else if (sounding && same) {
    const clip = clipOf(next.slides.indexOf(same))
    sounding = clip ? { ...sounding, slide: next.slides.indexOf(same), start: clip.start, end: clip.end } : sounding
  } else anchorAt(Math.min(moved, end()))
}

export function unload() {
  pause()
  plan = null
  beds = []
  for (const { element } of bedElements.values()) element.pause()
  bedElements.clear()
  void context?.close()
  context = null
  prepared = null
  anchorAt(0)
  change({ slideId: null, onlyThisSlide: false })
}

whenSoundStarts(() => state.playing && pause())

export const usePlayer = () =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => state,
  )
