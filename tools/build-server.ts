/** Bundles server, worker and command line to plain JavaScript, so that they start in a moment. */
import { cpSync, rmSync } from 'node:fs'
import { build } from 'esbuild'

rmSync('dist/server', { recursive: true, force: true })
await build({
  entryPoints: {
    main: 'server/main.ts',
    worker: 'server/workers/worker.ts',
    fill: 'demo/fill.ts',
    platform: 'demo/platform/main.ts',
    cli: 'cli/main.ts',
    import: 'server/import/child.ts',
    launcher: 'server/media/launch/launcher.ts',
    'recogniser-pocketsphinx': 'server/speech/recognisers/pocketsphinx/main.ts',
    'recogniser-model': 'server/speech/recognisers/model.ts',
    'recogniser-practice': 'server/speech/recognisers/practice.ts',
  },
  outdir: 'dist/server',
  bundle: true,
  // what the entries share lies in files of its own, and what is loaded later is loaded later
  splitting: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
})
cpSync('core/audio/denoise/voice-model.bin', 'dist/server/voice-model.bin')
cpSync('server/db/migrations', 'dist/server/migrations', { recursive: true })
