/** Which caption tracks viewers get. */
import { expect, test } from 'vitest'
import type { CaptionTrack, StoredCue, TrackOrigin } from '#core/model/caption.ts'
import { publishedTracks } from './published-tracks.ts'

const track = (id: string, language: string, origin: TrackOrigin, ...texts: string[]): CaptionTrack => ({
  id,
  language,
  label: '',
  origin,
  kind: 'captions',
  cues: texts.map((text) => ({ text }) as StoredCue),
})
const published = (...captionTracks: CaptionTrack[]) =>
  publishedTracks({ language: 'de', captionTracks, slides: [] }).map((t) => t.id)

test('the lecture’s own language comes first, the others as they stand', () =>
  expect(published(track('a', 'en', 'file', 'x'), track('b', 'de', 'script', 'x'), track('c', 'fr', 'file', 'x'))).toEqual([
    'b',
    'a',
    'c',
  ]))
test('a file stands before what the scripts made, whichever comes first', () => {
  const [script, file] = [track('script', 'de', 'script', 'x'), track('file', 'de', 'file', 'x')]
  expect(published(script, file)).toEqual(['file'])
  expect(published(file, script)).toEqual(['file'])
})
test('a track in which nothing is said is none, one with a single caption is', () => {
  expect(published(track('a', 'de', 'file', '', ''), track('b', 'de', 'script', '', 'x'))).toEqual(['b'])
  expect(published(track('a', 'en', 'file'))).toEqual([])
})
