/** How much of the sound is kept: all of it, or the band of wide-band telephony, which takes half the disk. */

export type Quality = 'full' | 'small'

/** Measured on the demo's takes, as FLAC. */
export const QUALITIES: Record<Quality, { name: string; megabytesAMinute: number; says: string }> = {
  full: { name: 'Full', megabytesAMinute: 3.1, says: 'all the microphone gives, 48 kHz' },
  small: { name: 'Small', megabytesAMinute: 1.5, says: 'the voice up to 7 kHz, as in wide-band telephony (ITU-T G.722)' },
}

const KEY = 'recording quality'
export const chosenQuality = (): Quality => (localStorage.getItem(KEY) === 'small' ? 'small' : 'full')
export const chooseQuality = (quality: Quality) => localStorage.setItem(KEY, quality)

/** What is kept of the small quality lies below this. */
export const BAND_HZ = 7000
