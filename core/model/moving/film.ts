/** A film on a slide: a moving picture that begins with one of the slide's steps. */
import { type Message, message } from '#core/words/say.ts'
import { z } from '../../zod.ts'
import { FilmCaptions } from './film-captions.ts'

/** How the voice and a film go together. */
export const VOICES = {
  over: message('speaks over it'),
  before: message('speaks first'),
  after: message('waits for it'),
} as const
export type FilmVoice = keyof typeof VOICES
const voices = Object.keys(VOICES) as [FilmVoice, ...FilmVoice[]]

/** Less of a film is no film. */
export const SHORTEST_FILM_S = 0.1
/** What is longer is not brought in: it is a lecture of its own. */
export const LONGEST_FILM_S = 30 * 60

export const tooLong = (name: string): Message =>
  message('“{name}” is longer than {minutes} minutes, the most that a film on a slide may be. Cut it first.', {
    name,
    minutes: LONGEST_FILM_S / 60,
  })
/** Larger a film is nowhere shown. */
const LARGEST = { width: 1920, height: 1080 }

const share = z.number().min(-4).max(5)
const size = z.number().min(0.01).max(5)

/** Where a film stands: shares of the slide's picture, from its upper left corner. */
export const FilmPlace = z.object({ x: share, y: share, width: size, height: size })
export type FilmPlace = z.infer<typeof FilmPlace>

/** How a film is shown and heard. */
export const FilmSettings = z.object({
  /** Null: as large as it fits, in the middle. */
  place: FilmPlace.nullable(),
  /** Whether the voice speaks over it, before it begins, or after it has ended. The last only where the film is on the slide's first step. */
  voice: z.enum(voices),
  /** Of the file. */
  fromSeconds: z.number().min(0).max(LONGEST_FILM_S),
  /** Null: to its end. */
  toSeconds: z.number().min(0).max(LONGEST_FILM_S).nullable(),
  /** Begins again when it has ended, for as long as its slide is shown. */
  loops: z.boolean(),
  /** The slide stays until it has been shown once; else it ends with its slide. */
  waits: z.boolean(),
  /** Where its slide does not wait for it: it is seen and heard on, over the slides that follow, until it has been shown once. */
  runsOn: z.boolean(),
  /** When it has ended: its last picture stays, or the slide's own picture is seen again. */
  afterwards: z.enum(['last-picture', 'slide']),
  isMuted: z.boolean(),
  /** Somebody speaks in it, so that it wants captions. */
  isSpoken: z.boolean(),
  /** What is said in it, in one language or several. */
  captions: z.array(FilmCaptions).max(20),
  /** What it shows, and the words that are seen in it, for those who cannot see it. */
  description: z.string().max(2000),
  /** How loud it is beside the voice, LU. */
  volumeDb: z.number().min(-40).max(6),
  /** How much quieter it becomes while somebody speaks, dB; 0 does not give way. */
  duckDb: z.number().min(-40).max(0),
})
export type FilmSettings = z.infer<typeof FilmSettings>

/** What a deck says before it is known how long its film is. */
export interface FilmTrim {
  /** Seconds that are left out at its end. */
  endTrimSeconds?: number
}

/** Common practice, no published source: what is heard beside a voice lies some 14 dB under it. */
export const DEFAULT_FILM: FilmSettings = {
  place: null,
  voice: 'over',
  fromSeconds: 0,
  toSeconds: null,
  loops: false,
  waits: true,
  runsOn: false,
  afterwards: 'last-picture',
  isMuted: false,
  isSpoken: true,
  captions: [],
  description: '',
  volumeDb: 0,
  duckDb: -14,
}

/** A film as it can be shown everywhere: what came of its file. */
export interface ShownFilm {
  /** Content name of an MP4 (H.264, AAC): upright, square pixels, one rate of frames, a key frame each half second. */
  proxy: string
  /** Its sound, stereo at 48 kHz; null for a silent one. */
  sound: string | null
  /** Pictures of it side by side, each of a second or more: a strip on the time scale. */
  strip: string
  stripPictures: number
  width: number
  height: number
  /** Frames a second, as a fraction. */
  rate: [number, number]
  frames: number
  /** Of what a camera gave at a rate of its own: moment of the first frame, seconds; absent for none but 0. */
  beginsSeconds?: number
  /** Null where nothing is heard. */
  loudnessLufs: number | null
  /** Seconds of the film in which it flashes more than people with photosensitive epilepsy can bear. */
  flashes: { start: number; end: number }[]
  /** What became otherwise than in its file, a sentence each. */
  notes: Message[]
}

export interface Film extends FilmSettings {
  id: string
  /** Of its file. */
  name: string
  /** The file as it came. */
  original: string
  /** The step's picture shows its first picture, or another one, until it begins. */
  hasPoster: boolean
  /** It came with the slide's deck or pictures; a new version of them replaces it. */
  isOfDeck: boolean
  /** Null until it is ready, and where it cannot be. */
  shown: ShownFilm | null
  /** Why it cannot be shown. */
  problem: Message | null
}

/** Whether it goes on over the slides that follow: one that begins again and again, or that its slide waits for, ends there. */
export const isRunningOn = ({ runsOn, waits, loops }: Pick<Film, 'runsOn' | 'waits' | 'loops'>): boolean =>
  runsOn && !waits && !loops

/** @returns seconds of all of a film */
export const filmSeconds = ({ frames, rate: [count, per] }: Pick<ShownFilm, 'frames' | 'rate'>): number => (frames * per) / count

const even = (value: number) => Math.max(2, 2 * Math.round(value / 2))

/** @returns pixels that a film is kept with: as many as it has where no more are shown, and even numbers, as its coding wants */
export function keptSize({ width, height }: { width: number; height: number }): { width: number; height: number } {
  const scale = Math.min(1, LARGEST.width / width, LARGEST.height / height)
  return { width: even(width * scale), height: even(height * scale) }
}

/** What of a film is shown once: frames of it, at least one. */
export function filmFrames({ fromSeconds, toSeconds, shown }: Pick<Film, 'fromSeconds' | 'toSeconds' | 'shown'>): {
  from: number
  to: number
} {
  if (!shown) return { from: 0, to: 0 }
  const frameAt = (seconds: number) => Math.round((seconds * shown.rate[0]) / shown.rate[1])
  const from = Math.min(frameAt(fromSeconds), shown.frames - 1)
  const to = Math.min(toSeconds === null ? shown.frames : frameAt(toSeconds), shown.frames)
  return { from, to: Math.max(from + 1, to) }
}

/** Where a film stands in the picture of its step: as it was put, or as large as it fits. */
export function filmPlace(film: Pick<Film, 'place' | 'shown'>, picture: { width: number; height: number }): FilmPlace {
  if (film.place || !film.shown) return film.place ?? { x: 0, y: 0, width: 1, height: 1 }
  const scale = Math.min(picture.width / film.shown.width, picture.height / film.shown.height)
  const [width, height] = [(film.shown.width * scale) / picture.width, (film.shown.height * scale) / picture.height]
  return { x: (1 - width) / 2, y: (1 - height) / 2, width, height }
}
