/** What was recorded by screen and camera, as it is seen on its slide: it follows the take's tidy-up, cut for cut. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { filmPlace } from '#core/model/moving/film.ts'
import type { FootageKind, TakeFootage } from '#core/model/moving/footage.ts'
import { SMALL_PICTURE_MARGIN, SMALL_PICTURE_SIZES, type SmallPicture, smallPictureOn } from '#core/model/moving/small-picture.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import type { Schedule } from '#core/timing/schedule.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import { ASPECT, type FilmRun, type PlannedFilm } from './films.ts'

const EDITION_SHAPE = { width: ASPECT, height: 1 }
/** Rates are told as fractions of it. */
const PER = 100_000
/** What begins so soon after the voice, or ends so soon before it does, was meant to be there from its beginning, or to its end. */
const ABOUT_S = 0.5

/** A stretch of a take and the sample of its slide at which it begins. */
interface HeardStretch extends SampleRange {
  slideSamples: number
}

/** What of a take is heard, on its slide. */
function heardStretches({ tidyUp }: Pick<Take, 'tidyUp'>, leadSamples: number): HeardStretch[] {
  if (!tidyUp) return []
  let before = 0
  return keptStretches(tidyUp).map((stretch) => {
    const heard = { ...stretch, slideSamples: leadSamples + Math.round(before / tidyUp.tempo) }
    before += stretch.end - stretch.start
    return heard
  })
}

/**
 * Before the first word and after the last one the picture goes on, as far as nobody says what was cut off there: lips that move without a
 * sound would be seen.
 */
function withRests(heard: HeardStretch[], take: Take, scheduled: ScheduledSlide): HeardStretch[] {
  const [first, last] = [heard[0], heard.at(-1)]
  if (!first || !last) return heard
  const { tempo } = take.tidyUp!
  const speech = take.analysis?.speech ?? []
  const saidBefore = Math.max(
    0,
    ...speech.filter(({ start }) => start < first.start).map(({ end }) => Math.min(end, first.start)),
  )
  const saidAfter = Math.min(
    take.samples,
    ...speech.filter(({ end }) => end > last.end).map(({ start }) => Math.max(start, last.end)),
  )
  const lead = Math.min(first.start - saidBefore, Math.floor(first.slideSamples * tempo))
  const ends = last.slideSamples + Math.round((last.end - last.start) / tempo)
  const tail = Math.min(saidAfter - last.end, Math.floor((scheduled.lengthSamples - ends) * tempo))
  const earlier = { ...first, start: first.start - lead, slideSamples: first.slideSamples - Math.round(lead / tempo) }
  const all = [earlier, ...heard.slice(1)]
  all[all.length - 1] = { ...all.at(-1)!, end: last.end + tail }
  return all
}

/** Which frames of a footage are seen while the stretches are heard. */
function runsOf(cuts: readonly TakeFootage[], heard: readonly HeardStretch[], tempo: number): FilmRun[] {
  const [count, per] = cuts[0]!.footage.shown!.rate
  const { frames: most, beginsSeconds = 0 } = cuts[0]!.footage.shown!
  const step = (SAMPLE_RATE * per) / count
  return heard.flatMap((stretch) =>
    cuts.flatMap((cut): FilmRun[] => {
      const [start, end] = [Math.max(stretch.start, cut.start), Math.min(stretch.end, cut.end)]
      const at = (sample: number) => stretch.slideSamples + Math.round((sample - stretch.start) / tempo)
      // the frame that is nearest: half of one too early or too late at most
      const exact = Math.max(0, cut.from + start - cut.start - beginsSeconds * SAMPLE_RATE) / step
      const from = Math.min(most - 1, Math.round(exact))
      const early = Math.min(Math.max(0, 0.5 + exact - from), 1) * step
      const to = Math.min(most, from + Math.ceil((end - start + early) / step - 1e-6))
      if (at(end) <= at(start) || to <= from) return []
      return [{ startSamples: at(start), endSamples: at(end), from, to, earlySamples: Math.round(early / tempo) }]
    }),
  )
}

/** In its corner, a square where it is round. Shares of the edition's picture. */
function smallPlace({ corner, size, edge }: SmallPicture, shown: { width: number; height: number }): PlannedFilm['place'] {
  const height = SMALL_PICTURE_SIZES[size]
  const shape = edge === 'round' ? 1 : Math.min(ASPECT, shown.width / shown.height)
  const width = (height * shape) / ASPECT
  const [beside, above] = [SMALL_PICTURE_MARGIN / ASPECT, SMALL_PICTURE_MARGIN]
  return {
    x: corner.endsWith('left') ? beside : 1 - width - beside,
    y: corner.startsWith('top') ? above : 1 - height - above,
    width,
    height,
  }
}

