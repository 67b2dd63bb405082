/** Edits as data: what is done, what takes it back, and how each is said to the server and shown at once. */
import type { BedSettings } from '#core/model/bed.ts'
import type { CaptionKind, CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Bookmark } from '#core/model/marks.ts'
import type { FilmSettings } from '#core/model/moving/film.ts'
import type { Slide } from '#core/model/slide.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { ask, client, type LinkChange } from './api.ts'

export type SlideChange = Partial<
  Pick<
    Slide,
    | 'title'
    | 'altText'
    | 'isAltTextDraft'
    | 'script'
    | 'language'
    | 'hidden'
    | 'keptTakeId'
    | 'timing'
    | 'transition'
    | 'smallPicture'
    | 'card'
    | 'warnings'
    | 'section'
    | 'questions'
  >
>
/** Which pictures a slide has, in order; `deleted` when all of them went to another slide. */
export interface Arranged {
  id: string
  steps: string[]
  deleted: boolean
}

/** What a caption is in another language, and what was translated. */
export interface Translated {
  cueId: string
  text: string
  original: string
}

export type Command =
  | { kind: 'slide'; id: string; change: SlideChange; was?: Partial<Record<'title' | 'altText' | 'script', string>> }
  | { kind: 'slide-deleted'; id: string; deleted: boolean }
  | { kind: 'order'; order: string[] }
  | { kind: 'take-deleted'; id: string; deleted: boolean }
  | { kind: 'tidyUp'; takeId: string; tidyUp: TidyUp }
  | {
      kind: 'lecture'
      change: Partial<
        Pick<
          Lecture,
          'title' | 'language' | 'timing' | 'transition' | 'exportSettings' | 'smallPicture' | 'countsWatching' | 'lineCharacters'
        >
      >
      was?: { title?: string }
    }
  | { kind: 'steps'; slides: Arranged[] }
  | { kind: 'step-moments'; takeId: string; moments: Record<string, number> }
  | { kind: 'bookmarks'; takeId: string; bookmarks: Bookmark[] }
  | { kind: 'film'; id: string; change: Partial<FilmSettings> }
  | { kind: 'film-deleted'; id: string; deleted: boolean }
  | { kind: 'bed'; id: string; change: Partial<BedSettings> }
  | { kind: 'bed-deleted'; id: string; deleted: boolean }
  | { kind: 'footage'; id: string; description: string }
  | { kind: 'footage-shown'; takeId: string; footageId: string; isShown: boolean }
  | { kind: 'lecture-deleted'; deleted: boolean }
  | { kind: 'edition-deleted'; id: string; deleted: boolean }
  | { kind: 'link'; token: string; change: LinkChange }
  | { kind: 'captions-deleted'; trackId: string; deleted: boolean }
  | { kind: 'captions'; trackId: string; slideId: string; cues: StoredCue[] }
  | { kind: 'caption-track'; trackId: string; change: Partial<Pick<CaptionTrack, 'label' | 'language'> & { kind: CaptionKind }> }
  | { kind: 'translations'; trackId: string; translated: Translated[] }

/** One step that can be undone: commands in order, and those that take it back, in their order. */
export interface Edit {
  lectureId: string
  /** As it is read after "Undone:", such as "script of slide 3". */
  label: string
  forth: Command[]
  back: Command[]
}

const TEXTS = ['title', 'altText', 'script'] as const

/**
 * The same commands, which the server refuses when the text that is changed is not the one it was made from.
 *
 * @param text as it is to be: what else the commands change is not looked at
 * @param before the text it was made from
 */
export const madeFrom = (commands: readonly Command[], text: string, before: string): Command[] =>
  commands.map((command) => {
    if (command.kind !== 'slide' && command.kind !== 'lecture') return command
    const change = command.change as Record<string, unknown>
    const was = Object.fromEntries(TEXTS.flatMap((field) => (change[field] === text ? [[field, before]] : [])))
    return { ...command, was } as Command
  })

