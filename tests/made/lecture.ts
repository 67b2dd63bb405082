/** Small lectures for tests of what is planned, checked and written of them. */
import { DEFAULT_BED } from '#core/model/bed.ts'
import { DEFAULT_EXPORT_SETTINGS } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { DEFAULT_FILM, type Film } from '#core/model/moving/film.ts'
import { DEFAULT_SMALL_PICTURE } from '#core/model/moving/small-picture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { NO_TRANSITION } from '#core/model/transition.ts'
import { toSamples } from '#core/timing/clocks.ts'

export const FIGURES = { loudnessLufs: -16, truePeakDbtp: -2, noiseFloorDb: -75, gainDb: 0, gainReductionDb: 0 }
/** A take of so many seconds with a voice from end to end. */
export const take = (id: string, seconds: number): Take =>
  ({
    id,
    microphone: 'Laptop microphone',
    tidyUp: TidyUp.parse({ kept: { start: 0, end: toSamples(seconds) } }),
    analysis: { speech: [{ start: 0, end: toSamples(seconds) }], clippedSamples: 0 },
    clip: { samples: toSamples(seconds), sound: `clip ${id}`, peaks: '', figures: FIGURES },
    stepMoments: {},
    marks: [],
    bookmarks: [],
    footage: [],
    samples: toSamples(seconds),
    problem: null,
  }) as unknown as Take
export const step = (id: string) => ({
  id,
  picture: `picture ${id}`,
  thumbnail: `small ${id}`,
  width: 1920,
  height: 1080,
  text: '',
  afterSeconds: null,
  films: [],
})
/** A film of so many seconds, 25 frames in each. */
export const film = (id: string, seconds: number, more: Partial<Film> = {}): Film => ({
  ...DEFAULT_FILM,
  id,
  name: `${id}.mp4`,
  original: `original ${id}`,
  hasPoster: false,
  isOfDeck: false,
  description: 'described',
  isSpoken: false,
  problem: null,
  shown: {
    proxy: `proxy ${id}`,
    sound: `sound ${id}`,
    strip: `strip ${id}`,
    stripPictures: 1,
    width: 1920,
    height: 1080,
    rate: [25, 1],
    frames: Math.round(25 * seconds),
    loudnessLufs: -20,
    flashes: [],
    notes: [],
  },
  ...more,
})
/** A slide whose pictures have these films. */
export const filmed = (id: string, seconds: number, ...films: Film[][]): Slide =>
  slide(id, seconds, { steps: films.map((own, i) => ({ ...step(`${id}${i}`), films: own })) })

/** Without a take where it lasts 0 s. */
export const slide = (id: string, seconds: number, more: Partial<Slide> = {}): Slide => ({
  id,
  title: `Title ${id}`,
  altText: 'described',
  isAltTextDraft: false,
  script: 'Some words.',
  language: null,
  hidden: false,
  timing: {},
  transition: null,
  smallPicture: null,
  card: null,
  warnings: [],
  buildsOn: false,
  section: '',
  questions: [],
  offered: [],
  steps: [step(id)],
  keptTakeId: seconds ? `take ${id}` : null,
  takes: seconds ? [take(`take ${id}`, seconds)] : [],
  ...more,
})
/** A slide that is spoken to in some stretches, seconds, of its take. */
export function speaking(id: string, seconds: number, ...stretches: [number, number][]): Slide {
  const made = slide(id, seconds)
  made.takes[0]!.analysis!.speech = stretches.map(([start, end]) => ({ start: toSamples(start), end: toSamples(end) }))
  return made
}
/** Each kept take has a caption. */
export const lecture = (slides: Slide[], more: Partial<Lecture> = {}): Lecture => ({
  id: 'l',
  title: 'L',
  language: 'en',
  timing: DEFAULT_TIMING,
  transition: NO_TRANSITION,
  exportSettings: DEFAULT_EXPORT_SETTINGS,
  smallPicture: DEFAULT_SMALL_PICTURE,
  countsWatching: true,
  beds: [],
  undrawableCaptions: [],
  lineCharacters: 37,
  chapterTracks: [],
  captionTracks: [
    {
      id: 'c',
      language: 'en',
      label: '',
      origin: 'script',
      kind: 'captions',
      cues: slides.flatMap((s) =>
        s.keptTakeId
          ? [
              {
                id: `cue ${s.id}`,
                slideId: s.id,
                takeId: s.keptTakeId,
                start: 0,
                end: 1,
                text: 'Some words.',
                markup: null,
                settings: '',
                needsReview: false,
                scriptText: 'Some words.',
                manualEdit: null,
              },
            ]
          : [],
      ),
    },
  ],
  slides,
  ...more,
})
export const bed = { id: 'b', name: 'music', sound: 'music', peaks: '', samples: toSamples(7), loudnessLufs: -20, ...DEFAULT_BED }
