/**
 * What ECMA-376 (5th edition, part 1, annex A, `pml.xsd`) allows inside a slide's transition, its timing and the sign of a sound: for each
 * element its children, as a pattern over their names in order, and its attributes. Only what the narrated presentation file may use;
 * put down here from memory of the schema.
 */
import { XMLParser } from 'fast-xml-parser'

interface Kind {
  /** Names in order, each followed by a space. */
  children?: RegExp
  attributes?: Record<string, RegExp>
  required?: string[]
  /** Of another schema, not looked into. */
  other?: boolean
}

const BOOLEAN = /^(true|false|0|1)$/
const UNSIGNED = /^\d+$/
/** ST_TLTime */
const TIME = /^(\d+|indefinite)$/
const NODE = '(par|seq|excl|anim|animClr|animEffect|animMotion|animRot|animScale|cmd|set|audio|video) '

const ELEMENTS: Record<string, Kind> = {
  'p:sld': {
    children: /^cSld (clrMapOvr )?(transition )?(timing )?(extLst )?$/,
    attributes: { showMasterSp: BOOLEAN, showMasterPhAnim: BOOLEAN, show: BOOLEAN },
  },
  'p:cSld': { other: true },
  'p:clrMapOvr': { other: true },
  'p:transition': {
    children: /^(\w+ )?(sndAc )?(extLst )?$/,
    attributes: { spd: /^(slow|med|fast)$/, advClick: BOOLEAN, advTm: UNSIGNED },
  },
  'p:timing': { children: /^(tnLst )?(bldLst )?(extLst )?$/ },
  'p:tnLst': { children: new RegExp(`^(${NODE})+$`) },
  'p:childTnLst': { children: new RegExp(`^(${NODE})+$`) },
  'p:par': { children: /^cTn $/ },
  'p:seq': {
    children: /^cTn (prevCondLst )?(nextCondLst )?(extLst )?$/,
    attributes: { concurrent: BOOLEAN, prevAc: /^(none|skipTimed)$/, nextAc: /^(none|seek)$/ },
  },
  'p:cTn': {
    children: /^(stCondLst )?(endCondLst )?(endSync )?(iterate )?(childTnLst )?(subTnLst )?$/,
    attributes: {
      id: UNSIGNED,
      presetID: /^-?\d+$/,
      presetClass: /^(entr|exit|emph|path|verb|mediacall)$/,
      presetSubtype: /^-?\d+$/,
      dur: TIME,
      restart: /^(always|whenNotActive|never)$/,
      fill: /^(remove|freeze|hold|transition)$/,
      display: BOOLEAN,
      nodeType: /^(clickEffect|withEffect|afterEffect|mainSeq|interactiveSeq|clickPar|withGroup|afterGroup|tmRoot)$/,
    },
  },
  'p:stCondLst': { children: /^(cond )+$/ },
  'p:prevCondLst': { children: /^(cond )+$/ },
  'p:nextCondLst': { children: /^(cond )+$/ },
  'p:cond': {
    children: /^((tgtEl|tn|rtn) )?$/,
    attributes: { evt: /^(onBegin|onEnd|begin|end|onClick|onMouseOver|onMouseOut|onNext|onPrev|onStopAudio)$/, delay: TIME },
  },
  'p:tn': { children: /^$/, attributes: { val: UNSIGNED }, required: ['val'] },
  'p:tgtEl': { children: /^(sldTgt|sndTgt|spTgt|inkTgt) $/ },
  'p:sldTgt': { children: /^$/ },
  'p:spTgt': { children: /^((bg|subSp|oleChartEl|txEl|graphicEl) )?$/, attributes: { spid: UNSIGNED }, required: ['spid'] },
  'p:set': { children: /^cBhvr (to )?$/ },
  'p:to': { children: /^(boolVal|intVal|fltVal|strVal|clrVal) $/ },
  'p:strVal': { children: /^$/, attributes: { val: /^.*$/ }, required: ['val'] },
  'p:attrNameLst': { children: /^(attrName )+$/ },
  'p:attrName': { other: true },
  'p:fade': { children: /^$/, attributes: { thruBlk: BOOLEAN } },
  'p:wipe': { children: /^$/, attributes: { dir: /^[lrud]$/ } },
  'p:push': { children: /^$/, attributes: { dir: /^[lrud]$/ } },
  'p:cmd': { children: /^cBhvr $/, attributes: { type: /^(evt|call|verb)$/, cmd: /^.+$/ } },
  'p:cBhvr': { children: /^cTn tgtEl (attrNameLst )?$/ },
  'p:audio': { children: /^cMediaNode $/, attributes: { isNarration: BOOLEAN } },
  'p:cMediaNode': {
    children: /^cTn tgtEl $/,
    attributes: { vol: UNSIGNED, mute: BOOLEAN, numSld: UNSIGNED, showWhenStopped: BOOLEAN },
  },
  // the sign of a sound
  'p:pic': { children: /^nvPicPr blipFill spPr (style )?(extLst )?$/ },
  'p:nvPicPr': { children: /^cNvPr cNvPicPr nvPr $/ },
  'p:cNvPr': { other: true },
  'p:cNvPicPr': { other: true },
  'p:blipFill': { other: true },
  'p:spPr': { other: true },
  'p:nvPr': {
    children: /^(ph )?((audioCd|wavAudioFile|audioFile|videoFile|quickTimeFile) )?(custDataLst )?(extLst )?$/,
    attributes: { isPhoto: BOOLEAN, userDrawn: BOOLEAN },
  },
  'p:extLst': { other: true },
  'a:audioFile': { children: /^(extLst )?$/, attributes: { 'r:link': /^rId\d+$/, contentType: /^.+$/ }, required: ['r:link'] },
}

