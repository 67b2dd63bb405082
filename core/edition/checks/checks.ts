/** Findings before publishing, worst first, each with what to do and, where one press can do it, the fix. */

import { fitClip } from '#core/audio/tidy-up/fit-pace.ts'
import { isFileName } from '#core/deck/title.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { isPracticeVoice } from '#core/recording/practice-voice.ts'
import { pointsOf } from '#core/script/points.ts'
import { countWords } from '#core/script/sentences.ts'
import { canBeTimed, relatedVoice } from '#core/script/timed-languages.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { LEAD_MOST_S, type Schedule, schedule, slideTiming } from '#core/timing/schedule.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { figure } from '#core/words/figures.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import type { Check, Finding, Fix } from './check.ts'
import { movingFindings } from './film-checks.ts'
import { heardFindings } from './heard-checks.ts'
import { trackChecks, undrawableCaptions } from './track-checks.ts'

/** Slides of one lecture differ by no more than this, or a viewer reaches for the volume. */
const EVEN_LU = 1
/** Common practice, no published source: a slide that stays longer loses its learners. */
const LONG_SLIDE_S = 180
/** The room is heard when it is nearer to the voice than this, LU. */
const NOISY_LU = 32
const STRONG_CLEANING = 0.85
/** Published pictures are 1920 pixels wide; one much narrower looks soft. */
const FEWEST_PIXELS = { width: 1200, height: 600 }

type At = Pick<Check, 'slideId' | 'slideNumber'>

function missingSound(lecture: Lecture, slide: Slide, n: number, covered: boolean): Finding[] {
  const { holdSeconds } = slideTiming(lecture, slide)
  // a text slide, a slide under music and one with a film are meant to be looked at
  const moves = slide.steps.some((step) => step.films.length > 0)
  if (slide.script.trim() === '' && (slide.card || covered || moves)) return []
  return [
    {
      kind: 'no-sound',
      level: 'missing',
      finding: say('Slide {slide} has no sound', { slide: n }),
      advice: say('It would be shown in silence for {seconds} s', { seconds: holdSeconds }),
    },
  ]
}

/** A take of the practice microphone is a take of nobody. */
function practiceVoice(slide: Slide, n: number): Finding[] {
  const take = keptTake(slide)
  if (!take || !isPracticeVoice(take)) return []
  return [
    {
      kind: 'practice-voice',
      level: 'missing',
      finding: say('Slide {slide} has the practice voice', { slide: n }),
      advice: say('It is there for trying things out: record the slide with your own microphone'),
    },
  ]
}

