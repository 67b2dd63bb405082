/** Compiles core/audio/kernels/kernels.as.ts to WebAssembly and writes it as text into wasm.ts, which is committed. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const folder = mkdtempSync(join(tmpdir(), 'kernels-'))
const out = join(folder, 'kernels.wasm')
const options = ['--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert', '--initialMemory', '32']
execFileSync('npx', ['--no-install', 'asc', 'core/audio/kernels/kernels.as.ts', ...options, '--outFile', out], {
  stdio: 'inherit',
})
writeFileSync(
  'core/audio/kernels/wasm.ts',
  `/** Made by tools/build-kernels.ts from kernels.as.ts; not to be edited. */\n// biome-ignore format: data\nexport const KERNELS_WASM = '${readFileSync(out).toString('base64')}'\n`,
)
rmSync(folder, { recursive: true })
