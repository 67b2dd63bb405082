/** What a person should know of a sound file as it was read. */
import { say } from '#core/words/say.ts'
import type { ReadSound } from '#server/media/read-sound.ts'

type Known = Pick<ReadSound, 'deadChannels' | 'cancels'>

export const toldOfChannels = ({ deadChannels, cancels }: Known): string[] => [
  ...(cancels ? [say('The two channels cancel each other out; one of them was taken alone.')] : []),
  ...(deadChannels > 0 ? [say('One channel carried no sound and was left out.')] : []),
]

/** For commands whose own output is something else. */
export function tellOfSound(sound: Pick<ReadSound, 'missing'> & Known) {
  for (const told of [...(sound.missing ? [say(sound.missing.note)] : []), ...toldOfChannels(sound)])
    process.stderr.write(`${told}\n`)
}
