/** How much of the sound is kept: all of it, or the band of wide-band telephony, which takes half the disk. */
import { type Message, message } from '#core/words/say.ts'

export type Quality = 'full' | 'small'

/** Measured on the demo's takes, as FLAC. */
export const QUALITIES: Record<Quality, { name: Message; megabytesAMinute: number; says: Message }> = {
  full: { name: message('Full'), megabytesAMinute: 3.1, says: message('all the microphone gives, 48 kHz') },
  small: {
    name: message('Small'),
    megabytesAMinute: 1.5,
    says: message('the voice up to 7 kHz, as in wide-band telephony (ITU-T G.722)'),
  },
}

const KEY = 'recording quality'
export const chosenQuality = (): Quality => (localStorage.getItem(KEY) === 'small' ? 'small' : 'full')
export const chooseQuality = (quality: Quality) => localStorage.setItem(KEY, quality)

/** What is kept of the small quality lies below this. */
export const BAND_HZ = 7000
