/** What is shown and heard when: everything the encoder needs, and nothing it has to work out. */
import { PRE_ROLL_SAMPLES } from '#core/audio/mix/mix.ts'
import { type BedPortion, bedPortion, type PlacedBed, placeBed } from '#core/audio/mix/music-bed.ts'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { burnedInTrack, publishedCues } from '#core/captions/tracks/published-tracks.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Question } from '#core/model/question.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide } from '#core/model/slide.ts'
import { takeSeconds, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { filmsRunningOn } from '#core/timing/films.ts'
import { type Schedule, schedule } from '#core/timing/schedule.ts'
import type { ScheduledSlide, ScheduledTransition } from '#core/timing/scheduled.ts'
import { stepStarts } from '#core/timing/steps.ts'
import { timeMap } from '#core/timing/time-map.ts'
import { type FrozenFilm, filmRunningOn, frozenFilms, type PlannedFilm, placedFilms, plannedFilms } from './films.ts'
import { footageOfSlides } from './footage.ts'

export interface PictureSpan {
  /** Content name. */
  picture: string
  /** Caption that is drawn into it; absent for none. */
  caption?: string
  /** Sample of the slide from which on it is seen. */
  atSamples: number
}

export interface PlannedSlide {
  slideId: string
  title: string
  altText: string
  /** Heading of the section that it begins among the slides that are shown; '' where none does. */
  section: string
  startSamples: number
  /** A multiple of 1024. */
  lengthSamples: number
  /** Pictures in turn; the first from the slide's first frame on. */
  pictures: PictureSpan[]
  thumbnail: string
  /** What its head changes from, and how; null for a plain cut. */
  transition: (ScheduledTransition & { from: string; films?: FrozenFilm[] }) | null
  /** What is heard, and from which sample of the slide on; null for a silent slide. */
  sound: { clip: string; atSamples: number; samples: number } | null
  /** What moves on it; absent for none. */
  films?: PlannedFilm[]
  /** Beds and films that are heard on it, counted from `PRE_ROLL_SAMPLES` before its first sample. */
  beds: BedPortion[]
  /** Places in what is said, samples of the slide, in order. */
  bookmarks: { atSamples: number; title: string }[]
  /** What is asked after it; absent for nothing. */
  questions?: Question[]
}

export interface EditionPlan {
  title: string
  language: string
  slides: PlannedSlide[]
  lengthSamples: number
}

/** Where somebody speaks, in lecture samples, in order. */
export function lectureSpeech(lecture: Pick<Lecture, 'slides'>, times: Schedule): SampleRange[] {
  const owners = new Map(lecture.slides.map((slide) => [slide.id, slide]))
  return times.slides.flatMap((scheduled) => {
    const take = keptTake(owners.get(scheduled.slideId)!)
    if (!take?.tidyUp || !take.analysis || scheduled.clipSamples === 0) return []
    const map = timeMap(take.tidyUp, toSeconds(scheduled.leadSamples))
    return take.analysis.speech.flatMap((s) => {
      const span = map.spanToSlide(takeSeconds(toSeconds(s.start)), takeSeconds(toSeconds(s.end)))
      if (!span || span.end <= span.start) return []
      return { start: scheduled.startSamples + toSamples(span.start), end: scheduled.startSamples + toSamples(span.end) }
    })
  })
}

/** The shown slides that a bed covers: from one of its ends to the other, wherever they stand now. */
export function bedRun(
  lecture: Pick<Lecture, 'slides'>,
  bed: { fromSlideId: string; toSlideId: string },
  times: Schedule,
): { first: number; last: number } | null {
  const ends = [bed.fromSlideId, bed.toSlideId].map((id) => lecture.slides.findIndex((s) => s.id === id)).filter((i) => i >= 0)
  if (ends.length === 0) return null
  const [from, to] = [Math.min(...ends), Math.max(...ends)]
  const covered = times.slides.flatMap((s, i) => {
    const place = lecture.slides.findIndex((slide) => slide.id === s.slideId)
    return place >= from && place <= to ? [i] : []
  })
  return covered.length === 0 ? null : { first: covered[0]!, last: covered.at(-1)! }
}

/** All beds of a lecture on its clock, and the sounds of its films. */
export function placedBeds(lecture: Pick<Lecture, 'slides' | 'beds'>, times: Schedule): PlacedBed[] {
  let known: SampleRange[] | null = null
  const speechOf = () => {
    known ??= lectureSpeech(lecture, times)
    return known
  }
  const films = placedFilms(lecture, times, speechOf)
  if (lecture.beds.length === 0) return films
  const speech = speechOf()
  const beds = lecture.beds.flatMap((bed) => {
    const run = bedRun(lecture, bed, times)
    if (!run) return []
    const last = times.slides[run.last]!
    const stretch = { start: times.slides[run.first]!.startSamples, end: last.startSamples + last.lengthSamples }
    return placeBed(bed, stretch, speech) ?? []
  })
  return [...beds, ...films]
}

/** @returns what is seen last on a slide @param films all that moves on it */
function lastSeen(slide: Slide, films: readonly PlannedFilm[], { lengthSamples }: ScheduledSlide) {
  const from = slide.steps.at(-1)!.picture
  const frozen: FrozenFilm[] = frozenFilms(films, lengthSamples - 1)
  return frozen.length > 0 ? { from, films: frozen } : { from }
}

/** All that moves on each shown slide: films that run on over it, under its own films, and over them what was recorded by screen and camera. */
function movingOf(lecture: Pick<Lecture, 'slides' | 'smallPicture'>, slides: readonly Slide[], times: Schedule): PlannedFilm[][] {
  const footage = footageOfSlides(lecture, times)
  const runningOn = filmsRunningOn(slides, times.slides)
  return slides.map((slide, i) => {
    const scheduled = times.slides[i]!
    const others = runningOn[i]!.flatMap((one) => filmRunningOn(slides[one.ownSlide]!, one))
    return [...others, ...plannedFilms(slide, scheduled, startsOf(slide, scheduled)), ...footage[i]!]
  })
}

/** What a slide shows, its films and demonstrations as well, for those who cannot see it. */
function describedWith(slide: Slide): string {
  const films = slide.steps.flatMap((step) => step.films)
  const seen = keptTake(slide)?.footage.filter((cut) => !cut.isLeftOut) ?? []
  const shown = new Map(seen.map(({ footage }) => [footage.id, footage]))
  return [slide.altText, ...[...films, ...shown.values()].map(({ description }) => description.trim())]
    .filter((one) => one !== '')
    .join(' ')
}

/** When each of a slide's pictures comes, samples. */
const startsOf = (slide: Slide, scheduled: ScheduledSlide) => stepStarts(slide, scheduled).map(({ at }) => toSamples(at))

/** The kept take's bookmarks on the slide's clock; one in what was cut out comes with what is heard next. */
function heardBookmarks(slide: Slide, scheduled: ScheduledSlide): PlannedSlide['bookmarks'] {
  const take = keptTake(slide)
  if (!take?.tidyUp || scheduled.clipSamples === 0) return []
  const map = timeMap(take.tidyUp, toSeconds(scheduled.leadSamples))
  return take.bookmarks
    .flatMap(({ at, title }) => {
      const heard = map.spanToSlide(takeSeconds(at), takeSeconds(Number.MAX_SAFE_INTEGER))
      return heard === null ? [] : [{ atSamples: toSamples(heard.start), title }]
    })
    .sort((a, b) => a.atSamples - b.atSamples)
}

/**
 * Pictures in turn with captions drawn into them: a new span wherever picture or caption change.
 *
 * @param cues samples of the slide, in order; where some overlap they stand under one another
 * @returns spans in order, the first from sample 0 on
 */
export function captionedSpans(
  pictures: readonly PictureSpan[],
  cues: readonly { start: number; end: number; text: string }[],
  lengthSamples: number,
): PictureSpan[] {
  const moments = [0, ...pictures.map((p) => p.atSamples), ...cues.flatMap((cue) => [cue.start, cue.end])]
  const spans: PictureSpan[] = []
  for (const at of [...new Set(moments)].sort((a, b) => a - b)) {
    if (at >= lengthSamples) break
    const { picture } = pictures.findLast((p) => p.atSamples <= at) ?? pictures[0]!
    const caption = cues
      .filter((cue) => cue.start <= at && cue.end > at)
      .map((cue) => cue.text)
      .join('\n')
    const last = spans.at(-1)
    if (last?.picture === picture && (last.caption ?? '') === caption) continue
    spans.push(caption ? { picture, caption, atSamples: at } : { picture, atSamples: at })
  }
  return spans
}

/** Cues that are drawn into the pictures, samples of each slide. */
function burnedCues(lecture: Lecture, times: Schedule): Map<string, { start: number; end: number; text: string }[]> {
  const track = burnedInTrack(lecture)
  const bySlide = new Map<string, { start: number; end: number; text: string }[]>()
  if (!track) return bySlide
  const starts = new Map(times.slides.map((s) => [s.slideId, s.startSamples]))
  for (const cue of publishedCues(lecture, track)) {
    const from = starts.get(cue.slideId)!
    const own = bySlide.get(cue.slideId) ?? []
    own.push({ start: Math.max(0, toSamples(cue.start) - from), end: toSamples(cue.end) - from, text: cue.text })
    bySlide.set(cue.slideId, own)
  }
  return bySlide
}

/** The section that each shown slide begins: one whose first slide is hidden begins with the next that is shown. */
function shownSections(slides: Lecture['slides']): Map<string, string> {
  const sections = new Map<string, string>()
  let begun = ''
  for (const slide of slides) {
    begun = slide.section || begun
    if (slide.hidden || begun === '') continue
    sections.set(slide.id, begun)
    begun = ''
  }
  return sections
}

/**
 * The plan of an edition.
 *
 * @throws Error with a sentence when no slide would be shown
 */
export function plan(lecture: Lecture): EditionPlan {
  const times = schedule(lecture)
  const owners = new Map(lecture.slides.map((slide) => [slide.id, slide]))
  const beds = placedBeds(lecture, times)
  const burned = burnedCues(lecture, times)
  const sections = shownSections(lecture.slides)
  const owned = times.slides.map((scheduled) => owners.get(scheduled.slideId)!)
  const moving = movingOf(lecture, owned, times)
  const slides = times.slides.map((scheduled, i): PlannedSlide => {
    const slide = owned[i]!
    const before = times.slides[i - 1]
    const clip = scheduled.clipSamples > 0 ? keptTake(slide)?.clip : null
    const starts = startsOf(slide, scheduled)
    const from = scheduled.startSamples - PRE_ROLL_SAMPLES
    const pictures = slide.steps.map((step, s) => ({ picture: step.picture, atSamples: starts[s]! }))
    const cues = burned.get(slide.id)
    const films = moving[i]!
    return {
      slideId: slide.id,
      title: slide.title,
      altText: describedWith(slide),
      section: sections.get(slide.id) ?? '',
      startSamples: scheduled.startSamples,
      lengthSamples: scheduled.lengthSamples,
      pictures: cues ? captionedSpans(pictures, cues, scheduled.lengthSamples) : pictures,
      thumbnail: slide.steps.at(-1)!.thumbnail,
      transition:
        scheduled.transition && before ? { ...scheduled.transition, ...lastSeen(owned[i - 1]!, moving[i - 1]!, before) } : null,
      ...(films.length > 0 ? { films } : {}),
      sound: clip ? { clip: clip.sound, atSamples: scheduled.leadSamples, samples: clip.samples } : null,
      beds: beds.flatMap((bed) => bedPortion(bed, from, scheduled.startSamples + scheduled.lengthSamples) ?? []),
      bookmarks: heardBookmarks(slide, scheduled),
      ...(slide.questions.length > 0 ? { questions: slide.questions } : {}),
    }
  })
  if (slides.length === 0) throw new Error('There is no slide to show. Add a deck, or show a hidden slide, and publish again.')
  return { title: lecture.title, language: lecture.language, slides, lengthSamples: times.lengthSamples }
}

/** What of a slide's captions makes an edition another one: each cue's track, text and place. */
export function slideCaptions(lecture: Pick<Lecture, 'captionTracks' | 'slides'>, slideId: string): string[] {
  const films = lecture.slides.find(({ id }) => id === slideId)?.steps.flatMap((step) => step.films) ?? []
  const ofFilms = films.flatMap((film) =>
    film.captions.flatMap(({ language, cues }) =>
      cues.map((cue) => `${language} film ${film.id} ${cue.start} ${cue.end} ${cue.text}`),
    ),
  )
  const ofTracks = lecture.captionTracks.flatMap((track) =>
    track.cues
      .filter((cue) => cue.slideId === slideId)
      .map((cue) => `${track.language} ${cue.takeId} ${cue.start} ${cue.end} ${cue.text}`),
  )
  return [...ofTracks, ...ofFilms]
}

/** A number for what a value says, the same for the same JSON. */
function fingerprint(value: unknown): number {
  const units = Uint16Array.from(JSON.stringify(value), (character) => character.charCodeAt(0))
  return crc32(new Uint8Array(units.buffer))
}

/** A number that changes when anything of a lecture that learners get does and no slide has: its name, its kinds of video, its crest, its tracks. */
export function settingsFingerprint({
  title,
  language,
  exportSettings,
  captionTracks,
  chapterTracks,
}: Pick<Lecture, 'title' | 'language' | 'exportSettings' | 'captionTracks' | 'chapterTracks'>): number {
  const named = captionTracks.map((track) => [track.language, track.label, track.kind, track.cues.length > 0])
  const chapters = chapterTracks.map(({ language: of, cues }) => [of, cues.map(({ start, end, text }) => [start, end, text])])
  return fingerprint([title, language, exportSettings, named, chapters])
}

/** A number that changes when anything of a slide that learners see or hear does: tells what changed since an edition. */
export function slideFingerprint(
  { startSamples: _, thumbnail: __, bookmarks, ...seen }: PlannedSlide,
  captions: readonly string[],
): number {
  return fingerprint([seen, captions, ...(bookmarks.length > 0 ? [bookmarks] : [])])
}
