/** Findings in what is heard of a take: by its clip, and not by what was cut out of it. */

import { wrongStretch } from '#core/audio/speech/fast-voice-activity.ts'
import { LONG_PAUSE } from '#core/audio/speech/long-pauses.ts'
import { cutOut } from '#core/audio/tidy-up/edit.ts'
import type { StoredCue } from '#core/model/caption.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { pointsOf } from '#core/script/points.ts'
import { canBeTimed } from '#core/script/timed-languages.ts'
import { takeSeconds, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { keptStretches, timeMap } from '#core/timing/time-map.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import type { Finding } from './check.ts'
import { pointFindings } from './points-check.ts'
import { quoted } from './quoted.ts'

/** What the speaker marked as wrong while speaking, as long as it is still heard. */
function markedWrong(slide: Slide, n: number): Finding[] {
  const take = keptTake(slide)!
  if (!take.tidyUp || !take.analysis) return []
  const heard = timeMap(take.tidyUp, 0)
  const wrong = take.marks
    .flatMap((mark) => (mark.kind === 'wrong' ? (wrongStretch(take.analysis!.speech, mark.at, take.samples) ?? []) : []))
    .filter((s) => heard.spanToSlide(takeSeconds(toSeconds(s.start)), takeSeconds(toSeconds(s.end))) !== null)
  if (wrong.length === 0) return []
  const tidyUp = wrong.reduce(cutOut, take.tidyUp)
  const found = {
    kind: 'marked-wrong' as const,
    level: 'look' as const,
    finding: say(
      '{count, plural, one {You marked something on slide {slide} as wrong while you spoke} other {You marked # things on slide {slide} as wrong while you spoke}}',
      { count: wrong.length, slide: n },
    ),
  }
  // nothing would be left to hear
  if (tidyUp === take.tidyUp) return [{ ...found, advice: say('It is all that was said: record the slide again') }]
  const fix = { label: say('Cut it out'), tidyUps: [{ takeId: take.id, tidyUp }] }
  return [{ ...found, advice: say('Cut out, it can be put back on the bench'), fix }]
}

const overlap = (stretches: readonly SampleRange[], { start, end }: SampleRange): SampleRange[] =>
  stretches.flatMap((s) => {
    const both = { start: Math.max(s.start, start), end: Math.min(s.end, end) }
    return both.end > both.start ? [both] : []
  })
const lengthOf = (stretches: readonly SampleRange[]) => stretches.reduce((sum, s) => sum + s.end - s.start, 0)

/** Whether more than half of what is said in a stretch of a take is in its clip. */
export function isMostlyHeard({ tidyUp, analysis }: Take, stretch: SampleRange): boolean {
  if (!tidyUp) return true
  const spoken = overlap(analysis?.speech ?? [], stretch)
  // where no voice was found all of the stretch counts
  const said = spoken.length > 0 ? spoken : [stretch]
  const kept = keptStretches(tidyUp)
  return lengthOf(said.flatMap((s) => overlap(kept, s))) > lengthOf(said) / 2
}

/** Pauses between words that stay long in the clip. */
function longPauses(slide: Slide, n: number): Finding[] {
  const { id, tidyUp, analysis } = keptTake(slide)!
  if (!tidyUp || !analysis) return []
  const kept = keptStretches(tidyUp)
  const heard = analysis.speech.filter((s) => overlap(kept, s).length > 0)
  const long = heard.slice(1).flatMap((s, i) => {
    const pause = { start: heard[i]!.end, end: s.start }
    return toSeconds(lengthOf(overlap(kept, pause))) >= LONG_PAUSE.least ? [pause] : []
  })
  if (long.length === 0) return []
  const seconds = long.map((pause) => toSeconds(lengthOf(overlap(kept, pause))))
  const half = toSamples(LONG_PAUSE.left / 2)
  const shortened = long.reduce((recipe, p) => cutOut(recipe, { start: p.start + half, end: p.end - half }), tidyUp)
  return [
    {
      kind: 'long-pause',
      level: 'look',
      finding:
        long.length === 1
          ? say('Slide {slide} is silent for {seconds} s in the middle', { slide: n, seconds: figure(seconds[0]!, 1) })
          : say('Slide {slide} is silent {count} times in the middle, for {seconds} s at most', {
              slide: n,
              count: long.length,
              seconds: figure(Math.max(...seconds), 1),
            }),
      advice: say('If there is nothing to look at meanwhile, shorten it; it can be put back on the bench'),
      fix: { label: say('Shorten to {seconds} s', { seconds: LONG_PAUSE.left }), tidyUps: [{ takeId: id, tidyUp: shortened }] },
    },
  ]
}

/** Captions of a take that somebody should look at. */
const wantingALook = (lecture: Lecture, takeId: string) =>
  lecture.captionTracks
    // a translation wants a look when its original has changed, which says nothing of times
    .filter((track) => track.origin !== 'translation')
    .flatMap((track) => track.cues.filter((cue) => cue.needsReview && cue.takeId === takeId))

function heardByRecogniser(cues: readonly Pick<StoredCue, 'manualEdit'>[], n: number): Finding[] {
  const count = cues.filter((cue) => cue.manualEdit === 'heard').length
  if (count === 0) return []
  const finding = say(
    '{count, plural, one {One caption} other {# captions}} of slide {slide} heard by a recogniser, checked by nobody',
    { count, slide: n },
  )
  const advice = say('Words in them may be wrong: correct them, or say that they are right')
  return [{ kind: 'heard-captions', level: 'look', finding, advice }]
}

/** What was noticed while the words were sought in the recording. */
function captionFindings(lecture: Lecture, slide: Slide, n: number): Finding[] {
  const take = keptTake(slide)!
  const own = wantingALook(lecture, take.id)
  const unsure = own.some((cue) => cue.manualEdit !== 'heard')
  const told = take.findings
  // who speaks from points says it in other words: nothing is left out, and nothing is beside the script
  const isFree = pointsOf(slide.script) !== null
  const repeated = told?.repeated ?? []
  const [offScript, missed, needsReview] = isFree
    ? [[], [], []]
    : [told?.offScript ?? [], told?.skipped ?? [], told?.needsReview ?? []]
  // what another language's voice did not find may well have been said, and has its caption
  const skipped = canBeTimed(slide.language ?? lecture.language) ? missed : []
  // what was cut out already, by hand or by a press, is nothing to speak of
  const isHeard = (s: { start: number; end: number }) => isMostlyHeard(take, { start: toSamples(s.start), end: toSamples(s.end) })
  const cutting = (s: { start: number; end: number }) =>
    cutOut(take.tidyUp!, { start: toSamples(s.start), end: Math.min(take.samples, toSamples(s.end)) })
  const found: Finding[] = heardByRecogniser(own, n)
  if (unsure || skipped.length > 0)
    found.push({
      kind: 'check-captions',
      level: 'look',
      finding:
        skipped.length > 0
          ? say('Not heard on slide {slide}: {skipped}', { slide: n, skipped: quoted(skipped) })
          : say('Some captions of slide {slide} may not stand on their words', { slide: n }),
      advice:
        skipped.length > 0
          ? say('Was it left out? Then it has no caption. Listen, and mend the script or record again')
          : needsReview.length > 0
            ? say('Please check {captions} by ear', { captions: quoted(needsReview) })
            : say('Please check them by ear'),
    })
  // it is said twice as long as both sayings are heard: the second begins where the first ends
  const isTwice = (s: { start: number; end: number }) => isHeard(s) && isHeard({ start: s.end, end: 2 * s.end - s.start })
  for (const again of repeated.filter(isTwice).slice(0, 1))
    found.push({
      kind: 'said-twice',
      level: 'look',
      finding: say('Said twice on slide {slide}: {quoted}', { slide: n, quoted: quoted([again.text]) }),
      advice: say('The first saying can be cut out; it can be put back on the bench'),
      fix: { label: say('Cut the first one out'), tidyUps: [{ takeId: take.id, tidyUp: cutting(again) }] },
    })
  const strange = offScript.filter(isHeard)
  if (strange.length > 0)
    found.push({
      kind: 'off-script',
      level: 'look',
      finding: say('Slide {slide} says something for {seconds} s that is not in its script', {
        slide: n,
        seconds: figure(
          strange.reduce((sum, s) => sum + s.end - s.start, 0),
          1,
        ),
      }),
      advice: say('Write it into the script, and it is captioned; or cut it out'),
      fix: {
        label: say('Cut it out'),
        tidyUps: [
          {
            takeId: take.id,
            tidyUp: strange.reduce(
              (recipe, s) => cutOut(recipe, { start: toSamples(s.start), end: Math.min(take.samples, toSamples(s.end)) }),
              take.tidyUp!,
            ),
          },
        ],
      },
    })
  return found
}

/** All that is told of what is heard on a slide with a take. */
export const heardFindings = (lecture: Lecture, slide: Slide, n: number): Finding[] => [
  ...markedWrong(slide, n),
  ...longPauses(slide, n),
  ...captionFindings(lecture, slide, n),
  ...pointFindings(lecture, slide, n),
]
