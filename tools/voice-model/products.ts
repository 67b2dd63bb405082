/** Products of matrices for training, by the kernel of products.as.ts, and the memory they work in. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const MEGABYTES = 64

interface Exports {
  memory: WebAssembly.Memory
  addProduct(
    a: number,
    aRow: number,
    aColumn: number,
    b: number,
    bRow: number,
    c: number,
    cRow: number,
    m: number,
    depth: number,
    n: number,
  ): void
}

function compiled(): Exports {
  const folder = mkdtempSync(join(tmpdir(), 'products-'))
  const out = join(folder, 'products.wasm')
  const source = join(import.meta.dirname, 'products.as.ts')
  const options = ['--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert', '--initialMemory', String(16 * MEGABYTES)]
  execFileSync('npx', ['--no-install', 'asc', source, ...options, '--outFile', out], { stdio: 'inherit' })
  const module = new WebAssembly.Module(readFileSync(out))
  rmSync(folder, { recursive: true })
  return new WebAssembly.Instance(module, { env: { abort: () => process.exit(1) } }).exports as unknown as Exports
}

const { memory, addProduct } = compiled()
const floats = new Float32Array(memory.buffer)
let next = 1024

/** Values in rows, of 32-bit floats. */
export interface Matrix {
  rows: number
  columns: number
  /** Row by row. */
  values: Float32Array
  /** Of the first value, bytes. */
  at: number
}

export function matrix(rows: number, columns: number): Matrix {
  const at = next
  next += Math.ceil((rows * columns) / 4) * 16
  if (next > memory.buffer.byteLength) throw new Error('The memory for training is too small.')
  return { rows, columns, values: floats.subarray(at / 4, at / 4 + rows * columns), at }
}

/** Rows of a matrix, from one on. */
export const fromRow = ({ columns, values, at }: Matrix, first: number, rows: number): Matrix => ({
  rows,
  columns,
  values: values.subarray(first * columns, (first + rows) * columns),
  at: at + 4 * first * columns,
})

/** `into += a · b`. Rows of `a` and columns of `b` are multiples of 4. */
export function addTimes(a: Matrix, b: Matrix, into: Matrix) {
  addProduct(a.at, 4 * a.columns, 4, b.at, 4 * b.columns, into.at, 4 * into.columns, a.rows, a.columns, b.columns)
}

/** Rows of `a` that stay near while they are summed over. */
const NEAR = 208

/** `into += aᵀ · b`. Columns of both are multiples of 4. */
export function addTransposedTimes(a: Matrix, b: Matrix, into: Matrix) {
  for (let first = 0; first < a.rows; first += NEAR) {
    const count = Math.min(NEAR, a.rows - first)
    const [from, beside] = [a.at + 4 * first * a.columns, b.at + 4 * first * b.columns]
    addProduct(from, 4, 4 * a.columns, beside, 4 * b.columns, into.at, 4 * into.columns, a.columns, count, b.columns)
  }
}

/** @param into as many columns as `a` has rows */
export function transpose(a: Matrix, into: Matrix) {
  for (let i = 0; i < a.rows; i++) for (let j = 0; j < a.columns; j++) into.values[j * a.rows + i] = a.values[i * a.columns + j]!
}
