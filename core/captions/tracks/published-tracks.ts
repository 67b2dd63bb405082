/** Which caption tracks viewers get. */
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { filmCuesOnLecture, hasFilmCaptions } from './film-cues.ts'
import { cuesOnLecture, type LectureCue } from './place-cues.ts'
import { withSpeakers } from './speakers.ts'

/**
 * One track a language: a file that somebody attached stands before what the scripts made.
 *
 * @returns tracks that have cues, of their own or of a film, the lecture's own language first
 */
export function publishedTracks(lecture: Pick<Lecture, 'captionTracks' | 'language' | 'slides'>): CaptionTrack[] {
  const byLanguage = new Map<string, CaptionTrack>()
  const isEmpty = (track: CaptionTrack) => track.cues.every((cue) => cue.text === '')
  for (const track of lecture.captionTracks) {
    if (isEmpty(track)) continue
    if (!byLanguage.has(track.language) || track.origin === 'file') byLanguage.set(track.language, track)
  }
  // one that has nothing of its own is there for what is said in films
  for (const track of lecture.captionTracks)
    if (!byLanguage.has(track.language) && hasFilmCaptions(lecture, track.language)) byLanguage.set(track.language, track)
  return [...byLanguage.values()].sort(
    (a, b) => Number(b.language === lecture.language) - Number(a.language === lecture.language),
  )
}

/** @returns what viewers read in a track, in order: its own captions, and in its language those of films; where somebody else speaks, it is said who */
export function publishedCues(lecture: Lecture, track: CaptionTrack): LectureCue[] {
  const own = cuesOnLecture(lecture, track.cues)
  const options = { language: track.language, lineCharacters: lecture.lineCharacters }
  return [...withSpeakers(lecture, own, options), ...filmCuesOnLecture(lecture, track.language)].sort((a, b) => a.start - b.start)
}

/** The captions that are drawn into the picture; undefined where none are. */
export const burnedInTrack = (lecture: Pick<Lecture, 'captionTracks' | 'language' | 'slides' | 'exportSettings'>) =>
  publishedTracks(lecture).find((track) => track.language === lecture.exportSettings.burnedIn)
