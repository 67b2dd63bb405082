/** What is to be found fault with in what moves on a slide: films, demonstrations, the small picture. */

import { captionsFor } from '#core/captions/tracks/film-cues.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Film } from '#core/model/moving/film.ts'
import type { TakeFootage } from '#core/model/moving/footage.ts'
import { smallPictureOn } from '#core/model/moving/small-picture.ts'
import type { Slide } from '#core/model/slide.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import type { Finding } from './check.ts'

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`

/** Flashes in what is shown of it, where there are too many. @see WCAG 2.2, success criterion 2.3.1 */
function flashes(film: Film, n: number): Finding[] {
  const { fromSeconds, toSeconds } = film
  const seen = (film.shown?.flashes ?? []).filter(
    ({ start, end }) => end > fromSeconds && start < (toSeconds ?? Number.POSITIVE_INFINITY),
  )
  if (seen.length === 0) return []
  return [
    {
      kind: 'film-flashes',
      level: 'look',
      finding: say('The film “{name}” on slide {slide} flashes more than three times in a second', { name: film.name, slide: n }),
      advice: say('This can bring on seizures (first at {at}). Leave that stretch out, or take the film away', {
        at: clock(seen[0]!.start),
      }),
    },
  ]
}

/** What is said in it must be there to read. */
function captions(lecture: Pick<Lecture, 'captionTracks'>, slide: Slide, film: Film, n: number): Finding[] {
  if (film.isMuted || film.shown?.sound == null || !film.isSpoken) return []
  const languages = lecture.captionTracks.map((track) => track.language)
  if (languages.some((language) => captionsFor(film, language))) return []
  const [unshown] = film.captions
  if (unshown)
    return [
      {
        kind: 'film-captions',
        level: 'look',
        finding: say('The captions of the film “{name}” on slide {slide} are in {language}, and the lecture has none in it', {
          name: film.name,
          slide: n,
          language: languageName(unshown.language),
        }),
        advice: say('Begin captions in that language on the captions page, or attach a file in the lecture’s own'),
      },
    ]
  const isSilent = keptTake(slide) === null
  const captioned = lecture.captionTracks.some((track) =>
    track.cues.some((cue) => cue.slideId === slide.id && cue.takeId === null && cue.text !== ''),
  )
  if (isSilent && captioned) return []
  return [
    {
      kind: 'film-captions',
      level: 'look',
      finding: say('What is heard in the film “{name}” on slide {slide} has no captions', { name: film.name, slide: n }),
      advice: say('Attach its caption file to it on the slide’s bench, or say that nobody speaks in it'),
      fix: { label: say('Nobody speaks in it'), film: { id: film.id, change: { isSpoken: false } } },
    },
  ]
}

/** What of a footage is seen on its slide, seconds of it. */
const seenOf = ({ from, start, end }: TakeFootage) => ({ start: toSeconds(from), end: toSeconds(from + end - start) })

/** What of screen and camera is seen with the take that is kept. */
function footageFindings(slide: Slide, n: number, isTeacherSeen: boolean): Finding[] {
  const cuts = (keptTake(slide)?.footage ?? []).filter(
    ({ footage, isLeftOut }) => !isLeftOut && (footage.kind === 'screen' || isTeacherSeen),
  )
  const each = new Map(cuts.map(({ footage }) => [footage.id, footage]))
  const found = [...each.values()].flatMap((footage): Finding[] => {
    const isScreen = footage.kind === 'screen'
    if (footage.shown === null)
      return [
        {
          kind: 'film-missing',
          level: 'missing',
          finding: isScreen
            ? say('The demonstration on slide {slide} is not shown', { slide: n })
            : say('The small picture on slide {slide} is not shown', { slide: n }),
          advice: footage.problem ? say(footage.problem) : say('It is being made ready'),
        },
      ]
    const seen = cuts.filter((cut) => cut.footageId === footage.id).map(seenOf)
    const flash = footage.shown.flashes.find(({ start, end }) => seen.some((part) => end > part.start && start < part.end))
    const flashes: Finding = {
      kind: 'film-flashes',
      level: 'look',
      finding: say('What was filmed with slide {slide} flashes more than three times in a second', { slide: n }),
      advice: say('This can bring on seizures (first at {at}). Cut that stretch out, or leave the picture away', {
        at: clock(flash?.start ?? 0),
      }),
    }
    const practice: Finding = {
      kind: 'practice-picture',
      level: 'missing',
      finding: isScreen
        ? say('Slide {slide} shows the practice screen', { slide: n })
        : say('Slide {slide} shows the practice camera', { slide: n }),
      advice: say('It is there for trying things out: record the slide anew, or leave the picture out'),
    }
    const undescribed: Finding = {
      kind: 'film-description',
      level: 'look',
      finding: say('The demonstration on slide {slide} is not described', { slide: n }),
      advice: say('Say what it shows, and the words that are seen in it, for those who cannot see it'),
    }
    return [
      ...(footage.isPractice ? [practice] : []),
      ...(flash ? [flashes] : []),
      ...(isScreen && footage.description.trim() === '' ? [undescribed] : []),
    ]
  })
  // a screen that was shown again is another footage, and the same thing to do
  return [...new Map(found.map((one) => [`${one.finding} ${one.advice}`, one])).values()]
}

/** What moves on a slide. @param n place of the slide among those shown, from 1; `count` how many are shown */
export function movingFindings(
  lecture: Pick<Lecture, 'captionTracks' | 'smallPicture'>,
  slide: Slide,
  n: number,
  { count, scheduled }: { count: number; scheduled: Pick<ScheduledSlide, 'films'> },
): Finding[] {
  const small = smallPictureOn(lecture.smallPicture, slide.smallPicture, { index: n - 1, count })
  return [...filmFindings(lecture, slide, n, scheduled), ...footageFindings(slide, n, small !== null)]
}

function filmFindings(
  lecture: Pick<Lecture, 'captionTracks'>,
  slide: Slide,
  n: number,
  scheduled: Pick<ScheduledSlide, 'films'>,
): Finding[] {
  return slide.steps
    .flatMap((step) => step.films)
    .flatMap((film): Finding[] => {
      if (film.shown === null)
        return [
          {
            kind: 'film-missing',
            level: 'missing',
            finding: say('The film “{name}” on slide {slide} is not shown', { name: film.name, slide: n }),
            advice: film.problem ? say(film.problem) : say('It is being made ready'),
          },
        ]
      if (scheduled.films.every(({ filmId }) => filmId !== film.id))
        return [
          {
            kind: 'film-missing',
            level: 'missing',
            finding: say('The film “{name}” on slide {slide} is not shown', { name: film.name, slide: n }),
            advice: say('Its slide ends before it would begin: let the slide stay for it'),
          },
        ]
      const described = film.description.trim() !== ''
      return [
        ...flashes(film, n),
        ...captions(lecture, slide, film, n),
        ...(described
          ? []
          : [
              {
                kind: 'film-description' as const,
                level: 'look' as const,
                finding: say('The film “{name}” on slide {slide} is not described', { name: film.name, slide: n }),
                advice: say('Say what it shows, and the words that are seen in it, for those who cannot see it'),
              },
            ]),
      ]
    })
}
