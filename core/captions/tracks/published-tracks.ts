/** Which caption tracks viewers get. */
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'

/**
 * One track a language: a file that somebody attached stands before what the scripts made.
 *
 * @returns tracks that have cues, the lecture's own language first
 */
export function publishedTracks(lecture: Pick<Lecture, 'captionTracks' | 'language'>): CaptionTrack[] {
  const byLanguage = new Map<string, CaptionTrack>()
  for (const track of lecture.captionTracks) {
    if (track.cues.every((cue) => cue.text === '')) continue
    if (!byLanguage.has(track.language) || track.origin === 'file') byLanguage.set(track.language, track)
  }
  return [...byLanguage.values()].sort(
    (a, b) => Number(b.language === lecture.language) - Number(a.language === lecture.language),
  )
}

/** The captions that are drawn into the picture; undefined where none are. */
export const burnedInTrack = (lecture: Pick<Lecture, 'captionTracks' | 'language' | 'exportSettings'>) =>
  publishedTracks(lecture).find((track) => track.language === lecture.exportSettings.burnedIn)