function soundFindings(lecture: Lecture, slide: Slide, scheduled: ScheduledSlide, n: number, captioned: boolean): Finding[] {
  const take = keptTake(slide)!
  if (!take.clip || !take.tidyUp) {
    return [
      {
        kind: 'not-tidied',
        level: 'missing',
        finding: say('Slide {slide} is still being tidied', { slide: n }),
        advice: take.problem ? say(take.problem) : say('This takes a few seconds'),
      },
    ]
  }
  const found: Finding[] = []
  const { figures } = take.clip
  const over = scheduled.overSamples ?? 0
  if (over > 0) {
    const fit = fitClip(take.tidyUp, take.analysis?.speech ?? [], scheduled.clipSamples - over)
    const label =
      fit.overSamples > 0 ? say('Bring it nearer: {done}', { done: fit.done }) : say('Make it fit: {done}', { done: fit.done })
    found.push({
      kind: 'over-pace',
      level: 'look',
      finding: say('Slide {slide} is {seconds} s over its pace', { slide: n, seconds: figure(toSeconds(over), 1) }),
      advice:
        fit.overSamples > 0
          ? say('Shorter pauses are not enough: say less, or cut a sentence')
          : say('Its sound is never cut, so the slide stays longer'),
      ...(fit.done === '' ? {} : { fix: { label, tidyUps: [{ takeId: take.id, tidyUp: fit.tidyUp }] } }),
    })
  }
  if (take.analysis?.speech.length === 0)
    found.push({
      kind: 'no-voice',
      level: 'look',
      finding: say('No voice found on slide {slide}', { slide: n }),
      advice: say('Was the microphone muted? Listen to it, or record again'),
    })
  if ((take.analysis?.clippedSamples ?? 0) > 0)
    found.push({
      kind: 'clipped',
      level: 'look',
      finding: say('Slide {slide} is too loud in places', { slide: n }),
      advice: say('Move back from the microphone or turn it down, and record again'),
    })
  if (figures.noiseFloorDb !== null && figures.loudnessLufs !== null && figures.loudnessLufs - figures.noiseFloorDb < NOISY_LU) {
    const strong = take.tidyUp.cleaning >= STRONG_CLEANING
    found.push({
      kind: 'noisy',
      level: 'look',
      finding: say('The room is heard on slide {slide}', { slide: n }),
      advice: strong ? say('Record it again nearer to the microphone') : say('Clean it more strongly'),
      ...(strong
        ? {}
        : {
            fix: {
              label: say('Clean more strongly'),
              tidyUps: [{ takeId: take.id, tidyUp: { ...take.tidyUp, cleaning: STRONG_CLEANING } }],
            },
          }),
    })
  }
  found.push(...heardFindings(lecture, slide, n))
  if (!captioned)
    found.push({
      kind: 'no-captions',
      level: 'look',
      finding: say('Slide {slide} has no captions', { slide: n }),
      advice:
        pointsOf(slide.script) !== null
          ? say('It is spoken from points: type its captions by ear, or attach a caption file')
          : countWords(slide.script, slide.language ?? lecture.language) > 0
            ? say('They are made when its take is tidied')
            : say('Type its script, or attach a caption file'),
    })
  return found
}

function pictureFindings(lecture: Lecture, slide: Slide, scheduled: ScheduledSlide, n: number, covered: boolean): Finding[] {
  const found: Finding[] = []
  const { leadSeconds } = slideTiming(lecture, slide)
  // music that opens a slide is heard while the voice rests
  if (scheduled.clipSamples > 0 && leadSeconds > LEAD_MOST_S && !covered) {
    const { leadSeconds: own, ...rest } = slide.timing
    found.push({
      kind: 'long-lead',
      level: 'look',
      finding: say('Slide {slide} waits {seconds} s before the voice', { slide: n, seconds: leadSeconds }),
      advice: say('Half a second is the most that does not feel like a fault'),
      ...(own === undefined || lecture.timing.leadSeconds > LEAD_MOST_S
        ? {}
        : { fix: { label: say('Wait as on other slides'), slide: { id: slide.id, change: { timing: rest } } } }),
    })
  }
  if (toSeconds(scheduled.lengthSamples) > LONG_SLIDE_S)
    found.push({
      kind: 'long-slide',
      level: 'look',
      finding: say('Slide {slide} stays for {minutes} minutes', {
        slide: n,
        minutes: Math.round(toSeconds(scheduled.lengthSamples) / 60),
      }),
      advice: say('Divide what is said over two or more slides'),
    })
  const small = slide.steps.find((step) => step.width < FEWEST_PIXELS.width && step.height < FEWEST_PIXELS.height)
  if (small)
    found.push({
      kind: 'coarse-picture',
      level: 'look',
      finding: say('The picture of slide {slide} is small', { slide: n }),
      advice: say('{width} × {height} pixels look soft in the video; replace it with a larger one', {
        width: small.width,
        height: small.height,
      }),
    })
  if (slide.warnings.length > 0)
    found.push({
      kind: 'from-deck',
      level: 'look',
      finding: say('Slide {slide} is not all that its deck shows', { slide: n }),
      advice: slide.warnings.map((warning) => say(warning)).join(' '),
      fix: { label: say('It is fine like this'), slide: { id: slide.id, change: { warnings: [] } } },
    })
  if (slide.altText.trim() === '' || isFileName(slide.altText))
    found.push({
      kind: 'no-alt-text',
      level: 'look',
      finding: say('The picture of slide {slide} is not described', { slide: n }),
      advice: say('Say what it shows, for those who cannot see it'),
      ...(slide.title.trim() === ''
        ? {}
        : { fix: { label: say('Describe it by its title'), slide: { id: slide.id, change: { altText: slide.title } } } }),
    })
  else if (slide.isAltTextDraft)
    found.push({
      kind: 'draft-alt-text',
      level: 'look',
      finding: say('The picture of slide {slide} is described by the words on it only', { slide: n }),
      advice: say('This is a draft: say what else it shows, or that its words say it all'),
      fix: { label: say('Its words say it all'), slide: { id: slide.id, change: { isAltTextDraft: false } } },
    })
  return found
}