const isSeen = ({ footage, isLeftOut }: TakeFootage, kind: FootageKind) =>
  footage.kind === kind && footage.shown !== null && !isLeftOut

/** What a screen showed: from where it was shared to where one went back to the slide. */
function screens(take: Take, scheduled: ScheduledSlide): PlannedFilm[] {
  const heard = heardStretches(take, scheduled.leadSamples)
  const [first, last] = [heard[0], heard.at(-1)]
  if (!first || !last) return []
  const { tempo } = take.tidyUp!
  return take.footage
    .filter((cut) => isSeen(cut, 'screen'))
    .flatMap((cut, i) => {
      const runs = runsOf([cut], heard, tempo)
      if (runs.length === 0) return []
      const beginsWithIt = cut.start <= first.start + toSamples(ABOUT_S)
      const staysToEnd = cut.end >= last.end - toSamples(ABOUT_S)
      const film = filmOf(`${cut.footageId} ${i}`, cut, runs, tempo)
      return [
        {
          ...film,
          place: filmPlace({ place: null, shown: cut.footage.shown }, EDITION_SHAPE),
          seenSamples: beginsWithIt ? 0 : film.startSamples,
          stays: staysToEnd,
        },
      ]
    })
}

function filmOf(filmId: string, { footage }: TakeFootage, runs: FilmRun[], tempo: number): Omit<PlannedFilm, 'place'> {
  const shown = footage.shown!
  const [count, per] = shown.rate
  return {
    filmId,
    proxy: shown.proxy,
    rate: tempo === 1 ? shown.rate : [Math.round((count / per) * tempo * PER), PER],
    ...(tempo === 1 ? {} : { fileRate: shown.rate }),
    from: runs[0]!.from,
    to: Math.max(...runs.map((run) => run.to)),
    frames: shown.frames,
    seenSamples: runs[0]!.startSamples,
    startSamples: runs[0]!.startSamples,
    endSamples: Math.max(...runs.map((run) => run.endSamples)),
    stays: true,
    isMuted: true,
    runs,
  }
}

/** The teacher, from the slide's first moment to its last; where nobody recorded the picture stays. */
function smallPictures(take: Take, scheduled: ScheduledSlide, settings: SmallPicture): PlannedFilm[] {
  const heard = withRests(heardStretches(take, scheduled.leadSamples), take, scheduled)
  // what a camera saw comes that much later in its footage
  const late = Math.round((settings.lateMs * SAMPLE_RATE) / 1000)
  const cuts = take.footage.filter((cut) => isSeen(cut, 'camera')).map((cut) => ({ ...cut, from: cut.from + late }))
  const films: PlannedFilm[] = []
  // one for each footage in a row: the same one before and after what was said again is three
  for (let i = 0; i < cuts.length; ) {
    let end = i + 1
    while (end < cuts.length && cuts[end]!.footageId === cuts[i]!.footageId) end++
    const own = cuts.slice(i, end)
    const runs = runsOf(own, heard, take.tidyUp!.tempo)
    if (runs.length > 0)
      films.push({
        ...filmOf(`${own[0]!.footageId} ${i}`, own[0]!, runs, take.tidyUp!.tempo),
        place: smallPlace(settings, own[0]!.footage.shown!),
        edge: settings.edge,
        ...(settings.isMirrored ? { isMirrored: true } : {}),
      })
    i = end
  }
  if (films[0]) films[0].seenSamples = 0
  // the last picture of one stays until the next one's first
  return films
}

/** @returns of each shown slide, in order, what was recorded by screen and camera with its kept take */
export function footageOfSlides(lecture: Pick<Lecture, 'slides' | 'smallPicture'>, times: Schedule): PlannedFilm[][] {
  const owners = new Map(lecture.slides.map((slide) => [slide.id, slide]))
  return times.slides.map((scheduled, index) => {
    const slide = owners.get(scheduled.slideId)!
    const small = smallPictureOn(lecture.smallPicture, slide.smallPicture, { index, count: times.slides.length })
    return plannedFootage(slide, scheduled, small)
  })
}

/** The screen first, so that the teacher is seen over it. @param small how the teacher's picture is shown on it; null where it is not */
function plannedFootage(slide: Slide, scheduled: ScheduledSlide, small: SmallPicture | null): PlannedFilm[] {
  const take = keptTake(slide)
  if (!take?.tidyUp || scheduled.clipSamples === 0 || (take.footage ?? []).length === 0) return []
  return [...screens(take, scheduled), ...(small ? smallPictures(take, scheduled, small) : [])]
}
