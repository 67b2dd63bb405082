import type { FilmSettings } from '#core/model/moving/film.ts'
import type { Transition } from '#core/model/transition.ts'
import type { Message } from '#core/words/say.ts'
import type { Chart } from './chart.ts'
import type { Face } from './faces.ts'

/** What an imported deck says: its slides in order, and how each is drawn. Lengths are pixels of a slide 1920 wide or 1080 high. */

export interface Transform {
  x: number
  y: number
  width: number
  height: number
  /** Degrees, clockwise, about the middle. */
  rotation: number
  flipX: boolean
  flipY: boolean
}

/** Colours as CSS has them. */
export type Fill =
  | { kind: 'solid'; colour: string }
  | { kind: 'gradient'; angle: number; stops: { at: number; colour: string }[]; radial?: { x: number; y: number } }
  | {
      kind: 'picture'
      part: string
      /** It is laid side by side instead of stretched: as large as is said, pixels, else so many for each of its own. */
      tile?: { width: number | null; height: number | null; pixel: number }
    }

export interface Line {
  colour: string
  width: number
  dash: number[]
  head: boolean
  tail: boolean
}

/** A path inside its own box: coordinates 0 to 1 of its width and height. */
export type PathStep =
  | { to: 'move' | 'line'; x: number; y: number }
  | { to: 'curve'; points: [number, number, number, number, number, number] }
  | { to: 'ellipse'; x: number; y: number; rx: number; ry: number; from: number; until: number }
  | { to: 'close' }

export interface TextRun {
  text: string
  size: number
  bold: boolean
  italic: boolean
  underline: boolean
  strike: boolean
  colour: string
  face: Face
  /** Above or below the line, as a share of the size. */
  raise: number
}

export interface Paragraph {
  runs: TextRun[]
  align: 'left' | 'center' | 'right'
  /** Distance of the text from the box's edge, and of its first line from that. */
  left: number
  indent: number
  bullet: string | null
  bulletColour: string | null
  /** As a factor of the size of its text. */
  bulletSize: number
  /** As a factor of the size, or pixels when negative. */
  lineSpacing: number
  before: number
  after: number
  rightToLeft: boolean
  /** It comes with a later click: it keeps its room, and is not seen. */
  hidden?: boolean
}

export interface TextBox {
  paragraphs: Paragraph[]
  anchor: 'top' | 'middle' | 'bottom'
  inset: { left: number; top: number; right: number; bottom: number }
  wrap: boolean
  /** 1, or what the writer shrank the text by to make it fit. */
  scale: number
  /** It is made smaller until it fits; else what does not fit runs over the edge. */
  shrinks: boolean
  /** Degrees that it is turned by within its shape, clockwise; by a quarter turn its width is the shape's height. */
  turn: number
}

/** A soft copy behind a shape. */
export interface Shadow {
  x: number
  y: number
  blur: number
  /** CSS. */
  colour: string
}

interface Drawn {
  box: Transform
  /** 1 where it is absent. */
  opacity?: number
}

export type DrawnItem = Drawn &
  (
    | {
        kind: 'shape'
        path: PathStep[]
        fill: Fill | null
        line: Line | null
        text: TextBox | null
        shadow?: Shadow
      }
    | {
        kind: 'picture'
        part: string
        crop: { left: number; top: number; right: number; bottom: number }
        /** Whether it is drawn whole inside its box; else it fills the box. */
        contain?: boolean
        /** What is outside of it is cut off. */
        path?: PathStep[]
      }
    | { kind: 'chart'; chart: Chart }
  )

export interface Drawing {
  width: number
  height: number
  background: Fill
  items: DrawnItem[]
}

/** A film on a slide. */
export interface DeckFilm {
  /** Its file in the deck. */
  part: string
  box: Transform
  /** The slide's picture shows a picture of it. */
  hasPoster: boolean
  settings: Partial<FilmSettings>
  /** Seconds that are left out at its end. */
  endTrimSeconds: number
}

/** What is said of a film beside its place. */
export type FoundFilm = Omit<DeckFilm, 'box' | 'hasPoster'>

/** How a slide stands after a click. */
export interface DeckStep {
  drawing: Drawing
  /** What begins to move with it. */
  films: DeckFilm[]
  /** The words that come with it. */
  text: string
  /** Seconds after the one before, where it comes by itself; null where a click brings it. */
  afterSeconds: number | null
}

export interface DeckSlide {
  title: string
  /** The words on it, and what its maker wrote of its pictures. */
  altText: string
  /** Words on it are among them: they do not say what it looks like. */
  isAltTextDraft: boolean
  notes: string
  hidden: boolean
  /** Heading of the section that begins with it; '' where none does. */
  section: string
  /** How long it is shown before the next comes by itself, milliseconds; null when it waits. */
  advanceMs: number | null
  /** As it stands at first. */
  drawing: Drawing
  /** What moves from its beginning on, or when the voice has ended. */
  films: DeckFilm[]
  /** What its clicks bring, in order. */
  steps: DeckStep[]
  /** How it takes over from the slide before; null where the deck says nothing. */
  transition: Transition | null
  /** Name of the sound in the deck; null without one. */
  sound: string | null
  /** What could not be drawn or was not in the deck, one sentence each. */
  warnings: Message[]
}

export interface Deck {
  title: string
  /** What it says its text is written in (BCP 47); null where it says nothing. */
  language: string | null
  slides: DeckSlide[]
}

export const MOST_SLIDES = 1000