/** Kept takes whose clips are louder or quieter than the lecture's usual target, brought to it. */
function evenFix(shown: readonly Slide[]): Fix | null {
  const tidyUps = shown.flatMap((slide) => {
    const take = keptTake(slide)
    if (!take?.tidyUp || !take.clip) return []
    const { level } = take.tidyUp
    const usual = { targetLufs: -16, ceilingDbtp: -1, even: level?.even ?? false }
    if (level?.targetLufs === usual.targetLufs && level.ceilingDbtp === usual.ceilingDbtp) return []
    return [{ takeId: take.id, tidyUp: { ...take.tidyUp, level: usual } }]
  })
  return tidyUps.length > 0 ? { label: say('Bring all to −16 LUFS'), tidyUps } : null
}

/** Slides that build up one picture, page after page, as long as nobody has spoken to the later ones. */
function buildUps(slides: readonly Slide[]): Check[] {
  const shown = slides.filter((slide) => !slide.hidden)
  return shown.flatMap((slide, i): Check[] => {
    const isPart = (s: Slide | undefined) => s?.buildsOn === true && s.takes.length === 0
    if (isPart(slide) || !isPart(shown[i + 1])) return []
    let end = i + 1
    while (isPart(shown[end])) end++
    return [
      {
        kind: 'builds-up',
        level: 'note',
        slideId: slide.id,
        slideNumber: i + 1,
        finding: say('Slides {first} to {last} build up one picture', { first: i + 1, last: end }),
        advice: say('As one slide with steps, each step comes while you speak'),
        fix: {
          label: say('Make them steps of slide {slide}', { slide: i + 1 }),
          join: { into: slide.id, from: shown.slice(i + 1, end).map((s) => s.id) },
        },
      },
    ]
  })
}

/** Captions in languages that have no voice: their words were sought by a related one's, or by nobody. */
function untimedCaptions(lecture: Lecture, shown: readonly Slide[]): Check[] {
  const spoken = shown.filter((slide) => keptTake(slide) && slide.script.trim() !== '')
  const languages = new Set(spoken.map((slide) => slide.language ?? lecture.language).filter((tag) => !canBeTimed(tag)))
  return [...languages].map((language) => {
    const related = relatedVoice(language)
    return {
      kind: 'not-timed',
      level: 'look',
      slideId: null,
      slideNumber: null,
      finding: related
        ? say('Captions in {language} are timed by the voice of a related language, {related}', {
            language: languageName(language),
            related: languageName(related),
          })
        : say('Captions in {language} are spread over the speech, not timed', { language: languageName(language) }),
      advice: say(
        'There is no voice of this language to find its words by. Check when each caption comes, and move those that are early or late',
      ),
    }
  })
}

/** What the newest edition holds, for telling what changed since. */
export interface PublishedSlides {
  number: number
  fingerprints: ReadonlyMap<string, number>
  /** Of the slides as they are now, by the same measure. */
  now: ReadonlyMap<string, number>
}

const ORDER = { missing: 0, look: 1, note: 2 }

