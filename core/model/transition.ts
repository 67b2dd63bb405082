/** How a slide takes over from the one before it: each kind is one entry, which player, encoder, estimates and screens read. */
import { type Message, message } from '#core/words/say.ts'

/** How the new picture lies over the old one, in shares of the picture. */
export interface Layout {
  /** 0 to 1. */
  opacity: number
  /** So much of the new picture is cut away at its left. */
  cutLeft: number
  /** Both are moved to the right by so much; to the left where it is negative. */
  newShift: number
  oldShift: number
}
const OVER: Layout = { opacity: 1, cutLeft: 0, newShift: 0, oldShift: 0 }

interface TransitionKind {
  /** On screens. */
  words: Message
  /** The encoder's filter between two pictures (`xfade`); null where frames are filled in between them, which is five times faster. */
  filter: string | null
  /** What a frame of it weighs, of the slide's first frame. Measured on two decks of slides. */
  weight: number
  /** @param progress 0 to 1 */
  layout(progress: number): Layout
}

export const TRANSITIONS = {
  'cross-fade': {
    words: message('cross-fade'),
    filter: null,
    weight: 0.5,
    layout: (progress) => ({ ...OVER, opacity: progress }),
  },
  wipe: {
    words: message('wipe'),
    filter: 'wipeleft',
    weight: 0.07,
    layout: (progress) => ({ ...OVER, cutLeft: 1 - progress }),
  },
  push: {
    words: message('push'),
    filter: 'slideleft',
    weight: 0.6,
    layout: (progress) => ({ ...OVER, newShift: 1 - progress, oldShift: -progress }),
  },
} as const satisfies Record<string, TransitionKind>

export type ChangeKind = keyof typeof TRANSITIONS
export const CHANGE_KINDS = Object.keys(TRANSITIONS) as [ChangeKind, ...ChangeKind[]]

/** Its bounds are checked by `Transition` in `timing.ts`: screens need the kinds, and nothing of what checks them. */
export interface Transition {
  kind: 'none' | ChangeKind
  seconds: number
}
export const NO_TRANSITION: Transition = { kind: 'none', seconds: 0.5 }

/** What kinds are called on screens; a plain cut first. */
export const TRANSITION_WORDS: Record<Transition['kind'], Message> = {
  none: message('plain cut'),
  ...(Object.fromEntries(CHANGE_KINDS.map((kind) => [kind, TRANSITIONS[kind].words])) as Record<ChangeKind, Message>),
}
