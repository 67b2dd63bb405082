/** Points to speak from of which nothing was said. */
import { pointsNotMentioned } from '#core/captions/compare/points-mentioned.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { pointsOf } from '#core/script/points.ts'
import { say } from '#core/words/say.ts'
import type { Finding } from './check.ts'
import { quoted } from './quoted.ts'

/** Told where captions tell what was said; before they do nobody knows. */
export function pointFindings(lecture: Lecture, slide: Slide, n: number): Finding[] {
  const points = pointsOf(slide.script)
  const take = keptTake(slide)
  if (!points || !take) return []
  const said = lecture.captionTracks
    .filter((track) => track.origin === 'script')
    .flatMap((track) => track.cues.filter((cue) => cue.takeId === take.id && cue.text !== ''))
  if (said.length === 0) return []
  const missed = pointsNotMentioned(points, said.map(({ text }) => text).join(' '), slide.language ?? lecture.language)
  if (missed.length === 0) return []
  return [
    {
      kind: 'points-missed',
      level: 'look',
      finding: say('Not mentioned on slide {slide}: {points}', { slide: n, points: quoted(missed) }),
      advice: say('Its words are not in what was said. If it matters, say it, or take the point out of the script'),
    },
  ]
}
