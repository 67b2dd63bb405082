/** Who speaks, where it is somebody else: told in the captions. */
import { escapeCueText, speakerOf, spokenBy } from '#core/captions/formats/webvtt/cue-text.ts'
import { type BreakOptions, breakLines } from '#core/captions/generate/break-lines.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { LectureCue } from './place-cues.ts'

/**
 * @param cues of a track, in order
 * @returns the same: those of somebody else's recording say in their tags who speaks, and the first after another speaker also in words, with a
 *   name and a colon (common practice, no published source). A name that somebody gave a caption stays.
 */
export function withSpeakers(lecture: Pick<Lecture, 'slides'>, cues: readonly LectureCue[], options: BreakOptions): LectureCue[] {
  const speakers = new Map(lecture.slides.map((slide) => [slide.id, keptTake(slide)?.speaker ?? null]))
  let before: string | null = null
  return cues.map((cue) => {
    const { markup } = cue
    const speaker = markup && speakerOf(markup) ? null : (speakers.get(cue.slideId) ?? null)
    const isNew = speaker !== null && speaker !== before
    before = speaker
    if (speaker === null) return cue
    if (!isNew) return { ...cue, markup: markup ?? spokenBy(speaker, cue.text) }
    const text = breakLines(`${speaker}: ${cue.text.replaceAll('\n', ' ')}`, options)
    return { ...cue, text, markup: markup ? `${escapeCueText(speaker)}: ${markup}` : spokenBy(speaker, text) }
  })
}
