/** Keys of typing by ear. */

import type { KeyboardEvent } from 'react'
import { message } from '#core/words/say.ts'

/** Keys while captions are typed by ear. The last two of each are for a foot pedal: keys that hardly any keyboard has, and those of players. */
export const EAR_KEYS = {
  goOn: { keys: ['Enter', 'F15', 'MediaTrackNext'], shown: 'Enter', does: message('done: on to the next phrase, and hear it') },
  again: { keys: ['F14', 'MediaPlayPause'], shown: 'F14', does: message('hear the phrase again') },
  back: { keys: ['F13', 'MediaTrackPrevious'], shown: 'F13', does: message('go back two seconds and go on from there') },
}

export type EarKeyName = keyof typeof EAR_KEYS

export function earKeyOf(event: KeyboardEvent): EarKeyName | null {
  if (event.shiftKey || event.ctrlKey || event.altKey || event.metaKey) return null
  const found = (Object.entries(EAR_KEYS) as [EarKeyName, { keys: string[] }][]).find(([, { keys }]) => keys.includes(event.key))
  return found?.[0] ?? null
}
