/**
 * Makes one voice model of several moments of a training: the mean of their weights hears a little better than any of them.
 * Usage: npm run average:voice-model -- OUT SHARE:FILE SHARE:FILE ...; files as train.ts writes them, every 1000 updates anew: keep copies. Shares that come to 1 together.
 *
 * @see Izmailov et al. 2018, "Averaging Weights Leads to Wider Optima and Better Generalization" (from memory)
 */
import { resolve } from 'node:path'
import { averaged, readWeights, writeWeights } from './weights.ts'

const [out, ...parts] = process.argv.slice(2)
const given = parts.map((part) => {
  const colon = part.indexOf(':')
  return { share: Number(part.slice(0, colon)), file: resolve(part.slice(colon + 1)) }
})
if (!out || Math.abs(given.reduce((sum, { share }) => sum + share, 0) - 1) > 1e-6)
  throw new Error('Usage: npm run average:voice-model -- OUT SHARE:FILE SHARE:FILE ... (shares come to 1 together)')
const models = given.map(({ file }) => readWeights(file))
writeWeights(
  out,
  averaged(
    given.map(({ share }) => share),
    models,
  ),
)