/** @returns warnings, those that leave something missing first; empty when the lecture is ready */
export function checks(lecture: Lecture, times: Schedule = schedule(lecture), published?: PublishedSlides): Check[] {
  const shown = lecture.slides.filter((slide) => !slide.hidden)
  const captioned = new Set(lecture.captionTracks.flatMap((track) => track.cues.map((cue) => `${cue.slideId} ${cue.takeId}`)))
  const scheduled = new Map(times.slides.map((s) => [s.slideId, s]))
  const places = new Map(lecture.slides.map((slide, i) => [slide.id, i]))
  const covered = (slide: Slide) =>
    lecture.beds.some((bed) => {
      const ends = [places.get(bed.fromSlideId) ?? -1, places.get(bed.toSlideId) ?? -1]
      const at = places.get(slide.id)!
      return at >= Math.min(...ends) && at <= Math.max(...ends)
    })
  const found: Check[] = shown.flatMap((slide, i) => {
    const at: At = { slideId: slide.id, slideNumber: i + 1 }
    const s = scheduled.get(slide.id)!
    const sound = keptTake(slide)
      ? soundFindings(lecture, slide, s, i + 1, captioned.has(`${slide.id} ${slide.keptTakeId}`))
      : missingSound(lecture, slide, i + 1, covered(slide))
    const changed: Finding[] =
      published && published.fingerprints.get(slide.id) !== published.now.get(slide.id)
        ? [
            {
              kind: 'changed',
              level: 'note',
              finding: published.fingerprints.has(slide.id)
                ? say('Slide {slide} changed since edition {number}', { slide: i + 1, number: published.number })
                : say('Slide {slide} is new since edition {number}', { slide: i + 1, number: published.number }),
              advice: say('Publish again when you are ready; links then show the new edition'),
            },
          ]
        : []
    return [
      ...practiceVoice(slide, i + 1),
      ...sound,
      ...pictureFindings(lecture, slide, s, i + 1, covered(slide)),
      ...movingFindings(lecture, slide, i + 1, { count: times.slides.length, scheduled: s }),
      ...changed,
    ].map((f) => ({
      ...at,
      ...f,
    }))
  })
  found.push(
    ...buildUps(lecture.slides),
    ...untimedCaptions(lecture, shown),
    ...trackChecks(lecture, shown),
    ...undrawableCaptions(lecture),
  )
  const loudness = shown.flatMap((slide) => keptTake(slide)?.clip?.figures.loudnessLufs ?? [])
  const spread = Math.max(...loudness) - Math.min(...loudness)
  if (loudness.length > 1 && spread > EVEN_LU) {
    const fix = evenFix(shown)
    found.push({
      kind: 'uneven-loudness',
      level: 'look',
      slideId: null,
      slideNumber: null,
      finding: say('Some slides are louder than others'),
      advice: say('They differ by {spread} LU (loudness units); tidy them to the same loudness', { spread: figure(spread, 1) }),
      ...(fix ? { fix } : {}),
    })
  }
  return found.sort((a, b) => ORDER[a.level] - ORDER[b.level])
}

/** What holds for every slide it could be said of. @param found what `checks` told */
export function holding(lecture: Pick<Lecture, 'slides'>, found: readonly Pick<Check, 'kind'>[]): string[] {
  const spoken = lecture.slides.filter((slide) => !slide.hidden && keptTake(slide))
  const open = new Set(found.map((check) => check.kind))
  return [
    say('Every slide is at least as long as its sound and a rest'),
    ...(spoken.length > 1 && !open.has('uneven-loudness') && !open.has('not-tidied') ? [say('All slides equally loud')] : []),
    ...(spoken.length > 0 && !open.has('no-captions') ? [say('Captions on every spoken slide')] : []),
    ...(!open.has('no-alt-text') && !open.has('draft-alt-text')
      ? [say('Every slide has a text for those who cannot see it; whether it says what the picture shows, only you can tell')]
      : []),
  ]
}
