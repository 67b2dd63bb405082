/** Which rests are too long, and what is left of them when they are shortened. Common practice, no published source. Seconds. */

/** Inside a sentence a second is long. */
export const HESITATION = { least: 1.2, left: 0.6 }
/** Anywhere, three seconds are taken for a fault, one for a breath. */
export const LONG_PAUSE = { least: 3, left: 1 }
