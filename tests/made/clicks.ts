/** Time nodes of slides, written by hand after ECMA-376, part 1, §19.5, as writers of decks nest them. */

let id = 1
const timeNode = (attributes: string, inside: string, delay: string | number = 0) =>
  `<p:par><p:cTn id="${id++}" ${attributes} fill="hold"><p:stCondLst><p:cond delay="${delay}"/></p:stCondLst><p:childTnLst>${inside}</p:childTnLst></p:cTn></p:par>`

/** What an effect is for: a shape by its number, or a part of it. */
export const onShape = (shape: number, part = '') =>
  `<p:tgtEl><p:spTgt spid="${shape}"${part ? `>${part}</p:spTgt>` : '/>'}</p:tgtEl>`
export const paragraphs = (from: number, to = from) => `<p:txEl><p:pRg st="${from}" end="${to}"/></p:txEl>`
export const series = (index: number) =>
  `<p:graphicEl><a:chart seriesIdx="${index}" categoryIdx="-3" bldStep="series"/></p:graphicEl>`

const behaviour = (name: string, target: string, attributes = '', inside = '', attribute = '', own = '') =>
  `<p:${name} ${attributes}><p:cBhvr><p:cTn id="${id++}" dur="500" fill="hold" ${own}/>${target}${
    attribute ? `<p:attrNameLst><p:attrName>${attribute}</p:attrName></p:attrNameLst>` : ''
  }</p:cBhvr>${inside}</p:${name}>`
const visibility = (target: string, to: 'visible' | 'hidden') =>
  behaviour('set', target, '', `<p:to><p:strVal val="${to}"/></p:to>`, 'style.visibility')

export interface MadeEffect {
  kind: 'entr' | 'exit' | 'emph' | 'path'
  behaviours: string
  when?: 'clickEffect' | 'withEffect' | 'afterEffect'
  /** Milliseconds. */
  delay?: number
  attributes?: string
}
export const enters = (target: string): MadeEffect => ({
  kind: 'entr',
  // a fading after what makes it visible, as an entrance has
  behaviours: visibility(target, 'visible') + behaviour('animEffect', target, 'transition="in" filter="fade"'),
})
export const leaves = (target: string): MadeEffect => ({
  kind: 'exit',
  behaviours: behaviour('animEffect', target, 'transition="out" filter="fade"') + visibility(target, 'hidden'),
})
export const recoloured = (target: string, attribute: string, colour: string): MadeEffect => ({
  kind: 'emph',
  behaviours: behaviour('animClr', target, 'clrSpc="rgb"', `<p:to><a:srgbClr val="${colour}"/></p:to>`, attribute),
})
export const moved = (target: string, path: string): MadeEffect => ({
  kind: 'path',
  behaviours: behaviour('animMotion', target, `origin="layout" path="${path}"`, '', 'ppt_x'),
})
export const grown = (target: string, share: number, own = ''): MadeEffect => ({
  kind: 'emph',
  behaviours: behaviour('animScale', target, '', `<p:by x="${share * 100_000}" y="${share * 100_000}"/>`, '', own),
})

const effectNode = ({ kind, behaviours, when = 'clickEffect', delay = 0, attributes = '' }: MadeEffect) =>
  timeNode(`presetID="10" presetClass="${kind}" presetSubtype="0" nodeType="${when}" ${attributes}`, behaviours, delay)

/** A click: each of its effects with the milliseconds from the click on at which writers place its group. */
export const click = (...effects: (MadeEffect & { at?: number })[]) =>
  timeNode('', effects.map(({ at = 0, ...effect }) => timeNode('', effectNode(effect), at)).join(''), 'indefinite')

/** @param clicks of the main sequence; @param pressed effects that wait for a press on a shape */
export const timing = (clicks: string[], pressed = '') =>
  `<p:timing xmlns:p="http://schemas.openxmlformats.org/presentationml/2006/main" xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"><p:tnLst><p:par><p:cTn id="${id++}" dur="indefinite" restart="never" nodeType="tmRoot"><p:childTnLst><p:seq concurrent="1" nextAc="seek"><p:cTn id="${id++}" dur="indefinite" nodeType="mainSeq"><p:childTnLst>${clicks.join('')}</p:childTnLst></p:cTn></p:seq>${
    pressed ? `<p:seq><p:cTn id="${id++}" nodeType="interactiveSeq"><p:childTnLst>${pressed}</p:childTnLst></p:cTn></p:seq>` : ''
  }</p:childTnLst></p:cTn></p:par></p:tnLst></p:timing>`