/** Says a command to the server. @throws Problem */
export function send(lectureId: string, command: Command): Promise<unknown> {
  const deleted = (value: boolean) => ({ json: { deleted: value } })
  switch (command.kind) {
    case 'slide':
      return ask(client.slides[':id'].$patch({ param: { id: command.id }, json: { ...command.change, was: command.was } }))
    case 'slide-deleted':
      return ask(client.slides[':id'].deleted.$put({ param: { id: command.id }, ...deleted(command.deleted) }))
    case 'order':
      return ask(client.lectures[':id'].order.$put({ param: { id: lectureId }, json: { order: command.order } }))
    case 'take-deleted':
      return ask(client.takes[':id'].deleted.$put({ param: { id: command.id }, ...deleted(command.deleted) }))
    case 'tidyUp':
      return ask(client.takes[':id'].tidyUp.$put({ param: { id: command.takeId }, json: command.tidyUp }))
    case 'lecture':
      return ask(client.lectures[':id'].$patch({ param: { id: lectureId }, json: { ...command.change, was: command.was } }))
    case 'steps':
      return ask(client.slides.steps.$put({ json: { slides: command.slides } }))
    case 'step-moments':
      return ask(client.takes[':id'].stepMoments.$put({ param: { id: command.takeId }, json: command.moments }))
    case 'bookmarks':
      return ask(client.takes[':id'].bookmarks.$put({ param: { id: command.takeId }, json: { bookmarks: command.bookmarks } }))
    case 'film':
      return ask(client.films[':id'].$patch({ param: { id: command.id }, json: command.change }))
    case 'film-deleted':
      return ask(client.films[':id'].deleted.$put({ param: { id: command.id }, ...deleted(command.deleted) }))
    case 'footage':
      return ask(client.footage[':id'].$patch({ param: { id: command.id }, json: { description: command.description } }))
    case 'footage-shown': {
      const param = { id: command.takeId, footageId: command.footageId }
      return ask(client.takes[':id'].footage[':footageId'].shown.$put({ param, json: { isShown: command.isShown } }))
    }
    case 'bed':
      return ask(client.beds[':id'].$patch({ param: { id: command.id }, json: command.change }))
    case 'bed-deleted':
      return ask(client.beds[':id'].deleted.$put({ param: { id: command.id }, ...deleted(command.deleted) }))
    case 'lecture-deleted':
      return ask(client.lectures[':id'].deleted.$put({ param: { id: lectureId }, ...deleted(command.deleted) }))
    case 'edition-deleted':
      return ask(client.editions[':id'].deleted.$put({ param: { id: command.id }, ...deleted(command.deleted) }))
    case 'link':
      return ask(client.links[':token'].$patch({ param: { token: command.token }, json: command.change }))
    case 'captions-deleted':
      return ask(client.captions[':id'].deleted.$put({ param: { id: command.trackId }, ...deleted(command.deleted) }))
    case 'captions': {
      const cues = command.cues.map(({ slideId: _, ...cue }) => cue)
      const param = { id: command.trackId, slideId: command.slideId }
      return ask(client.captions[':id'].slides[':slideId'].$put({ param, json: { cues } }))
    }
    case 'caption-track':
      return ask(client.captions[':id'].$patch({ param: { id: command.trackId }, json: command.change }))
    case 'translations': {
      const { translated } = command
      return ask(client.captions[':id'].translations.$put({ param: { id: command.trackId }, json: { translated } }))
    }
  }
}

/** Pictures go from slide to slide; a slide without any goes. */
function arrangeSteps(lecture: Lecture, arrangement: readonly Arranged[]) {
  const steps = new Map(lecture.slides.flatMap((slide) => slide.steps.map((step) => [step.id, step])))
  const gone = new Set(arrangement.filter((s) => s.deleted).map((s) => s.id))
  for (const arranged of arrangement) {
    const slide = lecture.slides.find((s) => s.id === arranged.id)
    const known = arranged.steps.flatMap((id) => steps.get(id) ?? [])
    // a picture that only the server knows yet comes with its answer
    if (slide && known.length === arranged.steps.length && known.length > 0) slide.steps = known
  }
  lecture.slides = lecture.slides.filter((slide) => !gone.has(slide.id))
}

/** A translation has the captions of the script that it has a text for. */
function translate(lecture: Lecture, trackId: string, translated: readonly Translated[]) {
  const track = lecture.captionTracks.find((t) => t.id === trackId)
  const original = lecture.captionTracks.find((t) => t.origin === 'script')
  if (!track || !original) return
  const texts = new Map([
    ...track.cues.map((cue) => [cue.id, cue.text] as const),
    ...translated.map((t) => [t.cueId, t.text] as const),
  ])
  track.cues = original.cues.flatMap((cue) =>
    texts.get(cue.id) ? [{ ...cue, text: texts.get(cue.id)!, needsReview: false }] : [],
  )
}

