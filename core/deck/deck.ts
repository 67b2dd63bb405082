import type { Message } from '#core/words/say.ts'

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
  | { kind: 'gradient'; angle: number; stops: { at: number; colour: string }[] }
  | { kind: 'picture'; part: string }

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
  serif: boolean
  mono: boolean
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
  /** As a factor of the size, or pixels when negative. */
  lineSpacing: number
  before: number
  after: number
  rightToLeft: boolean
}

export interface TextBox {
  paragraphs: Paragraph[]
  anchor: 'top' | 'middle' | 'bottom'
  inset: { left: number; top: number; right: number; bottom: number }
  wrap: boolean
  /** 1, or what the writer shrank the text by to make it fit. */
  scale: number
}

export type DrawnItem =
  | { kind: 'shape'; box: Transform; path: PathStep[]; fill: Fill | null; line: Line | null; text: TextBox | null }
  | {
      kind: 'picture'
      box: Transform
      part: string
      crop: { left: number; top: number; right: number; bottom: number }
      opacity: number
      /** Whether it is drawn whole inside its box; else it fills the box. */
      contain?: boolean
    }

export interface Drawing {
  width: number
  height: number
  background: Fill
  items: DrawnItem[]
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
  drawing: Drawing
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
