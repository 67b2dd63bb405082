import { expect, test } from 'vitest'
import { checks } from '#core/edition/checks/checks.ts'
import { plan, slideCaptions } from '#core/edition/plan.ts'
import { schedule } from '#core/timing/schedule.ts'
import * as made from '#tests/made/lecture.ts'
import { filmCuesOnLecture } from './film-cues.ts'
import { publishedCues, publishedTracks } from './published-tracks.ts'

const cue = (start: number, end: number, text: string) => ({ start, end, text, markup: null, settings: '' })
const english = (...cues: ReturnType<typeof cue>[]) => [{ language: 'en', name: 'film.vtt', cues }]
const film = (seconds: number, more: Parameters<typeof made.film>[2]) => made.film('f', seconds, { isSpoken: true, ...more })
const said = (slides: Parameters<typeof made.lecture>[0], language = 'en') =>
  filmCuesOnLecture(made.lecture(slides), language).map(({ start, end, text, slideId }) => [
    Math.round(start * 100) / 100,
    Math.round(end * 100) / 100,
    text,
    slideId,
  ])

test('what is said in a film is read when it is heard, beside what the voice says; what was cut off it is not', () => {
  const captions = english(cue(0.5, 2.5, 'cut'), cue(3, 5, 'Rain.'), cue(7, 9, 'Snow.'), cue(9.5, 12, 'cut as well'))
  const slides = [made.slide('a', 3), made.filmed('b', 6, [film(12, { captions, fromSeconds: 2, toSeconds: 8 })])]
  const lecture = made.lecture(slides)
  const times = schedule(lecture).slides[1]!
  const begins = (times.startSamples + times.films[0]!.startSamples) / 48_000
  const at = (seconds: number) => Math.round((begins + seconds) * 100) / 100
  expect(said(slides)).toEqual([
    // the half of a caption that is heard
    [at(0), at(0.5), 'cut', 'b'],
    [at(1), at(3), 'Rain.', 'b'],
    [at(5), at(6), 'Snow.', 'b'],
  ])
  const track = publishedTracks(lecture)[0]!
  expect(publishedCues(lecture, track).map(({ text }) => text)).toEqual(['Some words.', 'Some words.', 'cut', 'Rain.', 'Snow.'])
})
test('a film that begins again and again is read each time, one that runs on over the next slide there', () => {
  const again = said([made.filmed('a', 6, [film(2, { loops: true, waits: false, captions: english(cue(0.5, 1, 'Drip.')) })])])
  expect(again.map(([start]) => start)).toEqual([0.75, 2.75, 4.75, 6.75])
  const on = said([
    made.filmed('a', 3, [film(8, { runsOn: true, waits: false, captions: english(cue(1, 2, 'here'), cue(6, 7, 'there')) })]),
    made.slide('b', 5),
  ])
  expect(on.map(([start, , text, slide]) => [start, text, slide])).toEqual([
    [1.25, 'here', 'a'],
    [6.25, 'there', 'b'],
  ])
})
test('they are read in their language or another form of it, and not where the film is muted', () => {
  const captions = [{ language: 'pt-BR', name: 'x', cues: [cue(1, 2, 'Chuva.')] }]
  const slides = (more: object = {}) => [made.filmed('a', 3, [film(4, { captions, ...more })])]
  expect(said(slides(), 'pt').map((one) => one[2])).toEqual(['Chuva.'])
  expect(said(slides(), 'en')).toEqual([])
  expect(said(slides({ isMuted: true }), 'pt')).toEqual([])
})
test('captions of a film make a track that is published, are drawn into the picture, and end the finding', () => {
  const found = (captions: ReturnType<typeof english>) => {
    const lecture = made.lecture([made.filmed('a', 0, [film(4, { captions })])])
    return checks(lecture, schedule(lecture)).filter(({ kind }) => kind === 'film-captions')
  }
  expect(found([])).toHaveLength(1)
  expect(found(english(cue(1, 2, 'Rain.')))).toEqual([])
  expect(found([{ ...english(cue(1, 2, 'Pluie.'))[0]!, language: 'fr' }])[0]!.finding).toContain('are in French')
  const burned = made.lecture([made.filmed('a', 0, [film(4, { captions: english(cue(1, 2, 'Rain.')) })])])
  burned.exportSettings = { ...burned.exportSettings, burnedIn: 'en' }
  expect(plan(burned).slides[0]!.pictures.map(({ caption }) => caption)).toEqual([undefined, 'Rain.', undefined])
})
test('captions of a film that change make its slide another one than in the edition before', () => {
  const lecture = (captions: ReturnType<typeof english>) => made.lecture([made.filmed('a', 0, [film(4, { captions })])])
  const told = (captions: ReturnType<typeof english>) => slideCaptions(lecture(captions), 'a')
  expect(told(english(cue(1, 2, 'Rain.')))).not.toEqual(told([]))
  expect(told(english(cue(1, 2, 'Rain.')))).not.toEqual(told(english(cue(1, 2, 'Snow.'))))
})
test('a file without a word takes nobody’s place because a film has captions in its language', () => {
  const lecture = made.lecture([made.slide('a', 3), made.filmed('b', 0, [film(4, { captions: english(cue(1, 2, 'Rain.')) })])])
  const empty = { ...lecture.captionTracks[0]!, id: 'empty', origin: 'file' as const, cues: [] }
  lecture.captionTracks = [...lecture.captionTracks, empty]
  expect(publishedTracks(lecture).map(({ id }) => id)).toEqual(['c'])
})
test('a film whose slide ends before it begins is told, and keeps no other slide waiting', () => {
  const late = film(20, { voice: 'before', waits: false, runsOn: true, isSpoken: false })
  const timing = { leadSeconds: 2, tailSeconds: 0.4 }
  const slides = [{ ...made.filmed('a', 3, [late]), timing }, made.slide('b', 3)]
  const lecture = made.lecture(slides)
  const times = schedule(lecture)
  expect(times.slides[0]!.films).toEqual([])
  expect(times.lengthSamples / 48_000).toBeLessThan(12)
  expect(checks(lecture, times).filter(({ kind }) => kind === 'film-missing')).toHaveLength(1)
})
