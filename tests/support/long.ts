/**
 * The daily run proves each promise once, where that costs least. What is long by nature (many rounds, sound in real time, a second way to
 * the same promise) runs before a release and by hand: `./lectern test --long`.
 */
export const IS_LONG = process.env.LECTERN_LONG === '1'
