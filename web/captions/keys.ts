/** Keys of the captions page. They work while a caption is typed, so each is held with Alt or Ctrl. */

import type { KeyboardEvent } from 'react'
import { type Message, message } from '#core/words/say.ts'

interface Key {
  code: string
  with: 'alt' | 'ctrl'
  shift?: boolean
  shown: string
  does: Message
}

export const KEYS = {
  split: { code: 'Enter', with: 'ctrl', shown: 'Ctrl+Enter', does: message('divide the caption where the cursor stands') },
  join: { code: 'KeyJ', with: 'alt', shown: 'Alt+J', does: message('join it with the next') },
  hear: { code: 'KeyL', with: 'alt', shown: 'Alt+L', does: message('listen to it, or stop') },
  back: { code: 'KeyB', with: 'alt', shown: 'Alt+B', does: message('go back two seconds') },
  next: { code: 'ArrowDown', with: 'alt', shown: 'Alt+↓', does: message('go to the next caption') },
  before: { code: 'ArrowUp', with: 'alt', shown: 'Alt+↑', does: message('go to the one before') },
  earlier: { code: 'ArrowLeft', with: 'alt', shown: 'Alt+←', does: message('let it come a little earlier') },
  later: { code: 'ArrowRight', with: 'alt', shown: 'Alt+→', does: message('let it come a little later') },
  shorter: { code: 'ArrowLeft', with: 'alt', shift: true, shown: 'Alt+Shift+←', does: message('let it go a little earlier') },
  right: { code: 'Enter', with: 'alt', shown: 'Alt+Enter', does: message('it is right: on to the next that is to be checked') },
  longer: { code: 'ArrowRight', with: 'alt', shift: true, shown: 'Alt+Shift+→', does: message('let it go a little later') },
} satisfies Record<string, Key>

export type KeyName = keyof typeof KEYS

export function keyOf(event: KeyboardEvent): KeyName | null {
  const found = (Object.entries(KEYS) as [KeyName, Key][]).find(
    ([, key]) =>
      event.code === key.code &&
      (key.with === 'alt' ? event.altKey : event.ctrlKey || event.metaKey) &&
      event.shiftKey === (key.shift ?? false),
  )
  return found?.[0] ?? null
}
