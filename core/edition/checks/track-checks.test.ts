/** Captions that are not on every slide. */
import { expect, test } from 'vitest'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { lecture, slide } from '#tests/made/lecture.ts'
import { trackChecks, undrawableCaptions } from './track-checks.ts'

const cue = (slideId: string, id = `cue ${slideId}`, takeId = `take ${slideId}`, text = 'Said.'): StoredCue => ({
  ...{ id, slideId, takeId, start: 0, end: 1, text, markup: null, settings: '' },
  ...{ needsReview: false, scriptText: text, manualEdit: null },
})
const track = (origin: CaptionTrack['origin'], language: string, cues: StoredCue[]): CaptionTrack => ({
  ...{ id: `${origin} ${language}`, language, label: language, origin, kind: 'captions', cues },
})
const slides = [slide('a', 3), slide('b', 3), slide('c', 3)]
const told = (...tracks: CaptionTrack[]) =>
  trackChecks(
    {
      ...lecture(slides),
      language: 'en',
      captionTracks: [
        track(
          'script',
          'en',
          slides.map((s) => cue(s.id)),
        ),
        ...tracks,
      ],
    },
    slides,
  )

test('a file whose captions belong to an earlier recording of a slide is told, with the slide', () => {
  const [check, ...more] = told(track('file', 'fr', [cue('a'), cue('b', 'old', 'an earlier take'), cue('c')]))
  expect(more).toEqual([])
  expect(check).toMatchObject({ kind: 'captions-missing', level: 'look', finding: 'French: 2 of 3 slides' })
  expect(check!.advice).toBe(
    'Nothing of it is shown on slide 2. Those of slide 2 belong to an earlier recording; attach them again, or keep that recording',
  )
})
test('a translation is counted caption by caption', () => {
  const [check] = told(track('translation', 'de', [cue('a'), cue('c', 'cue c', 'take c', '')]))
  expect(check!.finding).toBe('German: 1 of 3 captions')
  expect(check!.advice).toBe('Nothing of it is shown on slides 2, 3. Fill in what is missing, or delete this track')
})
test('what is whole, and what is not published, is not told', () => {
  expect(
    told(
      track(
        'file',
        'fr',
        slides.map((s) => cue(s.id)),
      ),
    ),
  ).toEqual([])
  expect(told(track('translation', 'de', []))).toEqual([])
  expect(told()).toEqual([])
})

test('of many characters that cannot be drawn the first twelve are named, signs of private use by their number', () => {
  expect(undrawableCaptions({ undrawableCaptions: [] })).toEqual([])
  const [told] = undrawableCaptions({ undrawableCaptions: ['\uE123', ...'ΑΒΓΔΕΖΗΘΙΚΛΜ'] })
  expect(told!.finding).toMatch(
    /^Captions in the picture: 13 characters cannot be drawn: U\+E123, Α \(U\+0391\), .*Λ \(U\+039B\), …$/,
  )
})
