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

/** Q of the three stages of a Butterworth low-pass of sixth order. */
const STAGES = [1, 3, 5].map((n) => 0.5 / Math.cos((n * Math.PI) / 12))
const BAND_HZ = 7000

/** @returns the input as it is kept */
export function withQuality(context: AudioContext, input: AudioNode, quality: Quality): AudioNode {
  if (quality === 'full') return input
  return STAGES.reduce((node: AudioNode, q) => {
    // the Q of this node is in decibels
    const stage = new BiquadFilterNode(context, { type: 'lowpass', frequency: BAND_HZ, Q: 20 * Math.log10(q) })
    return node.connect(stage)
  }, input)
}
