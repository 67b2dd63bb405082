/** Compiles core/audio/kernels/kernels.as.ts to WebAssembly and writes it as text into wasm.ts, which is committed; `--check` only compares. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const folder = mkdtempSync(join(tmpdir(), 'kernels-'))
const out = join(folder, 'kernels.wasm')
const options = ['--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert', '--initialMemory', '56']
execFileSync('npx', ['--no-install', 'asc', 'core/audio/kernels/kernels.as.ts', ...options, '--outFile', out], {
  stdio: 'inherit',
})
const text = `/** Made by tools/build-kernels.ts from kernels.as.ts; not to be edited. */\n// biome-ignore format: data\nexport const KERNELS_WASM = '${readFileSync(out).toString('base64')}'\n`
rmSync(folder, { recursive: true })
const committed = 'core/audio/kernels/wasm.ts'
if (!process.argv.includes('--check')) writeFileSync(committed, text)
else if (readFileSync(committed, 'utf8') !== text) {
  console.error(`${committed} is not what kernels.as.ts compiles to. Run: npm run build:kernels`)
  process.exit(1)
}
