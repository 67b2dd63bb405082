/** Effects that a slide has for what stands on it. They are counted, and told: what is drawn of a slide is all of it at once. */
import { below, type XmlNode } from '../xml.ts'

/** What comes, goes, is stressed or moves; sounds and films have their own. @see ECMA-376, part 1, §19.7, ST_TLTimeNodePresetClassType */
const CLASSES = /^(entr|exit|emph|path)$/

/** @param slide `p:sld` @see ECMA-376, part 1, §19.5.33, cTn */
export const countEffects = (slide: XmlNode): number =>
  below(slide, 'timing')
    .flatMap((timing) => below(timing, 'cTn'))
    .filter(({ attrs }) => CLASSES.test(attrs.presetClass ?? '')).length
