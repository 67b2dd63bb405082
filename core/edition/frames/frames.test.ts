import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { toSamples } from '#core/timing/clocks.ts'
import { slideFrames } from './frames.ts'
import { frameNumberBits, isKeyPacket, withFrameNumber } from './h264-frame-number.ts'

const slide = (seconds: number, steps: number[], transitionFrames = 0) => ({
  lengthSamples: toSamples(seconds),
  pictures: steps.map((at, i) => ({ picture: `${i}`, atSamples: toSamples(at) })),
  transition: transitionFrames > 0 ? ({ kind: 'wipe', frames: transitionFrames, from: 'x' } as const) : null,
})

describe('frames of a slide', () => {
  test('a picture is encoded once, with one repeat that is shown every second, and fifteen times a second about changes', () => {
    const { encoded, shown } = slideFrames(slide(10, [0]))
    expect(encoded.map((f) => f.repeat)).toEqual([false, true])
    expect(shown.map((f) => f.encoded)).toEqual([0, ...Array(shown.length - 1).fill(1)])
    const apart = shown.slice(1).map((f, i) => f.at - shown[i]!.at)
    const dense = toSamples(1 / 15)
    expect(apart.slice(0, 9)).toEqual(Array(9).fill(dense))
    expect(apart.slice(9, 15)).toEqual(Array(6).fill(48_000))
    expect(apart.slice(15).length).toBeGreaterThanOrEqual(45)
    expect(new Set(apart.slice(15))).toEqual(new Set([dense]))
  })
  test('no repeat is shown for less than the densest of them', () => {
    for (const seconds of [0.05, 0.1, 0.15, 3.199, 3.2, 3.201, 17.003]) {
      const { shown } = slideFrames(slide(seconds, [0]))
      expect(toSamples(seconds) - shown.at(-1)!.at).toBeGreaterThanOrEqual(Math.min(toSamples(seconds), toSamples(1 / 15)))
    }
  })
  test('a picture that is over before the transition has ended is left out, and time goes on', () => {
    const { encoded, shown } = slideFrames(slide(5, [0, 0.5, 2], 45))
    for (let i = 1; i < shown.length; i++) expect(shown[i]!.at).toBeGreaterThan(shown[i - 1]!.at)
    expect(new Set(shown.map((f) => encoded[f.encoded]!.picture))).toEqual(new Set([-1, 1, 2]))
  })
  test('what is encoded does not depend on how long it is shown', () => {
    expect(slideFrames(slide(7, [0, 3])).encoded).toEqual(slideFrames(slide(600, [0, 400])).encoded)
  })
  test('a constant rate has all frames equally far apart and a key frame at every picture and every 2 s', () => {
    const { encoded, shown } = slideFrames(slide(9, [0, 5.05]), 10)
    for (const [i, frame] of shown.entries()) expect(frame.at).toBe(i * 4800)
    const keys = shown.filter((f) => encoded[f.encoded]!.key).map((f) => f.at / 48_000)
    expect(keys).toEqual([0, 2, 4, 5.1, 6, 8])
  })
  test('at any length, steps and transition each picture is shown, in order, inside the slide', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 200 }),
        fc.integer({ min: 1, max: 5 }),
        fc.integer({ min: 0, max: 45 }),
        fc.constantFrom(null, 10),
        (seconds, count, transition, rate) => {
          const steps = Array.from({ length: count }, (_, i) => (i === 0 ? 0 : 1.6 + i * 0.1))
          const made = slideFrames(slide(seconds, steps, transition), rate)
          for (let i = 1; i < made.shown.length; i++) {
            expect(made.shown[i]!.at).toBeGreaterThan(made.shown[i - 1]!.at)
            // a frame never refers to one that was left out: only repeats are passed over
            const passed = made.encoded.slice(made.shown[i - 1]!.encoded + 1, made.shown[i]!.encoded)
            if (rate === null) expect(passed.every((f) => f.repeat)).toBe(true)
          }
          expect(new Set(made.shown.map((f) => made.encoded[f.encoded]!.picture)).size).toBe(count + (transition > 0 ? 1 : 0))
        },
      ),
    )
  })
})

/** Bits as text, made into bytes that end with the stop bit. */
const bytes = (bits: string) => {
  const padded = `${bits}1`.padEnd(Math.ceil((bits.length + 1) / 8) * 8, '0')
  return Uint8Array.from({ length: padded.length / 8 }, (_, i) => Number.parseInt(padded.slice(i * 8, i * 8 + 8), 2))
}
const packet = (...units: number[][]) => Uint8Array.from(units.flatMap((unit) => [0, 0, 0, unit.length, ...unit]))

describe('numbers of frames', () => {
  test('the length of the number is read from the parameter set', () => {
    // High, level 4.0, set 0, 4:2:0, 8 bit twice, no bypass, no lists, log2_max_frame_num_minus4 = 5 (Exp-Golomb 00110)
    const set = [0x67, 100, 0, 40, ...bytes('1 010 1 1 0 0 00110'.replaceAll(' ', ''))]
    expect(frameNumberBits(Uint8Array.from([1, 100, 0, 40, 0xff, 0xe1, 0, set.length, ...set]))).toBe(9)
  })
  test('only the number changes; what follows stays bit for bit', () => {
    // first_mb 0, slice_type 5 (P), set 0, number of 4 bits, then the rest
    const slice = (number: string) => [0x41, ...bytes(`1 00110 1 ${number} 10110011100011110000`.replaceAll(' ', ''))]
    expect(withFrameNumber(packet(slice('0001')), 4, 13)).toEqual(packet(slice('1101')))
    expect(withFrameNumber(packet(slice('0001')), 4, 16 + 2)).toEqual(packet(slice('0010')))
  })
  test('a number of zeros is kept from looking like a start code, and comes back', () => {
    const slice = [0x41, ...bytes(`1 00110 1 ${'1'.repeat(16)} 0 0000000 00000001`.replaceAll(' ', ''))]
    const zero = withFrameNumber(packet(slice), 16, 0)
    const unit = zero.subarray(4)
    for (let i = 0; i + 2 < unit.length; i++) expect(unit[i] === 0 && unit[i + 1] === 0 && unit[i + 2]! < 3).toBe(false)
    expect(withFrameNumber(zero, 16, 0xffff)).toEqual(packet(slice))
  })
  test('a key frame is left as it is', () => {
    const key = packet([0x65, 0x88, 0x84, 0x21])
    expect(isKeyPacket(key)).toBe(true)
    expect(withFrameNumber(key, 8, 5)).toEqual(key)
  })
})
