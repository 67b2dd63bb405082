import { Button } from '#web/components/button.tsx'
import { Key } from '#web/components/keys/key.tsx'

/** A key or a button, and when: what is told by it is about that moment. */
export type Pressed = Pick<Event, 'timeStamp'>

interface KeyButtonProps {
  words: string
  /** What is on the key that does the same. */
  letter: string
  /** What it does, where the words alone do not say it. */
  says?: string | undefined
  disabled?: boolean
  onPress: (press: Pressed) => void
}

/** Something that is done while one speaks, by a key or a press; its key stands on it. */
export const KeyButton = ({ words, letter, says, disabled = false, onPress }: KeyButtonProps) => (
  <Button disabled={disabled} title={says} onClick={onPress} className="justify-between">
    {words} <Key>{letter}</Key>
  </Button>
)
