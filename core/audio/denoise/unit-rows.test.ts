/** The kernels of suppression against what they are meant to be, written down plainly. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { random } from '#tests/made/sound.ts'
import { UNIT_EDGES, UNITS } from './bands.ts'
import { expint1 } from './exponential-integral.ts'
import { inChunks, ROW_BYTES, unitRows } from './unit-rows.ts'

const next = random(8)
/** Values spread evenly over decades. */
const spread = (length: number, least: number, most: number) =>
  Float32Array.from({ length }, () => 10 ** (least + (most - least) * next()))
const { floats, call, at } = unitRows()
const put = (place: number, values: ArrayLike<number>) => floats.set(values, place)
const rows = (place: number, count = 1) => Array.from(floats.subarray(place, place + count * UNITS))
const farthest = (own: readonly number[], meant: readonly number[]) => Math.max(...own.map((v, i) => Math.abs(v / meant[i]! - 1)))

/** What `decide` makes of a ratio that is known already. */
function gainOf(xi: number, gamma: number): number {
  put(at.power, new Float32Array(UNITS).fill(gamma))
  put(at.noise, new Float32Array(UNITS).fill(1))
  put(at.state, new Float32Array(UNITS).fill(xi))
  call.decide(at.power * 4, at.noise * 4, at.state * 4, at.xi * 4, 1, ROW_BYTES, false, 1, 0)
  return Math.sqrt(floats[at.state]! / gamma)
}
const exactGain = (xi: number, gamma: number) => (xi / (1 + xi)) * Math.exp(expint1((xi / (1 + xi)) * gamma) / 2)

describe('the gain of the log-spectral amplitude', () => {
  test('agrees with its formula to 3 % (Ephraim & Malah 1985, equation 20)', () => {
    fc.assert(
      fc.property(fc.double({ min: -2, max: 2, noNaN: true }), fc.double({ min: -2, max: 2, noNaN: true }), (a, b) => {
        const [xi, gamma] = [10 ** a, 10 ** b]
        if ((xi / (1 + xi)) * gamma < 1e-3) return
        expect(Math.abs(gainOf(xi, gamma) / exactGain(xi, gamma) - 1)).toBeLessThan(0.03)
      }),
    )
  })
  test('comes near the Wiener gain when the signal stands far out', () => {
    // Ephraim & Malah 1985, section III: the integral vanishes for large v
    expect(gainOf(100, 101)).toBeCloseTo(100 / 101, 3)
    expect(gainOf(1, 1)).toBeCloseTo(0.5 * Math.exp(expint1(0.5) / 2), 2)
  })
})

const FRAMES = 9
const inTime = (backward: boolean) => Array.from({ length: FRAMES }, (_, n) => (backward ? FRAMES - 1 - n : n))

test.each([false, true])('noise is followed as the definition has it, backward: %s', (backward) => {
  const [keepNoise, keepPresence, prior, least] = [0.9, 0.95, 30, 1e-13]
  const [power, first] = [spread(FRAMES * UNITS, -8, -4), spread(UNITS, -8, -5)]
  put(at.power, power)
  put(at.state, first)
  put(at.presence, new Float32Array(UNITS).fill(0.5))
  const places = [at.power * 4, at.state * 4, at.presence * 4, at.noise * 4] as const
  call.followNoise(...places, FRAMES, ROW_BYTES, backward, keepNoise, keepPresence, prior, least)
  // Gerkmann & Hendriks 2012, IEEE Trans. ASLP 20(4), algorithm 1
  const meant = new Array<number>(FRAMES * UNITS)
  for (let u = 0; u < UNITS; u++) {
    let [noise, smoothed] = [first[u]!, 0.5]
    for (const f of inTime(backward)) {
      const y = power[f * UNITS + u]!
      const present = 1 / (1 + (1 + prior) * Math.exp((-y / noise) * (prior / (1 + prior))))
      smoothed = keepPresence * smoothed + (1 - keepPresence) * present
      const held = smoothed > 0.99 ? Math.min(present, 0.99) : present
      noise = keepNoise * noise + (1 - keepNoise) * (held * noise + (1 - held) * y)
      meant[f * UNITS + u] = noise
    }
  }
  expect(farthest(rows(at.noise, FRAMES), meant)).toBeLessThan(1e-3)
})

test.each([false, true])(
  'the a-priori ratio is decided as the definition has it, and the larger stays, backward: %s',
  (backward) => {
    const [alpha, least] = [0.94, 10 ** -1.8]
    const [power, noise, earlier] = [
      spread(FRAMES * UNITS, -8, -4),
      spread(FRAMES * UNITS, -7, -6),
      spread(FRAMES * UNITS, -2, 0),
    ]
    put(at.power, power)
    put(at.noise, noise)
    put(at.xi, earlier)
    put(at.state, new Float32Array(UNITS).fill(1))
    call.decide(at.power * 4, at.noise * 4, at.state * 4, at.xi * 4, FRAMES, ROW_BYTES, backward, alpha, least)
    // Ephraim & Malah 1984, IEEE Trans. ASSP 32(6), equation 51
    const meant = new Array<number>(FRAMES * UNITS)
    for (let u = 0; u < UNITS; u++) {
      let voice = 1
      for (const f of inTime(backward)) {
        const gamma = Math.min(1e4, power[f * UNITS + u]! / noise[f * UNITS + u]!)
        const xi = Math.max(least, alpha * voice + (1 - alpha) * Math.max(0, gamma - 1))
        voice = exactGain(xi, gamma) ** 2 * gamma
        meant[f * UNITS + u] = Math.max(xi, earlier[f * UNITS + u]!)
      }
    }
    // the looked-up gain is 3 % off at most, its square twice that
    expect(farthest(rows(at.xi, FRAMES), meant)).toBeLessThan(0.08)
  },
)

