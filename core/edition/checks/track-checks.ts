/** Captions in other languages, or from files, that are not on every slide that has captions: a slide that was recorded again loses them. */

import { publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { charactersNamed } from '#core/words/characters.ts'
import { languageName } from '#core/words/language-name.ts'
import { locale, say } from '#core/words/say.ts'
import type { Check } from './check.ts'

const isShown = (slide: Slide) => (cue: StoredCue) =>
  cue.slideId === slide.id && cue.takeId === (keptTake(slide)?.id ?? null) && cue.text !== ''

const list = (numbers: readonly number[]) =>
  new Intl.ListFormat(locale(), { type: 'unit', style: 'short' }).format(numbers.map(String))

/** How many captions of the original a translation has, and on which slides some are missing. */
function translationGaps(original: CaptionTrack, track: CaptionTrack, shown: readonly Slide[]) {
  const translated = new Set(track.cues.filter((cue) => cue.text !== '').map((cue) => cue.id))
  const bySlide = shown.map((slide) => original.cues.filter(isShown(slide)))
  const all = bySlide.flat()
  const missing = bySlide.flatMap((own, i) => (own.every((cue) => translated.has(cue.id)) ? [] : [i + 1]))
  return { has: all.filter((cue) => translated.has(cue.id)).length, of: all.length, missing, unit: 'captions' as const }
}

/** The same of a track of its own, slide by slide. */
function slideGaps(original: CaptionTrack, track: CaptionTrack, shown: readonly Slide[]) {
  const captioned = shown.flatMap((slide, i) => (original.cues.some(isShown(slide)) ? [{ slide, number: i + 1 }] : []))
  const missing = captioned.filter(({ slide }) => !track.cues.some(isShown(slide))).map(({ number }) => number)
  return { has: captioned.length - missing.length, of: captioned.length, missing, unit: 'slides' as const }
}

/** What is drawn into the picture is there for every learner, and cannot be turned off. */
export function undrawableCaptions({ undrawableCaptions: missing }: Pick<Lecture, 'undrawableCaptions'>): Check[] {
  if (missing.length === 0) return []
  return [
    {
      kind: 'undrawable-captions',
      level: 'look',
      slideId: null,
      slideNumber: null,
      finding: say('Captions in the picture: {count, plural, one {# character} other {# characters}} cannot be drawn: {named}', {
        count: missing.length,
        named: charactersNamed(missing),
      }),
      advice: say(
        'Write them otherwise, or leave captions out of the picture: those beside the video are drawn by each learner’s own device',
      ),
    },
  ]
}

/** @param shown slides that are published, in order */
export function trackChecks(lecture: Lecture, shown: readonly Slide[]): Check[] {
  const original = lecture.captionTracks.find((track) => track.origin === 'script')
  if (!original) return []
  const published = new Set(publishedTracks(lecture))
  return lecture.captionTracks.flatMap((track): Check[] => {
    if (track === original || !published.has(track)) return []
    const { has, of, missing, unit } = (track.origin === 'translation' ? translationGaps : slideGaps)(original, track, shown)
    if (missing.length === 0) return []
    const earlier = missing.filter((number) => track.cues.some((cue) => cue.slideId === shown[number - 1]!.id && cue.text !== ''))
    const why =
      earlier.length > 0 && track.origin !== 'translation'
        ? say(
            '{count, plural, one {Those of slide {slides} belong} other {Those of slides {slides} belong}} to an earlier recording; attach them again, or keep that recording',
            { count: earlier.length, slides: list(earlier) },
          )
        : say('Fill in what is missing, or delete this track')
    return [
      {
        kind: 'captions-missing',
        level: 'look',
        slideId: null,
        slideNumber: null,
        finding: say(unit === 'captions' ? '{language}: {has} of {of} captions' : '{language}: {has} of {of} slides', {
          language: languageName(track.language),
          has,
          of,
        }),
        advice: `${say('{count, plural, one {Nothing of it is shown on slide {slides}.} other {Nothing of it is shown on slides {slides}.}}', { count: missing.length, slides: list(missing) })} ${why}`,
      },
    ]
  })
}
