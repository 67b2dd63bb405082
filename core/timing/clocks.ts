/**
 * The three clocks. A moment is always on exactly one of them; the brands keep a moment of one clock from being
 * read on another. Only `time-map.ts` (take → slide) and `schedule.ts` (slide → lecture) carry moments across.
 */
declare const clock: unique symbol

/** Seconds in a recording as it was made. */
export type TakeSeconds = number & { readonly [clock]: 'take' }
/** Seconds since the slide appeared. */
export type SlideSeconds = number & { readonly [clock]: 'slide' }
/** Seconds since the lecture started. */
export type LectureSeconds = number & { readonly [clock]: 'lecture' }

export const takeSeconds = (seconds: number) => seconds as TakeSeconds
export const slideSeconds = (seconds: number) => seconds as SlideSeconds
export const lectureSeconds = (seconds: number) => seconds as LectureSeconds

/** The one sample rate of the product: everything is converted to it on the way in. */
export const SAMPLE_RATE = 48_000

/** Samples in one AAC frame (ISO/IEC 14496-3). Slide lengths are multiples of it, so that slides join without a gap. */
export const AAC_FRAME = 1024

/** @returns the nearest sample to a moment in seconds */
export const toSamples = (seconds: number) => Math.round(seconds * SAMPLE_RATE)
/** @returns seconds of a length or position in samples */
export const toSeconds = (samples: number) => samples / SAMPLE_RATE
