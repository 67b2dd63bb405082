/**
 * Inner loops of noise suppression in AssemblyScript, for WebAssembly with SIMD, four units of the spectrum at a time. A row has a 32-bit
 * float for each unit, and their number is a multiple of four. What is worked and why stands in core/audio/denoise.
 */
import { add, mul, sub } from './vectors.as'

// @ts-ignore: decorator
@inline
function splat(value: f32): v128 {
  return f32x4.splat(value)
}
// @ts-ignore: decorator
@inline
function between(least: f32, value: v128, most: f32): v128 {
  return f32x4.max(splat(least), f32x4.min(value, splat(most)))
}

/** Two to a power from −126 to 127, to within 3 in a million: whole powers by the exponent, the rest by its series. */
// @ts-ignore: decorator
@inline
function twoTo(x: v128): v128 {
  const whole = f32x4.nearest(x)
  const t = mul(sub(x, whole), splat(0.6931472))
  let sum = add(splat(1), mul(t, splat(1.0 / 5)))
  sum = add(splat(1), mul(mul(t, splat(1.0 / 4)), sum))
  sum = add(splat(1), mul(mul(t, splat(1.0 / 3)), sum))
  sum = add(splat(1), mul(mul(t, splat(1.0 / 2)), sum))
  sum = add(splat(1), mul(t, sum))
  return mul(sum, i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23))
}

/** e to a power from −85 to 0. */
// @ts-ignore: decorator
@inline
function eTo(x: v128): v128 {
  return twoTo(mul(x, splat(1.442695)))
}

/** Ten to a power from −37 to 37. */
// @ts-ignore: decorator
@inline
function tenTo(x: v128): v128 {
  return twoTo(mul(x, splat(3.3219281)))
}

/** Base-10 logarithm to within 0.002 of values above 0: `roughLog10` of four. */
// @ts-ignore: decorator
@inline
function log10(x: v128): v128 {
  const whole = f32x4.convert_i32x4_s(i32x4.sub(i32x4.shr_s(x, 23), i32x4.splat(127)))
  const m = mul(f32x4.convert_i32x4_s(v128.and(x, i32x4.splat(0x7fffff))), splat(1.0 / 8388608))
  return mul(add(whole, add(m, mul(mul(splat(0.3436), m), sub(splat(1), m)))), splat(0.30103))
}

/** exp(E1(v) / 2) by log10(v), from 10⁻⁴ to 100 in steps of 0.02, and one more value, 1, for what lies above. Filled by the host. */
const HALF_E1 = memory.data(302 * 4, 16)
export function halfE1(): usize {
  return HALF_E1
}

/** Gain of the log-spectral amplitude estimator (Ephraim & Malah 1985, IEEE Trans. ASSP 33(2), equation 20). */
// @ts-ignore: decorator
@inline
function logMmse(xi: v128, gamma: v128): v128 {
  const wiener = f32x4.div(xi, add(splat(1), xi))
  const place = add(mul(add(log10(mul(wiener, gamma)), splat(4)), splat(50)), splat(0.5))
  const at = i32x4.trunc_sat_f32x4_s(between(0, place, 301))
  const first = f32x4.splat(load<f32>(HALF_E1 + i32x4.extract_lane(at, 0) * 4))
  return mul(
    wiener,
    f32x4.replace_lane(
      f32x4.replace_lane(
        f32x4.replace_lane(first, 1, load<f32>(HALF_E1 + i32x4.extract_lane(at, 1) * 4)),
        2,
        load<f32>(HALF_E1 + i32x4.extract_lane(at, 2) * 4),
      ),
      3,
      load<f32>(HALF_E1 + i32x4.extract_lane(at, 3) * 4),
    ),
  )
}

/**
 * The noise of some frames, one after the other.
 *
 * @param power of the first of them in time; rows follow each other
 * @param noise so far; holds that of the last frame then
 * @param presence of speech so far, smoothed; is changed too
 * @param into where each frame's noise goes
 * @param units bytes of a row
 * @param backward whether the last of the frames comes first
 */
export function followNoise(
  power: usize,
  noise: usize,
  presence: usize,
  into: usize,
  frames: i32,
  units: usize,
  backward: bool,
  keepNoise: f32,
  keepPresence: f32,
  priorRatio: f32,
  least: f32,
): void {
  const one = splat(1)
  const prior = splat(1 + priorRatio)
  const slope = splat(-priorRatio / (1 + priorRatio))
  const sure = splat(0.99)
  for (let step = 0; step < frames; step++) {
    const row = <usize>(backward ? frames - 1 - step : step) * units
    for (let u: usize = 0; u < units; u += 16) {
      const y = v128.load(power + row + u)
      const before = v128.load(noise + u)
      const ratio = f32x4.min(f32x4.div(y, before), splat(80))
      let present = f32x4.div(one, add(one, mul(prior, eTo(mul(slope, ratio)))))
      const mean = add(mul(splat(keepPresence), v128.load(presence + u)), mul(splat(1 - keepPresence), present))
      v128.store(presence + u, mean)
      // a noise that has risen for good would else never be followed
      present = v128.bitselect(f32x4.min(present, sure), present, f32x4.gt(mean, sure))
      const next = add(before, mul(mul(splat(1 - keepNoise), sub(one, present)), sub(y, before)))
      const held = f32x4.max(next, splat(least))
      v128.store(noise + u, held)
      v128.store(into + row + u, held)
    }
  }
}

