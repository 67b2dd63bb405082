/** The thresholds are those of WCAG 2.2, "general flash and red flash thresholds"; the films are made here. */
import { expect, test } from 'vitest'
import { FlashFinder, LOOK } from './flashes.ts'

type Colour = [number, number, number]
const BLACK: Colour = [0, 0, 0]
const WHITE: Colour = [255, 255, 255]
const grey = (value: number): Colour => [value, value, value]

/** A frame of one colour, in which another fills so many columns from the left, and rows from above. */
function frame(colour: Colour, [columns, rows]: [number, number] = [LOOK.width, LOOK.height], under = BLACK): Uint8Array {
  const rgb = new Uint8Array(LOOK.width * LOOK.height * 3)
  for (let y = 0; y < LOOK.height; y++)
    for (let x = 0; x < LOOK.width; x++) rgb.set(x < columns && y < rows ? colour : under, (y * LOOK.width + x) * 3)
  return rgb
}

/** Seconds of flashing, so many flashes a second. */
function flashing(hertz: number, on: Uint8Array, off: Uint8Array, { rate = 30, seconds = 2 } = {}) {
  const finder = new FlashFinder(rate)
  for (let i = 0; i < rate * seconds; i++) finder.add(Math.floor((i / rate) * hertz * 2) % 2 === 0 ? off : on)
  return finder.stretches()
}

test('more than three flashes in a second are too many, three are not', () => {
  expect(flashing(3, frame(WHITE), frame(BLACK))).toEqual([])
  const [found, ...others] = flashing(5, frame(WHITE), frame(BLACK))
  expect(others).toEqual([])
  expect(found!.start).toBeLessThan(0.2)
  expect(found!.end).toBeGreaterThan(1.8)
})

test('a change of less than a tenth of the greatest luminance is none, whatever the eye makes of it', () => {
  // relative luminance of sRGB grey 89 is 0.1, of 85 is 0.09; of 230 it is 0.79, of 243 0.9, of 255 it is 1
  expect(flashing(6, frame(grey(85)), frame(BLACK))).toEqual([])
  expect(flashing(6, frame(grey(90)), frame(BLACK))).toHaveLength(1)
  // between two bright pictures there is no flash
  expect(flashing(6, frame(WHITE), frame(grey(233)))).toEqual([])
  expect(flashing(6, frame(WHITE), frame(grey(228)))).toHaveLength(1)
})

test('a flash counts from a quarter of ten degrees of the field of view on', () => {
  // a block of 21 × 16 cells: 84 cells are a quarter
  expect(flashing(6, frame(WHITE, [12, 6]), frame(BLACK))).toEqual([])
  expect(flashing(6, frame(WHITE, [12, 8]), frame(BLACK))).toHaveLength(1)
  // as many cells that are spread over the picture are never together within ten degrees
  const spread = new Uint8Array(LOOK.width * LOOK.height * 3)
  for (let cell = 0; cell < LOOK.width * LOOK.height; cell += 12) spread.set(WHITE, cell * 3)
  expect(flashing(6, spread, frame(BLACK))).toEqual([])
})

test('a saturated red flashes though its luminance hardly changes', () => {
  const red: Colour = [150, 0, 0]
  const dark: Colour = [60, 20, 20]
  expect(flashing(5, frame(red), frame(dark))).toHaveLength(1)
  expect(flashing(3, frame(red), frame(dark))).toEqual([])
  expect(flashing(5, frame([150, 120, 120]), frame([150, 118, 118]))).toEqual([])
})

test('a picture that becomes brighter in steps and stays is no flash', () => {
  const finder = new FlashFinder(30)
  for (let i = 0; i < 120; i++) finder.add(frame(grey(Math.min(255, i * 8))))
  expect(finder.stretches()).toEqual([])
})
