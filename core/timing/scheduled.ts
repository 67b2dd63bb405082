/** A slide as the schedule has it. */
import type { Transition } from '#core/model/transition.ts'
import { toSamples } from './clocks.ts'

/** Each picture of a slide is seen for at least so long. */
export const SHORTEST_STEP_S = 0.1
/** Frames of a transition are this far apart: 30 a second. */
export const TRANSITION_FRAME = toSamples(1) / 30

export interface ScheduledTransition {
  kind: Exclude<Transition['kind'], 'none'>
  /** Whole frames from the slide's start on. */
  frames: number
}

/** When a film of a slide moves. Samples from the slide's start on. */
export interface ScheduledFilm {
  filmId: string
  stepId: string
  startSamples: number
  /** Where it ends, or its slide does. */
  endSamples: number
  /** Of one showing; it is shown again and again where it loops. */
  onceSamples: number
}

export interface ScheduledSlide {
  slideId: string
  /** First sample of the slide on the lecture's clock. */
  startSamples: number
  /** A multiple of 1024 samples. */
  lengthSamples: number
  /** How long it would be without its films. */
  filmlessSamples: number
  /** First sample of the clip, counted from the slide's start; never before its transition has ended. */
  leadSamples: number
  /** 0 when the slide has no sound. */
  clipSamples: number
  /** Null for the first slide and for a plain cut. */
  transition: ScheduledTransition | null
  /** At a fixed pace, by how much the sound is longer than there is room for; negative where there is room left. Else null. */
  overSamples: number | null
  /** In the order in which its steps have them. */
  films: ScheduledFilm[]
}

/** @returns how long a transition takes */
export const transitionSamples = (transition: ScheduledTransition | null) =>
  transition ? transition.frames * TRANSITION_FRAME : 0
