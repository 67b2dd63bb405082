/** Writes each script and style of the built web side a second time, compressed, so that no server does it again for every request. */
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'

const ASSETS = 'dist/web/assets'
/** A shorter file gains less than its headers cost. */
const SHORTEST = 1024

for (const name of readdirSync(ASSETS)) {
  const path = join(ASSETS, name)
  if (!/\.(js|css|svg)$/.test(name) || statSync(path).size < SHORTEST) continue
  const content = readFileSync(path)
  const params = { [constants.BROTLI_PARAM_MODE]: constants.BROTLI_MODE_TEXT, [constants.BROTLI_PARAM_QUALITY]: 9 }
  writeFileSync(`${path}.br`, brotliCompressSync(content, { params }))
  writeFileSync(`${path}.gz`, gzipSync(content, { level: 9 }))
}
