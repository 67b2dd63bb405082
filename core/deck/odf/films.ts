/** Films on a page of an OpenDocument presentation. @see OpenDocument 1.3, part 3, §10.4.6 draw:frame, §10.4.7 draw:plugin, §10.4.8 draw:param */
import type { FoundFilm } from '../deck.ts'
import { WARN, type Warnings } from '../warnings.ts'
import { below, child, children, type XmlNode } from '../xml.ts'

const FILM = /\.(mp4|mov|avi|wmv|m4v|mpe?g|webm|mkv|asf|flv|ogv|3gp|m2?ts|gif)$/i
const SOUND = /\.(m4a|mp3|wav|wma|aac|aiff?|flac|og[ag]|mid)$/i

const hrefOf = (frame: XmlNode) => child(frame, 'plugin')?.attrs['xlink:href'] ?? ''

/** Whether a frame has a film, wherever that lies. */
export const isFilmFrame = (frame: XmlNode) => {
  const type = child(frame, 'plugin')?.attrs['draw:mime-type'] ?? ''
  const href = hrefOf(frame)
  return href !== '' && !/^audio/.test(type) && !SOUND.test(href) && (FILM.test(href) || /video|media/.test(type))
}

/** What its frame is called in the tree of animations; its file, where it has no name. */
export const filmName = (frame: XmlNode) => frame.attrs['xml:id'] ?? frame.attrs['draw:id'] ?? hrefOf(frame)

/** @returns films by the names of their frames; what is not in the deck is told */
export function filmsOf(page: XmlNode, files: ReadonlyMap<string, unknown>, warnings: Warnings): ReadonlyMap<string, FoundFilm> {
  const found = new Map<string, FoundFilm>()
  for (const frame of below(page, 'frame').filter(isFilmFrame)) {
    const part = hrefOf(frame).replace(/^\.\//, '')
    if (!files.has(part)) {
      warnings.add(WARN.filmElsewhere(part.split('/').at(-1)!))
      continue
    }
    const said = new Map(
      children(child(frame, 'plugin'), 'param').map(({ attrs }) => [attrs['draw:name'], attrs['draw:value']] as const),
    )
    const settings = {
      ...(said.get('Mute') === 'true' ? { isMuted: true } : {}),
      ...(said.get('Loop') === 'true' ? { loops: true, waits: false } : {}),
    }
    found.set(filmName(frame), { part, settings, endTrimSeconds: 0 })
  }
  return found
}
