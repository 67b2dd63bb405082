/** Moments of pictures on the clock of the sound, from arrivals that are late by chance. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { packPiece, unpackPiece } from './footage-pieces.ts'
import { PictureClock } from './picture-clock.ts'

const RATE = 48

/** Late by chance: mostly a little, now and then a lot. */
const lateness = fc.oneof(
  { weight: 9, arbitrary: fc.integer({ min: 0, max: 8 }) },
  { weight: 1, arbitrary: fc.integer({ min: 9, max: 250 }) },
)

describe('the clock of pictures', () => {
  test('tells the sample within ten milliseconds, however late sound and pictures come', () => {
    fc.assert(
      fc.property(
        fc.array(lateness, { minLength: 400, maxLength: 400 }),
        fc.integer({ min: -1e9, max: 1e9 }),
        // the sound card’s clock and that of the wall differ by up to two hundred millionths
        fc.integer({ min: -200, max: 200 }),
        (late, cameraBegan, millionths) => {
          const clock = new PictureClock()
          const drift = 1 + millionths / 1e6
          let [worst, last] = [0, -1]
          // a batch of sound each 85 ms, a picture each 33 ms, over half a minute
          let [batch, frame] = [0, 0]
          for (let at = 0; at < 30_000; at++) {
            if (at >= batch * 85) {
              clock.hear(Math.round(at * RATE * drift), 1e12 + at + late[(batch * 7) % late.length]!)
              batch++
            }
            if (at >= frame * (1000 / 30)) {
              const sample = clock.at(cameraBegan + at, 1e12 + at + late[frame % late.length]!)
              frame++
              if (sample === null) continue
              expect(sample).toBeGreaterThan(last)
              last = sample
              // at first not every delay is known yet
              if (at > 5000) worst = Math.max(worst, Math.abs(sample / RATE - at * drift))
            }
          }
          expect(worst).toBeLessThan(10)
        },
      ),
      { numRuns: 30 },
    )
  })
  test('a machine that is busy for ten seconds, in which everything comes late, moves no picture', () => {
    const clock = new PictureClock()
    let worst = 0
    for (let at = 0; at < 60_000; at++) {
      const isBusy = at >= 20_000 && at < 30_000
      // pictures wait longer than sound, whose thread goes first
      if (at % 85 === 0) clock.hear(at * RATE, 1e12 + at + 2)
      if (at % 33 !== 0) continue
      const sample = clock.at(at, 1e12 + at + (isBusy ? 40 : 5))
      if (sample !== null && at > 1000) worst = Math.max(worst, Math.abs(sample / RATE - at))
    }
    expect(worst).toBeLessThan(10)
  })
  test('in a rest nothing is recorded, and the take’s clock stands still', () => {
    const clock = new PictureClock()
    clock.hear(0, 1000)
    expect(clock.at(0, 1000)).toBe(0)
    expect(clock.now(1100)).toBe(100 * RATE)
    clock.rest(100 * RATE)
    // taken before the rest, it comes after it was said
    expect(clock.at(90, 1105)).toBe(90 * RATE)
    expect(clock.at(140, 1145)).toBeNull()
    expect(clock.now(5000)).toBe(100 * RATE)
    clock.goOn()
    expect(clock.at(5000, 6000)).toBeNull()
    clock.hear(110 * RATE, 6010)
    expect(clock.at(5020, 6020)).toBe(120 * RATE)
  })
  test('before the first sound there is no moment, and what stands still gets that of now', () => {
    const clock = new PictureClock()
    expect(clock.at(0, 1000)).toBeNull()
    expect(clock.still(1000)).toBeNull()
    clock.hear(48, 1001)
    expect(clock.still(1011)).toBe(11 * RATE)
    // and no picture that was taken before it
    expect(clock.at(5, 1012)).toBeNull()
  })
})

describe('pieces of pictures', () => {
  test('come back as they were packed', () => {
    const frame = fc.record({
      at: fc.integer({ min: 0, max: 0xffff_ffff }),
      isKey: fc.boolean(),
      data: fc.uint8Array({ maxLength: 50 }),
    })
    fc.assert(
      fc.property(fc.array(frame, { maxLength: 40 }), fc.integer({ min: 0, max: 0xffff_ffff }), (frames, until) => {
        expect(unpackPiece(packPiece({ until, frames }))).toEqual({ until, frames })
      }),
    )
  })
  test('anything else is refused, and never read past its end', () => {
    const good = packPiece({ until: 9, frames: [{ at: 1, isKey: true, data: new Uint8Array(20) }] })
    expect(() => unpackPiece(good.subarray(0, good.length - 1))).toThrow(RangeError)
    expect(() => unpackPiece(Uint8Array.from([...good, 0]))).toThrow(RangeError)
    expect(() => unpackPiece(new Uint8Array(3))).toThrow(RangeError)
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        try {
          unpackPiece(bytes)
        } catch (error) {
          expect(error).toBeInstanceOf(RangeError)
        }
      }),
    )
  })
})