const [HEARD, SILENT] = [1, 2.2]
const say = (log: number) => Math.min(1, Math.max(0, (SILENT - log) / (SILENT - HEARD)))

test('the model’s ratio is mixed in where the voice does not stand far out', () => {
  const [xi, model, share] = [spread(UNITS, -1.8, 4), spread(UNITS, -2, 0), Float32Array.from({ length: UNITS }, next)]
  put(at.xi, xi)
  put(at.model, model)
  put(at.share, share)
  call.mixRatios(at.xi * 4, at.model * 4, at.share * 4, ROW_BYTES, HEARD, SILENT)
  for (const [u, own] of rows(at.xi).entries()) {
    const log = Math.log10(xi[u]!)
    const wiener = Math.min(0.9999, model[u]! ** 2)
    const part = share[u]! * say(log)
    const meant = (1 - part) * log + part * Math.log10(Math.max(1e-3, wiener / (1 - wiener)))
    expect(Math.abs(own - meant)).toBeLessThan(0.02)
  }
})

test('units are weighed by gain, presence of speech, model and floor', () => {
  const [power, noise, model] = [spread(UNITS, -8, -4), spread(UNITS, -7, -6), spread(UNITS, -3, 0)]
  const logXi = Float32Array.from({ length: UNITS }, () => 5 * next() - 1.8)
  const share = Float32Array.from({ length: UNITS }, next)
  const rumble = Float32Array.from({ length: UNITS }, () => -next())
  const [speaking, floor, pauseFloor, wet] = [0.7, -1.9, -2.4, 0.8]
  put(at.power, power)
  put(at.noise, noise)
  put(at.xi, logXi)
  put(at.model, model)
  put(at.share, share)
  put(at.rumble, rumble)
  call.weighUnits(
    at.power * 4,
    at.noise * 4,
    at.xi * 4,
    at.model * 4,
    at.share * 4,
    at.rumble * 4,
    at.weights * 4,
    ROW_BYTES,
    speaking,
    floor,
    pauseFloor,
    wet,
    HEARD,
    SILENT,
  )
  const meant = Array.from({ length: UNITS }, (_, u) => {
    const gamma = Math.min(1e4, power[u]! / noise[u]!)
    const xi = 10 ** logXi[u]!
    const statistical = Math.min(0, Math.max(floor, Math.log10(exactGain(xi, gamma))))
    // Cohen 2003, IEEE Trans. SAP 11(5), equations 8 and 16
    const local = Math.min(1, Math.max(0.05, (10 * logXi[u]! + 15) / 12))
    const absent = Math.min(0.95, Math.max(0.05, 1 - speaking * local))
    const present = 1 / (1 + (absent / (1 - absent)) * (1 + xi) * Math.exp((-gamma * xi) / (1 + xi)))
    const gain = present * statistical + (1 - present) * floor
    const part = share[u]! * say(logXi[u]!)
    const both = Math.max(floor, (1 - part) * gain + part * Math.max(floor, Math.log10(model[u]! + 1e-6)))
    return 10 ** (wet * (speaking * both + (1 - speaking) * pauseFloor) + rumble[u]!)
  })
  expect(farthest(rows(at.weights), meant)).toBeLessThan(0.03)
})

test('every bin is weighed by its unit', () => {
  const bins = UNIT_EDGES.at(-1)!
  const weights = spread(UNITS, -2, 0)
  put(at.weights, weights)
  const [re, im] = [at.power, at.noise]
  put(re, new Float32Array(bins).fill(2))
  put(im, new Float32Array(bins).fill(-3))
  call.weighBins(re * 4, im * 4, at.weights * 4, at.edges * 4, UNITS)
  for (let k = 0; k < bins; k++) {
    const weight = weights[UNIT_EDGES.findLastIndex((edge) => edge <= k)]!
    expect(floats[re + k]).toBeCloseTo(2 * weight, 6)
    expect(floats[im + k]).toBeCloseTo(-3 * weight, 6)
  }
})

test('chunks are all frames once, in either direction', () => {
  for (const backward of [false, true]) {
    const seen: number[] = []
    inChunks(150, backward, (first, count) => seen.push(...Array.from({ length: count }, (_, n) => first + n)))
    expect(seen.toSorted((a, b) => a - b)).toEqual(Array.from({ length: 150 }, (_, n) => n))
    expect(seen[0]! > seen.at(-1)!).toBe(backward)
  }
})
