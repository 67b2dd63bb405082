/** Effects that a page has for what stands on it. They are counted, and told: what is drawn of a page is all of it at once. */
import { below, type XmlNode } from '../xml.ts'

/** @see OpenDocument 1.3, part 3, §19, presentation:preset-class */
const CLASSES = /^(entrance|exit|emphasis|motion-path)$/

/** @param page `draw:page` */
export const countEffects = (page: XmlNode): number =>
  below(page, 'par').filter(({ attrs }) => CLASSES.test(attrs['presentation:preset-class'] ?? '')).length