/**
 * The decision-directed a-priori ratio of some frames, one after the other; where there is a larger one already, it stays.
 *
 * @param voice power of the voice in parts of the noise in the frame before; that of the last frame then
 * @param xi rows of the ratios
 */
export function decide(
  power: usize,
  noise: usize,
  voice: usize,
  xi: usize,
  frames: i32,
  units: usize,
  backward: bool,
  alpha: f32,
  least: f32,
): void {
  for (let step = 0; step < frames; step++) {
    const row = <usize>(backward ? frames - 1 - step : step) * units
    for (let u: usize = 0; u < units; u += 16) {
      const gamma = f32x4.min(f32x4.div(v128.load(power + row + u), v128.load(noise + row + u)), splat(1e4))
      const over = f32x4.max(sub(gamma, splat(1)), splat(0))
      const ratio = f32x4.max(add(mul(splat(alpha), v128.load(voice + u)), mul(splat(1 - alpha), over)), splat(least))
      const gain = logMmse(ratio, gamma)
      v128.store(voice + u, mul(mul(gain, gain), gamma))
      v128.store(xi + row + u, f32x4.max(v128.load(xi + row + u), ratio))
    }
  }
}

/** How much the model says where the voice stands so far out of the noise: all below `heard`, nothing above `silent`. Bels. */
// @ts-ignore: decorator
@inline
function say(logXi: v128, heard: f32, silent: f32): v128 {
  return between(0, mul(sub(splat(silent), logXi), splat(1 / (silent - heard))), 1)
}

/**
 * Logarithms of one frame's ratios, the model's mixed in.
 *
 * @param xi is changed
 * @param model amplitude gains
 * @param share of the model in each unit
 */
export function mixRatios(xi: usize, model: usize, share: usize, units: usize, heard: f32, silent: f32): void {
  for (let u: usize = 0; u < units; u += 16) {
    const log = log10(v128.load(xi + u))
    const gain = v128.load(model + u)
    const wiener = f32x4.min(mul(gain, gain), splat(0.9999))
    const learned = log10(f32x4.max(f32x4.div(wiener, sub(splat(1), wiener)), splat(1e-3)))
    const part = mul(v128.load(share + u), say(log, heard, silent))
    v128.store(xi + u, add(log, mul(part, sub(learned, log))))
  }
}

/**
 * Amplitude weights of one frame's units.
 *
 * @param logXi of the frame, as `mixRatios` leaves them
 * @param share of the model in each unit
 * @param rumble what is taken away below the voice: decimal logarithms
 * @param presence of a voice in the frame, above 0
 * @param floor, pauseFloor least gains now and in pauses: decimal logarithms
 * @param wet how much of all that counts
 * @see Cohen 2003, IEEE Trans. SAP 11(5), equations 8 and 16
 */
export function weighUnits(
  power: usize,
  noise: usize,
  logXi: usize,
  model: usize,
  share: usize,
  rumble: usize,
  to: usize,
  units: usize,
  presence: f32,
  floor: f32,
  pauseFloor: f32,
  wet: f32,
  heard: f32,
  silent: f32,
): void {
  const one = splat(1)
  const least = splat(floor)
  for (let u: usize = 0; u < units; u += 16) {
    const gamma = f32x4.min(f32x4.div(v128.load(power + u), v128.load(noise + u)), splat(1e4))
    const log = v128.load(logXi + u)
    const xi = tenTo(log)
    const statistical = f32x4.max(f32x4.min(log10(logMmse(xi, gamma)), splat(0)), least)
    // presence in this unit: its own ratio and that of the frame
    const local = between(0.05, mul(add(mul(log, splat(10)), splat(15)), splat(1.0 / 12)), 1)
    const absent = between(0.05, sub(one, mul(splat(presence), local)), 0.95)
    const v = f32x4.min(f32x4.div(mul(gamma, xi), add(one, xi)), splat(80))
    const odds = mul(mul(f32x4.div(absent, sub(one, absent)), add(one, xi)), eTo(f32x4.neg(v)))
    const present = f32x4.div(one, add(one, odds))
    const gain = add(least, mul(present, sub(statistical, least)))
    const learned = f32x4.max(log10(add(v128.load(model + u), splat(1e-6))), least)
    const part = mul(v128.load(share + u), say(log, heard, silent))
    const both = f32x4.max(add(gain, mul(part, sub(learned, gain))), least)
    // towards the room alone the gain becomes one and the same everywhere: no lone bin rings as a tone
    const logGain = add(splat(pauseFloor), mul(splat(presence), sub(both, splat(pauseFloor))))
    v128.store(to + u, tenTo(f32x4.max(add(mul(splat(wet), logGain), v128.load(rumble + u)), splat(-30))))
  }
}

/**
 * Weighs one frame's bins.
 *
 * @param edges first bin of each unit, and one past the last: 32-bit integers
 * @param units how many
 */
export function weighBins(re: usize, im: usize, weights: usize, edges: usize, units: i32): void {
  let k = load<i32>(edges)
  for (let u = 0; u < units; u++) {
    const w = load<f32>(weights + u * 4)
    for (const end = load<i32>(edges + u * 4 + 4); k < end; k++) {
      const at = <usize>k * 4
      store<f32>(re + at, load<f32>(re + at) * w)
      store<f32>(im + at, load<f32>(im + at) * w)
    }
  }
}
