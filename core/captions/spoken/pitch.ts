/** The pitch of a voice at one moment, by normalised autocorrelation. */

const [LOWEST_HZ, HIGHEST_HZ] = [65, 420]
/** Two periods of the lowest pitch. Seconds. */
const WINDOW_S = 0.032
/** A voice is at least this much like itself one period later. */
const VOICED = 0.6
/** Of periods that fit nearly as well the shortest is taken: twice a period fits, too. */
const NEARLY = 0.92

/**
 * @param samples mono, full scale ±1
 * @param at sample in the middle of what is looked at
 * @param rate samples a second
 * @returns Hz; null where no voice is heard
 * @see Boersma 1993, "Accurate short-term analysis of the fundamental frequency", Proc. Inst. Phonetic Sciences 17 (the normalisation)
 */
export function pitchAt(samples: Float32Array, at: number, rate: number): number | null {
  const length = Math.round(WINDOW_S * rate)
  const [shortest, longest] = [Math.floor(rate / HIGHEST_HZ), Math.ceil(rate / LOWEST_HZ)]
  const from = at - ((length + longest) >> 1)
  if (from < 0 || from + length + longest >= samples.length) return null
  let energy = 0
  for (let i = 0; i < length; i++) energy += samples[from + i]! ** 2
  if (energy < 1e-7 * length) return null
  const likeness = new Float64Array(longest + 2)
  let later = 0
  for (let i = 0; i < length; i++) later += samples[from + shortest - 1 + i]! ** 2
  for (let lag = shortest - 1; lag <= longest + 1 && from + lag + length < samples.length; lag++) {
    let sum = 0
    for (let i = 0; i < length; i++) sum += samples[from + i]! * samples[from + lag + i]!
    likeness[lag] = sum / Math.sqrt(energy * later + 1e-20)
    later += samples[from + lag + length]! ** 2 - samples[from + lag]! ** 2
  }
  let most = 0
  for (let lag = shortest; lag <= longest; lag++) most = Math.max(most, likeness[lag]!)
  if (most < VOICED) return null
  for (let lag = shortest; lag <= longest; lag++) {
    const own = likeness[lag]!
    if (own < NEARLY * most || own < likeness[lag - 1]! || own < likeness[lag + 1]!) continue
    // the top of a parabola through three points
    const [a, b, c] = [likeness[lag - 1]!, own, likeness[lag + 1]!]
    const shift = a - 2 * b + c === 0 ? 0 : (0.5 * (a - c)) / (a - 2 * b + c)
    return rate / (lag + shift)
  }
  return null
}
