/** Films on a slide of a PresentationML deck, and how they are played. @see ECMA-376, part 1, §20.1.3.6 videoFile, §19.5.90 video, §19.5.17 cmd */

import type { FoundFilm } from '../deck.ts'
import { WARN, type Warnings } from '../warnings.ts'
import { at, below, child, numberOf, type XmlNode } from '../xml.ts'
import { namesOf } from './layers.ts'
import { nameIn, type OfficePackage, type Relation } from './package.ts'

export const FILM = /\.(mp4|mov|avi|wmv|m4v|mpe?g|webm|mkv|asf|flv|ogv|3gp|m2?ts)$/i
const SOUND = /\.(m4a|mp3|wav|wma|aac|aiff?|flac|og[ag]|mid)$/i

/** @see [MS-PPTX] §2.6.1 media, trim: milliseconds that are left out at its beginning and end */
function trimOf(media: XmlNode | undefined): Pick<FoundFilm, 'endTrimSeconds'> & { fromSeconds: number } {
  const trim = child(media, 'trim')
  const seconds = (text: string | undefined) => Math.max(0, (numberOf(text) ?? 0) / 1000)
  return { fromSeconds: seconds(trim?.attrs.st), endTrimSeconds: seconds(trim?.attrs.end) }
}

/** How it is played, by its node in the tree of times; nothing where none speaks of it. */
function playedOf(slide: XmlNode, id: string): FoundFilm['settings'] {
  const node = below(child(slide, 'timing'), 'video')
    .map((video) => child(video, 'cMediaNode'))
    .find((media) => at(media, 'tgtEl', 'spTgt')?.attrs.spid === id)
  const timeNode = child(node, 'cTn')
  const loops = timeNode?.attrs.repeatCount === 'indefinite'
  return {
    ...(node?.attrs.mute === '1' || node?.attrs.vol === '0' ? { isMuted: true } : {}),
    ...(loops ? { loops: true, waits: false } : {}),
    // so many slides it goes on over
    ...((numberOf(node?.attrs.numSld) ?? 1) > 1 ? { runsOn: true, waits: false } : {}),
    // "rewind after playing"
    ...(timeNode?.attrs.fill === 'remove' ? { afterwards: 'slide' as const } : {}),
  }
}

/** @returns films by the ids of their shapes; what is not in the deck is told */
export function filmsOf(
  slide: XmlNode,
  relations: readonly Relation[],
  pack: OfficePackage,
  warnings: Warnings,
): ReadonlyMap<string, FoundFilm> {
  const found = new Map<string, FoundFilm>()
  for (const shape of below(at(slide, 'cSld', 'spTree'), 'pic')) {
    const id = namesOf(shape)?.attrs.id
    const holder = at(shape, 'nvPicPr', 'nvPr')
    const media = below(holder, 'media')[0]
    const named = [media, child(holder, 'videoFile'), child(holder, 'quickTimeFile')].flatMap((node) =>
      node ? [node.attrs['r:embed'], node.attrs['r:link']].filter((one): one is string => one !== undefined) : [],
    )
    const targets = named.flatMap((one) => relations.find((relation) => relation.id === one) ?? [])
    const isFilm =
      targets.some(({ target }) => FILM.test(target)) ||
      (child(holder, 'videoFile') !== undefined && targets.length > 0 && !targets.some(({ target }) => SOUND.test(target)))
    if (id === undefined || !isFilm) continue
    const inside = targets.find(({ external, target }) => !external && pack.has(target))
    if (!inside) {
      warnings.add(WARN.filmElsewhere(nameIn(targets[0]!.target)))
      continue
    }
    const { fromSeconds, endTrimSeconds } = trimOf(media)
    const settings = { ...playedOf(slide, id), ...(fromSeconds > 0 ? { fromSeconds } : {}) }
    found.set(id, { part: inside.target, settings, endTrimSeconds })
  }
  return found
}
