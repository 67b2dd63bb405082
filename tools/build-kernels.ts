/** Compiles every kernels.as.ts of the core to WebAssembly and writes it as text into wasm.ts beside it, which is committed; `--check` only compares. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { MEMORY_PAGES } from '#core/audio/wasm/memory-map.ts'

/** Folders, and the pages of memory their kernels begin with. */
const KERNELS = [
  { folder: 'core/audio/wasm', pages: MEMORY_PAGES },
  { folder: 'core/captions/align/kernels', pages: 1 },
]

for (const { folder, pages } of KERNELS) {
  const made = mkdtempSync(join(tmpdir(), 'kernels-'))
  const out = join(made, 'kernels.wasm')
  const options = ['--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert', '--initialMemory', String(pages)]
  execFileSync('npx', ['--no-install', 'asc', join(folder, 'kernels.as.ts'), ...options, '--outFile', out], { stdio: 'inherit' })
  const text = `/** Made by tools/build-kernels.ts from kernels.as.ts; not to be edited. */\n// biome-ignore format: data\nexport const KERNELS_WASM = '${readFileSync(out).toString('base64')}'\n`
  rmSync(made, { recursive: true })
  const committed = join(folder, 'wasm.ts')
  if (!process.argv.includes('--check')) writeFileSync(committed, text)
  else if (readFileSync(committed, 'utf8') !== text) {
    console.error(`${committed} is not what kernels.as.ts compiles to. Run: npm run build:kernels`)
    process.exit(1)
  }
}
