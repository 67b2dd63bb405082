/** Takes that nobody spoke: recorded from the practice microphone, which is there for trying things out. */

/** Names of its scenes begin so, and with them what a take says of its microphone. */
export const PRACTICE_MICROPHONE = 'Practice microphone'

/** @param take what is known of the microphone it was recorded with */
export const isPracticeVoice = ({ microphone }: { microphone: string }) => microphone.startsWith(PRACTICE_MICROPHONE)