type Node = Record<string, unknown>
const nameOf = (node: Node) => Object.keys(node).find((key) => key !== ':@')!
const childrenOf = (node: Node) => (node[nameOf(node)] as Node[]).filter((child) => nameOf(child) !== '#text')

/** @returns what the schema does not allow, each with the way to it; empty when all is well */
function faultsOf(node: Node, way = ''): string[] {
  const name = nameOf(node)
  const here = `${way}/${name}`
  const kind = ELEMENTS[name]
  if (!kind) return [`${here}: not known`]
  if (kind.other) return []
  const children = childrenOf(node)
  const order = children.map((child) => `${nameOf(child).split(':')[1]} `).join('')
  const attributes = Object.entries((node[':@'] ?? {}) as Record<string, string>).filter(([key]) => !key.startsWith('xmlns'))
  return [
    ...(kind.children?.test(order) ? [] : [`${here}: children “${order.trim()}”`]),
    ...attributes
      .filter(([key, value]) => !kind.attributes?.[key]?.test(value))
      .map(([key, value]) => `${here}: ${key}="${value}"`),
    ...(kind.required ?? []).filter((key) => !attributes.some(([own]) => own === key)).map((key) => `${here}: no ${key}`),
    ...children.flatMap((child) => faultsOf(child, here)),
  ]
}

const parser = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  parseAttributeValue: false,
})
const inside = (node: Node): Node[] => [node, ...(nameOf(node) === '#text' ? [] : childrenOf(node)).flatMap(inside)]

/** What of a slide's transition, timing and signs of sound the schema does not allow. @param xml of the slide */
export function faultsOfSlide(xml: string): string[] {
  const slide = (parser.parse(xml) as Node[]).find((node) => nameOf(node) === 'p:sld')
  if (!slide) return ['no p:sld']
  const signs = inside(slide).filter((node) => nameOf(node) === 'p:pic' && inside(node).some((n) => nameOf(n) === 'a:audioFile'))
  return [slide, ...signs].flatMap((node) => faultsOf(node))
}
