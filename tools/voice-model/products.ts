/** Products of matrices for training, by the BLAS of Debian's libopenblas0. */
import koffi from 'koffi'

const [ROW_MAJOR, AS_IT_IS, TRANSPOSED] = [101, 111, 112]
const blas = koffi.load('libopenblas.so.0')
// the products are small: more threads would only wait for each other
blas.func('void openblas_set_num_threads(int)')(1)
const sgemm = blas.func(
  'void cblas_sgemm(int, int, int, int, int, int, float, const float *, int, const float *, int, float, float *, int)',
)

/** Values in rows, of 32-bit floats. */
export interface Matrix {
  rows: number
  columns: number
  /** Row by row. */
  values: Float32Array
}

export const matrix = (rows: number, columns: number): Matrix => ({ rows, columns, values: new Float32Array(rows * columns) })

/** Rows of a matrix, from one on. */
export const fromRow = ({ columns, values }: Matrix, first: number, rows: number): Matrix => ({
  rows,
  columns,
  values: values.subarray(first * columns, (first + rows) * columns),
})

/** `into += a · b`. */
export function addTimes(a: Matrix, b: Matrix, into: Matrix) {
  const sizes = [into.rows, into.columns, a.columns]
  sgemm(ROW_MAJOR, AS_IT_IS, AS_IT_IS, ...sizes, 1, a.values, a.columns, b.values, b.columns, 1, into.values, into.columns)
}

/** `into += a · bᵀ`. */
export function addTimesTransposed(a: Matrix, b: Matrix, into: Matrix) {
  const sizes = [into.rows, into.columns, a.columns]
  sgemm(ROW_MAJOR, AS_IT_IS, TRANSPOSED, ...sizes, 1, a.values, a.columns, b.values, b.columns, 1, into.values, into.columns)
}

/** `into += aᵀ · b`. */
export function addTransposedTimes(a: Matrix, b: Matrix, into: Matrix) {
  const sizes = [into.rows, into.columns, a.rows]
  sgemm(ROW_MAJOR, TRANSPOSED, AS_IT_IS, ...sizes, 1, a.values, a.columns, b.values, b.columns, 1, into.values, into.columns)
}