/** Every part of a footage that a lecture's takes have. */
const cutsOf = (lecture: Lecture) => lecture.slides.flatMap((slide) => slide.takes.flatMap((take) => take.footage))

/** What moves on slides: films, and what screen and camera recorded. */
function applyToMoving(
  lecture: Lecture,
  command: Extract<Command, { kind: 'film' | 'film-deleted' | 'footage' | 'footage-shown' }>,
) {
  switch (command.kind) {
    case 'film':
      for (const film of lecture.slides.flatMap((slide) => slide.steps.flatMap((step) => step.films)))
        if (film.id === command.id) Object.assign(film, command.change)
      break
    case 'film-deleted':
      if (command.deleted)
        for (const step of lecture.slides.flatMap((slide) => slide.steps))
          step.films = step.films.filter((film) => film.id !== command.id)
      break
    case 'footage':
      for (const cut of cutsOf(lecture)) if (cut.footageId === command.id) cut.footage.description = command.description
      break
    case 'footage-shown':
      for (const take of lecture.slides.flatMap((slide) => slide.takes))
        if (take.id === command.takeId)
          take.footage = take.footage.map(({ isLeftOut: _, ...cut }) =>
            cut.footageId === command.footageId && !command.isShown ? { ...cut, isLeftOut: true } : cut,
          )
      break
  }
}

/** Shows a command at once, before the server has answered. What only the server can work out is left to its answer. */
export function apply(lecture: Lecture, command: Command) {
  switch (command.kind) {
    case 'slide': {
      const slide = lecture.slides.find((s) => s.id === command.id)
      if (slide) Object.assign(slide, command.change)
      break
    }
    case 'slide-deleted':
      if (command.deleted) lecture.slides = lecture.slides.filter((s) => s.id !== command.id)
      break
    case 'order':
      lecture.slides.sort((a, b) => command.order.indexOf(a.id) - command.order.indexOf(b.id))
      break
    case 'take-deleted':
      if (command.deleted) for (const slide of lecture.slides) slide.takes = slide.takes.filter((take) => take.id !== command.id)
      break
    case 'tidyUp':
      for (const slide of lecture.slides) {
        for (const take of slide.takes) if (take.id === command.takeId) take.tidyUp = command.tidyUp
      }
      break
    case 'lecture':
      Object.assign(lecture, command.change)
      break
    case 'steps':
      arrangeSteps(lecture, command.slides)
      break
    case 'step-moments':
      for (const slide of lecture.slides) {
        for (const take of slide.takes) if (take.id === command.takeId) take.stepMoments = command.moments
      }
      break
    case 'bookmarks':
      for (const slide of lecture.slides) {
        for (const take of slide.takes) if (take.id === command.takeId) take.bookmarks = command.bookmarks
      }
      break
    case 'film':
    case 'film-deleted':
    case 'footage':
    case 'footage-shown':
      applyToMoving(lecture, command)
      break
    case 'bed': {
      const bed = lecture.beds.find((b) => b.id === command.id)
      if (bed) Object.assign(bed, command.change)
      break
    }
    case 'bed-deleted':
      if (command.deleted) lecture.beds = lecture.beds.filter((bed) => bed.id !== command.id)
      break
    case 'captions-deleted':
      if (command.deleted) {
        lecture.captionTracks = lecture.captionTracks.filter((track) => track.id !== command.trackId)
        lecture.chapterTracks = lecture.chapterTracks.filter((track) => track.id !== command.trackId)
      }
      break
    case 'captions': {
      const track = lecture.captionTracks.find((t) => t.id === command.trackId)
      if (track) track.cues = [...track.cues.filter((cue) => cue.slideId !== command.slideId), ...command.cues]
      break
    }
    case 'caption-track': {
      const track = lecture.captionTracks.find((t) => t.id === command.trackId)
      if (track) Object.assign(track, command.change)
      break
    }
    case 'translations':
      translate(lecture, command.trackId, command.translated)
      break
    case 'lecture-deleted':
    case 'edition-deleted':
    case 'link':
      break
  }
}
