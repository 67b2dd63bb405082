/** Formulas by which shapes are reckoned. @see ECMA-376, part 1, §20.1.9.11 gd (the operations), §20.1.10.56 (names that every shape knows) */

/** A name, and what it stands for: an operation with its operands, as files have it. */
export type Guide = readonly [name: string, formula: string]

/** Sixtieth-thousandths of a degree in a whole turn. */
const TURN = 21_600_000
const radians = (angle: number) => (angle / TURN) * 2 * Math.PI
const angleOf = (y: number, x: number) => (Math.atan2(y, x) / (2 * Math.PI)) * TURN

type Operation = (x: number, y: number, z: number) => number
const OPERATIONS: Record<string, Operation> = {
  '*/': (x, y, z) => (z === 0 ? 0 : (x * y) / z),
  '+-': (x, y, z) => x + y - z,
  '+/': (x, y, z) => (z === 0 ? 0 : (x + y) / z),
  '?:': (x, y, z) => (x > 0 ? y : z),
  abs: (x) => Math.abs(x),
  at2: (x, y) => angleOf(y, x),
  cat2: (x, y, z) => x * Math.cos(Math.atan2(z, y)),
  cos: (x, y) => x * Math.cos(radians(y)),
  max: (x, y) => Math.max(x, y),
  min: (x, y) => Math.min(x, y),
  mod: (x, y, z) => Math.hypot(x, y, z),
  pin: (x, y, z) => (y < x ? x : y > z ? z : y),
  sat2: (x, y, z) => x * Math.sin(Math.atan2(z, y)),
  sin: (x, y) => x * Math.sin(radians(y)),
  sqrt: (x) => Math.sqrt(Math.max(0, x)),
  tan: (x, y) => x * Math.tan(radians(y)),
  val: (x) => x,
}

/** What every shape knows of its own box. */
function ofBox(w: number, h: number): Map<string, number> {
  const ss = Math.min(w, h)
  const known = new Map<string, number>([
    ...Object.entries({ w, h, ss, l: 0, t: 0, r: w, b: h, hc: w / 2, vc: h / 2, ls: Math.max(w, h) }),
    ...Object.entries({ cd2: TURN / 2, cd4: TURN / 4, cd8: TURN / 8 }),
    ...Object.entries({ '3cd4': (3 * TURN) / 4, '3cd8': (3 * TURN) / 8, '5cd8': (5 * TURN) / 8, '7cd8': (7 * TURN) / 8 }),
  ])
  for (const part of [2, 3, 4, 5, 6, 8, 10, 12, 16, 32]) {
    known.set(`wd${part}`, w / part)
    known.set(`hd${part}`, h / part)
    known.set(`ssd${part}`, ss / part)
  }
  return known
}

/**
 * @param guides in their order: each may use those before it
 * @param given values that the shape says itself, by name
 * @returns what a name or a number stands for; 0 for what is not known
 */
export function reckon(guides: readonly Guide[], given: ReadonlyMap<string, number>, width: number, height: number) {
  const known = ofBox(width, height)
  const worth = (word: string | undefined): number => {
    if (word === undefined) return 0
    const value = known.get(word) ?? Number(word)
    return Number.isFinite(value) ? value : 0
  }
  for (const [name, formula] of guides) {
    const [operation = '', x, y, z] = formula.trim().split(/\s+/)
    const value = OPERATIONS[operation]?.(worth(x), worth(y), worth(z)) ?? 0
    known.set(name, given.get(name) ?? (Number.isFinite(value) ? value : 0))
  }
  return worth
}
