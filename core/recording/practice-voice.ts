/** Takes that nobody spoke: recorded from the practice microphone, which is there for trying things out. */

/** Names of its scenes begin so, and with them what a take says of its microphone. */
export const PRACTICE_MICROPHONE = 'Practice microphone'

/** What it reads, over and over. */
export const PRACTICE_TEXT =
  'Good evening. This is the practice microphone. It reads these words in a noisy room. So you can try everything before you speak yourself. Take your time, and stop when you like.'

/** @param take what is known of the microphone it was recorded with */
export const isPracticeVoice = ({ microphone }: { microphone: string }) => microphone.startsWith(PRACTICE_MICROPHONE)
