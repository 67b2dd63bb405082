/** What is long by nature runs before a release and by hand: `./lectern test --long`. The daily run has a short sample of each. */
export const IS_LONG = process.env.LECTERN_LONG === '1'
