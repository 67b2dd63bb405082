/** Slides with clicks made by chance, and what must be seen of them after each click. */
import { strToU8 } from 'fflate'
import { readClicks as readOdf } from '#core/deck/odf/timing.ts'
import { readClicks as readOoxml } from '#core/deck/ooxml/timing.ts'
import { type EffectGroup, slideStates } from '#core/deck/steps/steps.ts'
import { parseXml } from '#core/deck/xml.ts'
import { click, enters, leaves, type MadeEffect, moved, onShape, paragraphs, recoloured, timing } from '#tests/made/clicks.ts'
import { random } from '#tests/made/sound.ts'

const SHAPES = 4
const PARAGRAPHS = 3

type Kind = 'show' | 'hide' | 'move' | 'colour' | 'paragraph'
interface Event {
  kind: Kind
  shape: number
  paragraph: number
  when: 'clickEffect' | 'withEffect' | 'afterEffect'
}

/** What is seen: by shape whether it is there, where it is, which paragraphs of it are. */
type Seen = { there: boolean; x: number; colour: boolean; paragraphs: boolean[] }[]

function madeEvents(next: () => number): Event[][] {
  const pick = <T>(list: readonly T[]) => list[Math.floor(next() * list.length)]!
  return Array.from({ length: 1 + Math.floor(next() * 7) }, () =>
    Array.from({ length: 1 + Math.floor(next() * 3) }, (_, i) => ({
      kind: pick(['show', 'show', 'hide', 'move', 'colour', 'paragraph'] as const),
      shape: Math.floor(next() * SHAPES),
      paragraph: Math.floor(next() * PARAGRAPHS),
      when: i === 0 ? ('clickEffect' as const) : pick(['withEffect', 'afterEffect'] as const),
    })),
  )
}

function expected(clicks: Event[][]): Seen[] {
  const all = clicks.flat()
  const first = (shape: number, kinds: Kind[], paragraph?: number) =>
    all.find((e) => e.shape === shape && kinds.includes(e.kind) && (paragraph === undefined || e.paragraph === paragraph))
  const now: Seen = Array.from({ length: SHAPES }, (_, shape) => ({
    there: first(shape, ['show', 'hide'])?.kind !== 'show',
    x: 0,
    colour: false,
    paragraphs: Array.from({ length: PARAGRAPHS }, (_, p) => first(shape, ['paragraph'], p) === undefined),
  }))
  const seen = [structuredClone(now)]
  for (const events of clicks) {
    for (const { kind, shape, paragraph } of events) {
      const one = now[shape]!
      if (kind === 'show' || kind === 'hide') one.there = kind === 'show'
      else if (kind === 'move') one.x += 0.1
      else if (kind === 'colour') one.colour = true
      else one.paragraphs[paragraph] = true
    }
    seen.push(structuredClone(now))
  }
  return seen
}

function read(groups: readonly EffectGroup[], nameOf: (shape: number) => string): Seen[] {
  return slideStates(groups).map(({ state }) =>
    Array.from({ length: SHAPES }, (_, shape) => {
      const own = state.get(nameOf(shape))
      return {
        there: !(own?.hidden ?? false),
        x: own?.move.x ?? 0,
        colour: own?.fill !== undefined,
        paragraphs: Array.from({ length: PARAGRAPHS }, (_, p) => !(own?.hiddenParagraphs.has(p) ?? false)),
      }
    }),
  )
}

function asOoxml(clicks: Event[][]): Seen[] {
  const effectOf = ({ kind, shape, paragraph, when }: Event): MadeEffect => {
    const target = onShape(shape + 2)
    const made = {
      show: () => enters(target),
      hide: () => leaves(target),
      move: () => moved(target, 'M 0 0 L 0.1 0 E'),
      colour: () => recoloured(target, 'fillcolor', 'A93428'),
      paragraph: () => enters(onShape(shape + 2, paragraphs(paragraph))),
    }[kind]()
    return { ...made, when }
  }
  const xml = `<p:sld xmlns:p="p">${timing(clicks.map((events) => click(...events.map(effectOf))))}</p:sld>`
  const theme = { colours: new Map<string, string>(), map: new Map<string, string>(), major: '', minor: '' }
  return read(readOoxml(parseXml(strToU8(xml), 'slide'), theme).groups, (shape) => String(shape + 2))
}

function asOdf(clicks: Event[][]): Seen[] {
  const WHEN = { clickEffect: 'on-click', withEffect: 'with-previous', afterEffect: 'after-previous' }
  const effectOf = ({ kind, shape, paragraph, when }: Event) => {
    const target = kind === 'paragraph' ? `s${shape}p${paragraph}` : `s${shape}`
    const [kindName, inside] = {
      show: ['entrance', `<anim:set smil:targetElement="${target}" smil:attributeName="visibility" smil:to="visible"/>`],
      paragraph: ['entrance', `<anim:set smil:targetElement="${target}" smil:attributeName="visibility" smil:to="visible"/>`],
      hide: ['exit', `<anim:set smil:targetElement="${target}" smil:attributeName="visibility" smil:to="hidden"/>`],
      move: ['motion-path', `<anim:animateMotion smil:targetElement="${target}" svg:path="m0 0 0.1 0"/>`],
      colour: [
        'emphasis',
        `<anim:animateColor smil:targetElement="${target}" smil:attributeName="fill-color" smil:to="#a93428"/>`,
      ],
    }[kind]
    return `<anim:par smil:begin="0s"><anim:par smil:begin="0s" presentation:node-type="${WHEN[when]}" presentation:preset-class="${kindName}">${inside}</anim:par></anim:par>`
  }
  const shapes = Array.from(
    { length: SHAPES },
    (_, s) =>
      `<draw:frame draw:id="s${s}"><draw:text-box>${Array.from({ length: PARAGRAPHS }, (_, p) => `<text:p xml:id="s${s}p${p}">x</text:p>`).join('')}</draw:text-box></draw:frame>`,
  )
  const tree = clicks.map((events) => `<anim:par smil:begin="next">${events.map(effectOf).join('')}</anim:par>`).join('')
  const xml = `<draw:page>${shapes.join('')}<anim:par presentation:node-type="timing-root"><anim:seq presentation:node-type="main-sequence">${tree}</anim:seq></anim:par></draw:page>`
  return read(readOdf(parseXml(strToU8(xml), 'page')).groups, (shape) => `s${shape}`)
}

/** @returns share of effects whose click ends with what must be seen then */
export function clicksRight(seed: number, cases: number): number {
  const next = random(seed)
  let [right, all] = [0, 0]
  for (let i = 0; i < cases; i++) {
    const clicks = madeEvents(next)
    const wanted = expected(clicks)
    for (const found of [asOoxml(clicks), asOdf(clicks)])
      for (const [c, events] of clicks.entries()) {
        all += events.length
        const near = (a: Seen | undefined, b: Seen) =>
          a !== undefined && JSON.stringify(a, rounded) === JSON.stringify(b, rounded)
        if (found.length === wanted.length && near(found[c], wanted[c]!) && near(found[c + 1], wanted[c + 1]!))
          right += events.length
      }
  }
  return right / all
}
const rounded = (_: string, value: unknown) => (typeof value === 'number' ? Math.round(value * 1000) / 1000 : value)
