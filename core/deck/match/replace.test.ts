import { describe, expect, test } from 'vitest'
import type { Film } from '#core/model/moving/film.ts'
import { offeredPages, pairPages, readsOtherwise } from './pair.ts'
import { compareDeck, type NewPage } from './replace.ts'

const page = (title: string, picture = title): NewPage => ({ title, altText: `${title} and what is said of it`, picture })
const slide = (id: string, title: string, picture = title, card = false) => ({
  id,
  title,
  altText: `${title} and what is said of it`,
  card: card ? ({ heading: title, line: '', colours: 'paper' } as const) : null,
  steps: [{ id: `step ${id}`, picture, thumbnail: '', width: 1, height: 1, text: '', afterSeconds: null, films: [] }],
})

describe('a new version of a deck', () => {
  const lecture = [slide('a', 'Opening words'), slide('b', 'The funnel'), slide('c', 'The stick'), slide('d', 'Thank you')]
  test('the same deck changes nothing', () => {
    expect(
      compareDeck(
        lecture,
        lecture.map((s) => page(s.title)),
      ),
    ).toEqual({ changed: [], added: [], removed: [], order: null })
  })
  test('a page that looks otherwise is a changed slide', () => {
    const pages = [page('Opening words'), page('The funnel', 'drawn anew'), page('The stick'), page('Thank you')]
    expect(compareDeck(lecture, pages)).toEqual({
      changed: [{ slideId: 'b', page: 1, hasNewPicture: true, newTitle: null }],
      added: [],
      removed: [],
      order: null,
    })
  })
  test('so is one with another film, or without the one it had; what was put in by hand is no business of the deck', () => {
    const film = (original: string, isOfDeck = true) => ({ original, isOfDeck }) as Film
    const withFilms = lecture.map((s, i) =>
      i === 1 ? { ...s, steps: [{ ...s.steps[0]!, films: [film('old'), film('by hand', false)] }] } : s,
    )
    const compared = (files: string[]) => {
      const pages = lecture.map((s) => ({ ...page(s.title), films: s.id === 'b' ? files.map((file) => ({ file })) : [] }))
      return compareDeck(withFilms, pages).changed
    }
    expect(compared(['old'])).toEqual([])
    const changed = [{ slideId: 'b', page: 1, hasNewPicture: true, newTitle: null }]
    expect(compared(['new'])).toEqual(changed)
    expect(compared(['old', 'second'])).toEqual(changed)
    expect(compared([])).toEqual(changed)
  })
  test('new pages come after the slide before them; slides without a page are gone', () => {
    const pages = [
      page('A quite different beginning'),
      page('Opening words'),
      page('The stick'),
      page('Something never seen'),
      page('Thank you'),
    ]
    expect(compareDeck(lecture, pages)).toEqual({
      changed: [],
      added: [
        { page: 0, afterSlideId: null },
        { page: 3, afterSlideId: 'c' },
      ],
      removed: ['b'],
      order: null,
    })
  })
  test('two slides that changed places are the same slides in another order', () => {
    const pages = ['Opening words', 'The stick', 'The funnel', 'Thank you'].map((title) => page(title))
    expect(compareDeck(lecture, pages)).toEqual({ changed: [], added: [], removed: [], order: ['a', 'c', 'b', 'd'] })
    const redrawn = pages.map((p) => ({ ...p, picture: `${p.picture} in new colours` }))
    expect(compareDeck(lecture, redrawn)).toMatchObject({ added: [], removed: [], order: ['a', 'c', 'b', 'd'] })
  })
  test('a slide with another title is that slide, and its new title is told', () => {
    const pages = lecture.map((s) => ({ ...page(s.title), picture: s.id === 'b' ? 'drawn anew' : s.steps[0]!.picture }))
    pages[1]!.title = 'The funnel and its rim'
    pages[2]!.title = 'The measuring stick'
    expect(compareDeck(lecture, pages).changed).toEqual([
      { slideId: 'b', page: 1, hasNewPicture: true, newTitle: 'The funnel and its rim' },
      { slideId: 'c', page: 2, hasNewPicture: false, newTitle: 'The measuring stick' },
    ])
  })
  test('text slides made here are no business of the deck', () => {
    const withCard = [...lecture.slice(0, 2), slide('x', 'Second part', 'card', true), ...lecture.slice(2)]
    expect(
      compareDeck(
        withCard,
        lecture.map((s) => page(s.title)),
      ).removed,
    ).toEqual([])
  })
})

describe('pages of a PDF for slides of a presentation', () => {
  const deck = [page('One and two'), { ...page('Hidden thing'), hidden: true }, page('Three and four')]
  test('as many as slides: in order; as many as are shown: without the hidden', () => {
    expect(pairPages(deck, [page('x'), page('y'), page('z')])).toEqual([0, 1, 2])
    expect(pairPages(deck, [page('x'), page('z')])).toEqual([0, null, 1])
  })
  test('else by their words', () => {
    expect(pairPages(deck, [page('Three and four')])).toEqual([null, null, 0])
    expect(pairPages(deck, [page('New'), page('One and two'), page('Newer'), page('Three and four')])).toEqual([1, null, 3])
  })
  test('pages that pair with nothing are offered where they stand', () => {
    const pages = [page('New'), page('One and two'), page('Newer'), page('Three and four'), page('Last')]
    // before the first page, behind a hidden slide, after the last
    expect(offeredPages(deck, pages, [1, null, 3])).toEqual([[0, 2], [], [4]])
    const shown = deck.map((slide) => ({ ...slide, hidden: false }))
    expect(offeredPages(shown, pages, [1, null, 3])).toEqual([[0], [2], [4]])
    expect(offeredPages(shown, pages, [null, null, null])).toEqual([
      [0, 1, 2, 3, 4],
      [0, 1, 2, 3, 4],
      [0, 1, 2, 3, 4],
    ])
    expect(offeredPages(shown, pages.slice(0, 3), [0, 1, 2])).toEqual([[], [], []])
  })
  test('a page with other words is told from one with the same, and from one that has hardly any', () => {
    const bare = (title: string) => ({ title, altText: '' })
    expect(readsOtherwise(bare('The inner tube measures'), bare('Where to put the gauge'))).toBe(true)
    expect(readsOtherwise(bare('The inner tube measures'), bare('The inner tube measures 20 inches'))).toBe(false)
    expect(readsOtherwise(bare('The inner tube measures'), bare('Thanks'))).toBe(false)
  })
})
